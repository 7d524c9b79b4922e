#pragma once
// Edits of the builder's wires.

#include "core/build/build.h"
#include "core/build/edit.h"

#include <functional>

namespace ember::wires {

/// These wires with `change` made to each: as they stand in the builder's list, or as new entries of it.
Edit changeWires(const Build& build, std::string name, const std::vector<std::string>& ids,
                 const std::function<void(Wire&)>& change);

/// The entry of the builder's list for a wire, or nullptr.
const Wire* wireIn(const Build& build, const std::string& id);

/// What follows a joint's present state, and what comes before it; the first and the last stay.
Joint next(Joint joint);
Joint previous(Joint joint);

} // namespace ember::wires
