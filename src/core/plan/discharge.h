#pragma once
// What every capacitor still holds after switch-off, at worst: by paths that are sure to be there, and by no others.

#include "core/base/result.h"
#include "core/build/build.h"
#include "figures.h"

#include <stop_token>

namespace ember::plan {

/// The supply with its guaranteed paths alone: bleeders and balancing resistors at the top of their tolerance,
/// resistors and chokes of the chain. No leakage of a capacitor, no load; switches and fuses open; capacitances at the
/// top of their tolerance.
Supply guaranteedPaths(const Supply& supply);

inline constexpr double dischargeFollowed = 1200; ///< [s] for which dischargeOf() looks
/// Every capacitor of the supply and of the bias supply, from the highest volts of a solved steady state on, with the
/// valves cold. What has not fallen in dischargeFollowed is NaN.
Expected<Discharge> dischargeOf(const Build& build, const Steady& steady, std::stop_token stop = {});

/// A resistor to take a capacitor down by hand. Its watts follow from the short-time overload that IEC 60115-1 tests:
/// 2.5 times the rated volts for 5 s, which is 6.25 times the watts.
struct HandDischarge {
    double ohms = 0, watts = 0; ///< E12; a standard rating, 5 W at least
    double seconds = 0;         ///< [s] until 5 V are left
};
HandDischarge dischargeByHand(double farads, double volts);

} // namespace ember::plan
