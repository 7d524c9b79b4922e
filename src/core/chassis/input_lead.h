#pragma once
// How far an input is from its first grid.

#include "assembly.h"

#include "core/build/build.h"

namespace ember::chassis {

/// Screened lead from an input of `channel` to its first grid, by way of the volume control where one is placed, at
/// right angles, with 23 mm at each end to dress and strip [m]; NaN when it is not placed.
double inputLead(const Build& build, std::size_t channel);

} // namespace ember::chassis
