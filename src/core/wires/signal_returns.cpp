#include "signal_returns.h"

namespace ember::wires {

using Complex = std::complex<double>;

std::vector<SignalReturn> signalReturns(const Harness& h, const GroundNetwork& network,
                                        const std::vector<ChannelReach>& reaches) {
    std::vector<SignalReturn> out;
    const Eigen::VectorXcd none = Eigen::VectorXcd::Zero(static_cast<Eigen::Index>(network.branches.size()));
    for (const ChannelReach& driven : reaches) {
        SignalReturn s;
        s.channel = driven.channel;
        s.reached.assign(reaches.size(), plan::unknown);
        if (driven.signal.amps.size() != network.points) {
            out.push_back(std::move(s));
            continue;
        }
        Eigen::VectorXcd amps(static_cast<Eigen::Index>(network.points));
        for (std::size_t p = 0; p < network.points; ++p) amps[static_cast<Eigen::Index>(p)] = driven.signal.amps[p];
        const Eigen::VectorXcd volts = groundVolts(network, amps, none, signalHertz);
        for (std::size_t c = 0; c < reaches.size(); ++c) {
            const auto& grounds = reaches[c].signal.at.grounds;
            Complex sum = 0;
            for (std::size_t p = 0; p < grounds.size(); ++p) sum += grounds[p] * volts[static_cast<Eigen::Index>(p)];
            s.reached[c] = std::abs(sum);
        }
        for (std::size_t g = 0; g < network.branches.size(); ++g)
            s.wireAmps[h.runs[network.branches[g].run].wire.id] =
                std::abs(branchAmps(network, g, volts, 0, signalHertz));
        out.push_back(std::move(s));
    }
    return out;
}

} // namespace ember::wires
