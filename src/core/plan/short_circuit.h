#pragma once
// The supply shorted: what flows when the first node of the high voltage touches the chassis.

#include "steady.h"

namespace ember::plan {

/// The supply's own circuit in its steady state with `ohms` from the rectifier's output to ground, everything warm, the
/// stages drawing nothing. A rectifier valve is taken as good until its law ends; a real one may arc over.
inline constexpr double shortOhms = 0.1; ///< of bond, returns and the fault itself, about
Expected<ShortCircuit> shortedRail(const Build& build, const Catalogue& catalogue, double mainsVolts, double ohms);

} // namespace ember::plan
