#pragma once
// DC of one channel at the volts of its supply nodes, for one volts after another.

#include "channel_circuit.h"
#include "figures.h"

#include "core/circuit/operating_point.h"

#include <memory>

namespace ember::plan {

class ChannelDc {
  public:
    ChannelDc(const Channel& channel, const Catalogue& catalogue);
    /// A nearby supply is solved fastest. A Problem names the channel.
    Expected<ChannelPoint> at(const ChannelSupply& supply);

  private:
    std::string name;
    double smallEmission, emissionA, emissionB; ///< of the valves themselves
    ChannelCircuit circuit;
    std::unique_ptr<circuit::System> system; ///< the solver keeps a reference to it
    circuit::DcSolver solver;
};

} // namespace ember::plan
