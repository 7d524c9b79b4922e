#pragma once
// The part of a capture in which a steady signal plays.

#include <span>

namespace ember::signal {

/// Without the silence and the fades at its ends: the longest stretch of blocks of 0.1 s within 5 % of the loud ones'
/// RMS, a block less at each end. All of it where nothing stands out so.
std::span<const double> steadyPart(std::span<const double> samples, double sampleRate);

} // namespace ember::signal
