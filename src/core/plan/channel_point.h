#pragma once
// DC of one channel at the volts of its supply nodes, for one volts after another.

#include "channel_circuit.h"
#include "figures.h"

#include "core/circuit/operating_point.h"

#include <memory>

namespace ember::plan {

class ChannelDc {
  public:
    ChannelDc(const Build& build, const Catalogue& catalogue, std::size_t channel, const Miswiring& wiring = {});
    /// A nearby supply is solved fastest. A Problem names the channel.
    Expected<ChannelPoint> at(const ChannelSupply& supply);
    [[nodiscard]] bool biased() const { return !held.lines.empty(); } ///< whether a bias line leads in

  private:
    std::string name;
    schematic::ChannelSchematic held;
    schematic::Circuit circuit;
    std::vector<double> ownEmission;         ///< by valve: of the bottle as tested
    std::unique_ptr<circuit::System> system; ///< the solver keeps a reference to it
    circuit::DcSolver solver;
};

} // namespace ember::plan
