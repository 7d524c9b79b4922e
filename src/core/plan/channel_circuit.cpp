#include "channel_circuit.h"

#include <cmath>

namespace ember::plan {

using namespace circuit;

ChannelCircuit channelCircuit(const Channel& ch, const Catalogue& catalogue, const ChannelSupply& supply,
                              const Waveform& drive) {
    ChannelCircuit c;
    Netlist& n = c.netlist;
    const ValveType& small = *catalogue.valve(ch.small.type);
    const OutputPair& pair = ch.pair;

    const auto rail = [&](const char* name, double volts, DeviceId& id) {
        const Node node = n.node(name);
        id = n.add(VoltageSource{node, ground, {volts}});
        return node;
    };
    const Node plateRail = rail("plate rail", supply.plate, c.railPlate);
    const Node screenRail = rail("screen rail", supply.screen, c.railScreen);
    const Node smallRail = rail("small rail", supply.small, c.railSmall);

    // Voltage stage.
    c.input = n.node("input");
    c.source = n.add(VoltageSource{c.input, ground, drive});
    n.add(Resistor{c.input, ground, ch.voltageStage.gridLeak.resistance});
    c.plate1 = n.node("plate 1");
    c.cathode1 = n.node("cathode 1");
    n.add(Resistor{smallRail, c.plate1, ch.voltageStage.plate.resistance});
    n.add(Resistor{c.cathode1, ground, ch.voltageStage.cathode.resistance});
    const CapacitorPart& bypass = ch.voltageStage.bypass;
    n.add(Capacitor{c.cathode1, ground, bypass.capacitance, bypass.esr, bypass.leakageResistance});
    const double smallEmission = ch.small.emission * supply.smallEmission;
    c.first = n.add(NonlinearDevice{{c.input, c.plate1, c.cathode1}, small.law, smallEmission});

    // Split load, its grid on the first plate.
    c.plate2 = n.node("plate 2");
    c.cathode2 = n.node("cathode 2");
    n.add(Resistor{smallRail, c.plate2, ch.splitLoad.plate.resistance});
    n.add(Resistor{c.cathode2, ground, ch.splitLoad.cathode.resistance});
    c.second = n.add(NonlinearDevice{{c.plate1, c.plate2, c.cathode2}, small.law, smallEmission});

    // Output pair.
    const auto side = [&](Node from, const CapacitorPart& coupling, const ResistorPart& leak,
                          const ResistorPart& stopper, const ResistorPart& screenResistor, const ResistorPart& sense,
                          const Valve& valve, double bias, DeviceId& biasSource, Node& grid, Node& screen, Node& plate,
                          Node& cathode) {
        const Node junction = n.node("grid junction"), biasNode = n.node("bias");
        grid = n.node("grid");
        screen = n.node("screen");
        plate = n.node("plate");
        cathode = n.node("cathode");
        n.add(Capacitor{from, junction, coupling.capacitance, coupling.esr, coupling.leakageResistance});
        biasSource = n.add(VoltageSource{biasNode, ground, {bias}});
        n.add(Resistor{junction, biasNode, leak.resistance});
        n.add(Resistor{junction, grid, stopper.resistance});
        n.add(Resistor{screenRail, screen, screenResistor.resistance});
        n.add(Resistor{cathode, ground, sense.resistance});
        return n.add(NonlinearDevice{
            {grid, screen, plate, cathode}, catalogue.valve(valve.type)->law, valve.emission * supply.outputEmission});
    };
    c.a = side(c.plate2, pair.couplingA, pair.gridLeakA, pair.stopperA, pair.screenA, pair.senseA, pair.a, supply.biasA,
               c.biasA, c.gridA, c.screenA, c.plateA, c.cathodeA);
    c.b = side(c.cathode2, pair.couplingB, pair.gridLeakB, pair.stopperB, pair.screenB, pair.senseB, pair.b,
               supply.biasB, c.biasB, c.gridB, c.screenB, c.plateB, c.cathodeB);

    // Output transformer: halves from the centre, secondary to the load. Leakage is split over the two halves.
    const OutputTransformer& t = pair.transformer;
    c.output = n.node("output");
    const double half = std::sqrt(t.primaryImpedance / t.loadImpedance) / 2;
    Transformer iron;
    iron.inductance = t.primaryInductance / 4;
    iron.windings.push_back({plateRail, c.plateA, half, t.primaryResistanceA, t.leakageInductance / 4});
    iron.windings.push_back({c.plateB, plateRail, half, t.primaryResistanceB, t.leakageInductance / 4});
    iron.windings.push_back({c.output, ground, 1, t.secondaryResistance});
    n.add(iron);
    n.add(Resistor{c.output, ground, pair.load});
    return c;
}

} // namespace ember::plan
