#pragma once
// What the bias adjusters reach, and how cold they must reach before a first power-up.

#include "figures.h"

#include "core/build/build.h"
#include "core/catalogue/catalogue.h"

namespace ember::plan {

/// At the wipers [V to ground], of a solved steady state; the rail is taken as it stands, whatever the adjusters draw
/// from it (they draw the same at every position but for the fail-safe's part).
struct BiasRange {
    double coldest = unknown, hottest = unknown; ///< negative
    double openWiper = unknown;                  ///< where a lifted wiper lets the grid fall; NaN: it floats
};
BiasRange biasRange(const BiasSupply& bias, const Steady& steady);

/// Of its plate's watts, what an output valve may burn at a first start: a start this cold leaves time to read meters.
inline constexpr double coldShare = 0.25;

/// Grid volts, to the cathode, at which an average new valve of this kind burns `watts` at its plate with these volts
/// on plate and screen (of a triode the screen is not asked). NaN: no plate volts.
double gridForWatts(const TypeSection& valve, double plate, double screen, double watts);

/// Volts at an output grid, from its cathode, at which an average new valve burns coldShare of its plate's limit, with
/// the plate and screen of the solved state: of the adjusted output valves the one that wants the most. NaN: none is
/// adjusted, or not solved.
double coldEnough(const Build& build, const Catalogue& catalogue, const Steady& steady);

} // namespace ember::plan
