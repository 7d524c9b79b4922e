#pragma once
// The signal's own currents in the returns: what a channel at work makes in the wires, and where that arrives.

#include "ground_network.h"
#include "reach.h"

#include <map>

namespace ember::wires {

/// One channel driven at 1 kHz.
struct SignalReturn {
    std::size_t channel = 0;
    /// Volts at each channel's output for 1 V at this one's, by way of the returns alone; at its own what comes back.
    std::vector<double> reached;
    std::map<std::string, double> wireAmps; ///< RMS [A] by ground wire, for 1 V RMS at its output
};

/// From the channels' circuits: each return's current for 1 V at the output, through the return network, back into
/// every channel. Small signals, so of a class B pair the mean of its halves; the halves' even harmonics are left out.
std::vector<SignalReturn> signalReturns(const Harness& harness, const GroundNetwork& network,
                                        const std::vector<ChannelReach>& reaches);

} // namespace ember::wires
