#pragma once
// Edits of the builder's wires.

#include "harness.h"

#include "core/build/build.h"
#include "core/build/edit.h"

#include <functional>

namespace ember::wires {

/// These wires with `change` made to each: as they stand in the builder's list, or as new entries of it.
Edit changeWires(const Build& build, std::string name, const std::vector<std::string>& ids,
                 const std::function<void(Wire&)>& change);

/// The entry of the builder's list for a wire, or nullptr.
const Wire* wireIn(const Build& build, const std::string& id);

/// Terminals of the wire's net that it could go by, the least detour first, at most `most`.
std::vector<std::string> waypointsOf(const Harness& harness, const Run& run, std::size_t most = 8);
/// The wire in two: to `terminal` and on from there, with its gauge, colour and insulation.
Edit byWayOf(const Build& build, const Run& run, const std::string& terminal);
/// What the builder said of the wire is forgotten; nothing where nothing was said, or where it is the builder's own.
std::optional<Edit> asProposed(const Build& build, const Run& run);

/// What follows a joint's present state, and what comes before it; the first and the last stay.
Joint next(Joint joint);
Joint previous(Joint joint);

} // namespace ember::wires
