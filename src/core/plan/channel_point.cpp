#include "channel_point.h"

#include "steady.h"

namespace ember::plan {

using namespace circuit;

ChannelDc::ChannelDc(const Channel& ch, const Catalogue& catalogue)
    : name(ch.name),
      smallEmission(ch.small.emission),
      emissionA(ch.pair.a.emission),
      emissionB(ch.pair.b.emission),
      circuit(channelCircuit(ch, catalogue, {})),
      system(std::make_unique<System>(assemble(circuit.netlist))),
      solver(*system) {}

Expected<ChannelPoint> ChannelDc::at(const ChannelSupply& supply) {
    const ChannelCircuit& c = circuit;
    const System& sys = *system;
    for (const auto& [source, volts] :
         {std::pair{c.railPlate, supply.plate}, std::pair{c.railScreen, supply.screen},
          std::pair{c.railSmall, supply.small}, std::pair{c.biasA, supply.biasA}, std::pair{c.biasB, supply.biasB}})
        solver.setSource(source, volts);
    for (const auto& [device, emission] :
         {std::pair{c.first, smallEmission * supply.smallEmission},
          std::pair{c.second, smallEmission * supply.smallEmission}, std::pair{c.a, emissionA * supply.outputEmission},
          std::pair{c.b, emissionB * supply.outputEmission}})
        solver.ports().setEmission(sys.portOf[static_cast<std::size_t>(device)], emission);
    const auto op = solver.solve();
    if (!op) return Problem{name, op.problem().sentence};
    ChannelPoint p;
    p.plate1 = op->volts(c.plate1);
    p.grid2 = p.plate1;
    p.cathode1 = op->volts(c.cathode1);
    p.plate2 = op->volts(c.plate2);
    p.cathode2 = op->volts(c.cathode2);
    p.plateA = op->volts(c.plateA);
    p.plateB = op->volts(c.plateB);
    p.screenA = op->volts(c.screenA);
    p.screenB = op->volts(c.screenB);
    p.gridA = op->volts(c.gridA);
    p.gridB = op->volts(c.gridB);
    p.senseA = op->volts(c.cathodeA);
    p.senseB = op->volts(c.cathodeB);
    p.smallAmps1 = op->amps(sys, c.first, 1);
    p.smallAmps2 = op->amps(sys, c.second, 1);
    p.screenAmpsA = op->amps(sys, c.a, 1);
    p.plateAmpsA = op->amps(sys, c.a, 2);
    p.screenAmpsB = op->amps(sys, c.b, 1);
    p.plateAmpsB = op->amps(sys, c.b, 2);
    p.plateWattsA = (p.plateA - p.senseA) * p.plateAmpsA;
    p.plateWattsB = (p.plateB - p.senseB) * p.plateAmpsB;
    p.screenWattsA = (p.screenA - p.senseA) * p.screenAmpsA;
    p.screenWattsB = (p.screenB - p.senseB) * p.screenAmpsB;
    // A source's branch current runs into it; what the channel draws is the opposite.
    const auto drawn = [&](DeviceId id) { return -op->x[sys.branchOf[static_cast<std::size_t>(id)]]; };
    p.railPlate = drawn(c.railPlate);
    p.railScreen = drawn(c.railScreen);
    p.railSmall = drawn(c.railSmall);
    return p;
}

ChannelSupply supplyOf(const Build& b, const Steady& s, std::size_t index) {
    const Channel& ch = b.channels[index];
    const auto node = [&](int n) { return s.nodes[static_cast<std::size_t>(n - 1)].mean; };
    ChannelSupply out{node(ch.plateNode), node(ch.screenNode), node(ch.smallNode)};
    if (s.wipers.size() > 2 * index + 1) {
        out.biasA = s.wipers[2 * index];
        out.biasB = s.wipers[2 * index + 1];
    }
    out.smallEmission = s.conditions.smallIn ? 1 : 0;
    out.outputEmission = s.conditions.outputsIn ? 1 : 0;
    for (const HeaterFigures& h : s.heaters) {
        if (h.valve == ch.small.type) out.smallEmission = h.emission;
        if (h.valve == ch.pair.a.type) out.outputEmission = h.emission;
    }
    return out;
}

} // namespace ember::plan
