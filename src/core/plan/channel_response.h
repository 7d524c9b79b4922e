#pragma once
// What a channel does over frequency for small signals, its load on; and what its output is, the load taken off.

#include "stage_figures.h"

namespace ember::plan {

struct ChannelResponse {
    std::vector<double> hertz;      ///< twelve an octave, 2 Hz to 200 kHz
    std::vector<double> db;         ///< of the gain at 1 kHz
    std::vector<double> degrees;    ///< of the output against the input, without jumps
    std::vector<double> outputOhms; ///< magnitude
    ResponseEnds ends;
};
/// Empty where the channel has no operating point or no gain at 1 kHz.
ChannelResponse channelResponse(const Build& build, const Catalogue& catalogue, const Steady& steady,
                                std::size_t channel);

} // namespace ember::plan
