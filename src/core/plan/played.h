#pragma once
// Any signal through a channel over time, the supply sagging and recovering under it.

#include "channel_point.h"
#include "steady.h"

#include <functional>

namespace ember::plan {

/// What goes into a channel's input.
struct PlayedSignal {
    std::vector<double> volts; ///< evenly spaced; eight samples at least to the highest frequency's period
    double rate = 192000;      ///< [Hz] of `volts`
    double outputRate = 96000; ///< [Hz] of what comes out; the longest step of the computation is its period
    Miswiring wiring = {};
    std::function<void(double share)> progress = {};
    std::stop_token stop = {};
};
struct Played {
    std::vector<double> volts;              ///< across the load, as long as the signal
    std::vector<std::vector<double>> nodes; ///< of the supply, each node's mean over every `block` [V]
    double block = 0.01;                    ///< [s] half a period of the mains
};
/// From the steady state on. The channel and the supply's chain are run in turn, block by block: the channel at the
/// nodes' means of the block before, the chain under what the channel drew. Ripple is left to the hum budget. A Problem
/// names the channel and the time.
Expected<Played> play(const Build& build, const Catalogue& catalogue, const Steady& steady, std::size_t channel,
                      const PlayedSignal& signal);

} // namespace ember::plan
