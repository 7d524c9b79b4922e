#pragma once
// The alternating flux in a choke's core, for what leaves it.

#include "steady.h"

namespace ember::plan {

/// A gapped core leaks so many times what one without a gap does for the same flux: what drives flux through the air is
/// the magnetomotive force along it, which in a gap is three to five times that of closed iron near its knee (1.3 T
/// over a path of 0.2 m in sheet at 400 A/m: 80 A; across the gap of a choke of 10 H and 0.1 A: 300 A). A choice.
inline constexpr double gapLeak = 4;

/// Flux of section `k`, a choke, at each harmonic of the mains, RMS, over the RMS of a sine whose crest is its rated
/// flux L I: from the ripple across it, volts over frequency. Empty where it is no choke or has no ripple.
Phasors alternatingFlux(const Build& build, const Steady& steady, std::size_t k);
/// Root of the sum of its squares.
double alternatingShare(const Build& build, const Steady& steady, std::size_t k);

} // namespace ember::plan
