#pragma once
// Whether two builds hold the same, told in microseconds: every value in the file's order, as bytes.

#include "build.h"

#include <string>

namespace ember {

/// Equal for two builds exactly where their files would be, unknown keys included.
std::string flat(const Build& build);
std::string flat(const std::vector<OwnType>& types);
/// Of what the electrical figures depend on: without chassis, wires, log and waivers.
std::string flatCircuit(const Build& build);

} // namespace ember
