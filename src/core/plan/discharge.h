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
inline constexpr double slowDischarge = 60;       ///< [s] to 50 V: beyond it, take it down by hand
/// Every capacitor of the supply and of the bias supply, from the highest volts of a solved steady state on, with the
/// valves cold; a string of capacitors is one, with the volts of the whole string. What has not fallen in
/// dischargeFollowed is NaN. With what takes them down by hand where one is slow.
Expected<Discharge> dischargeOf(const Build& build, const Steady& steady, std::stop_token stop = {});

inline constexpr double extraLowVolts = 60; ///< [V] IEC 61140:2016: where extra-low voltage ends, direct current
inline constexpr double handVolts = 5;      ///< [V] left after a discharge by hand

/// A resistor that takes the capacitors down by hand, and how long it is held where. One is chosen for the sum of what
/// is charged; it is held across each capacitor of `held` in turn, and the whole network is solved with it there: the
/// others refill the one that it is held on. Its watts follow from the short-time overload that IEC 60115-1 tests, 2.5
/// times the rated volts for 5 s, which is 6.25 times the watts; after these 5 s they are the rated ones. Above the
/// limiting volts of one body (500 V) it is made of equal ones in series.
Expected<HandDischarge> dischargeByHand(const Build& build, const Steady& worst, std::stop_token stop = {});

/// "Hold 22 kΩ, 5 W, across plus and minus of C1 for 35 s, with insulated clips. ..."; where there is none, to measure.
std::string inWords(const std::optional<HandDischarge>& hand);

/// The supply at its highest volts at these conditions: no valve draws current, no lamp takes volts, the mains at
/// `conditions` or at the build's high end, whichever is more.
Conditions worstCharged(const Build& build, const Conditions& conditions);

} // namespace ember::plan
