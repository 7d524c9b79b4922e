#include "channel_circuit.h"

namespace ember::plan {

using namespace circuit;
using namespace schematic;

HeldChannel heldChannel(const Channel& ch, const Catalogue& catalogue, const ChannelSupply& supply,
                        const Waveform& drive) {
    HeldChannel h;
    Schematic& s = h.schematic;
    // Each supply node by itself, also where two are one node: what each of them gives is asked for.
    const auto held = [&](const char* name, NetKind kind, double volts, PartId& id) {
        const NetId net = s.net(name, kind);
        id = s.add(voltage(name, net, Schematic::ground, {volts}));
        return net;
    };
    ChannelNets nets;
    nets.plates = held("plate supply", NetKind::HighVoltage, supply.plate, h.railPlate);
    nets.screens = held("screen supply", NetKind::HighVoltage, supply.screen, h.railScreen);
    nets.small = held("small valves' supply", NetKind::HighVoltage, supply.small, h.railSmall);
    nets.biasA = held("bias a", NetKind::Bias, supply.biasA, h.biasA);
    nets.biasB = held("bias b", NetKind::Bias, supply.biasB, h.biasB);
    h.source = s.add(voltage("input", s.net(inputNet(ch)), Schematic::ground, drive));
    addChannel(s, ch, "", catalogue, nets, {supply.smallEmission, supply.outputEmission});
    h.small = *s.find(ch.small.id);
    h.a = *s.find(ch.pair.a.id);
    h.b = *s.find(ch.pair.b.id);
    h.output = *s.findNet(outputNet(ch));
    return h;
}

ChannelCircuit channelCircuit(const Channel& ch, const Catalogue& catalogue, const ChannelSupply& supply,
                              const Waveform& drive) {
    const HeldChannel h = heldChannel(ch, catalogue, supply, drive);
    Circuit made = circuitOf(h.schematic);
    ChannelCircuit c;
    const auto electrode = [&](PartId bottle, std::size_t section, std::size_t at) {
        const Part& p = h.schematic[bottle];
        const auto& pins = std::get<Bottle>(p.element).sections[section].pins;
        return made.nodes[static_cast<std::size_t>(p.pins[static_cast<std::size_t>(pins[at])].net.index)];
    };
    const auto device = [&](PartId p, std::size_t k = 0) { return made.devices[static_cast<std::size_t>(p.index)][k]; };
    c.input = electrode(h.small, 0, 0);
    c.plate1 = electrode(h.small, 0, 1), c.cathode1 = electrode(h.small, 0, 2);
    c.plate2 = electrode(h.small, 1, 1), c.cathode2 = electrode(h.small, 1, 2);
    c.gridA = electrode(h.a, 0, 0), c.screenA = electrode(h.a, 0, 1);
    c.plateA = electrode(h.a, 0, 2), c.cathodeA = electrode(h.a, 0, 3);
    c.gridB = electrode(h.b, 0, 0), c.screenB = electrode(h.b, 0, 1);
    c.plateB = electrode(h.b, 0, 2), c.cathodeB = electrode(h.b, 0, 3);
    c.output = made.nodes[static_cast<std::size_t>(h.output.index)];
    c.source = device(h.source), c.railPlate = device(h.railPlate), c.railScreen = device(h.railScreen);
    c.railSmall = device(h.railSmall), c.biasA = device(h.biasA), c.biasB = device(h.biasB);
    c.first = device(h.small, 0), c.second = device(h.small, 1), c.a = device(h.a), c.b = device(h.b);
    c.netlist = std::move(made.netlist);
    return c;
}

} // namespace ember::plan
