#include "supply_circuit.h"

#include "heater.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember::plan {

using namespace circuit;

std::vector<HeaterGroup> heaterGroups(const Build& b, const Catalogue& catalogue, const Conditions& c) {
    std::vector<HeaterGroup> groups;
    const auto add = [&](const char* feeds, const std::string& type, const Heater& heater) {
        const auto& windings = b.transformer.heaters;
        const auto at =
            std::find_if(windings.begin(), windings.end(), [&](const HeaterWinding& w) { return w.feeds == feeds; });
        if (at == windings.end()) return;
        const auto winding = static_cast<std::size_t>(at - windings.begin());
        for (HeaterGroup& g : groups)
            if (g.winding == winding && g.type == type) {
                g.law = heaterLaw(heater, ++g.count);
                return;
            }
        groups.push_back({winding, type, 1, heaterLaw(heater, 1)});
    };
    const RectifierType* rectifier = catalogue.rectifier(b.supply.rectifier.type);
    if (rectifier && rectifier->vacuum && c.rectifierIn) add("rectifier", b.supply.rectifier.type, rectifier->heater);
    for (const Channel& ch : b.channels) {
        const auto valve = [&](const Valve& v, bool in) {
            const ValveType* type = catalogue.valve(v.type);
            if (type && in) add("signal", v.type, type->heater);
        };
        valve(ch.small, c.smallIn);
        valve(ch.pair.a, c.outputsIn);
        valve(ch.pair.b, c.outputsIn);
    }
    return groups;
}

DeviceId addRectifier(Netlist& n, const RectifierType& type, double emission, Node anode, Node cathode) {
    return type.vacuum ? n.addVacuumRectifier(anode, cathode, type.perveance, emission)
                       : n.addDiode(anode, cathode, type.junction, type.seriesOhms);
}

void addChain(Netlist& n, const Supply& supply, std::vector<Node>& rails, std::vector<DeviceId>& devices) {
    for (const Section& s : supply.sections) {
        const Node here = rails.back();
        if (s.kind == SectionKind::Capacitor) {
            devices.push_back(n.add(Capacitor{here, ground, s.capacitance, s.esr, s.leakageResistance}));
            continue;
        }
        rails.push_back(n.node(fmt::format("B+{}", rails.size() + 1)));
        devices.push_back(s.kind == SectionKind::Resistor
                              ? n.add(Resistor{here, rails.back(), s.resistance})
                              : n.add(Inductor{here, rails.back(), s.inductance, s.resistance}));
    }
    for (const Bleeder& bleeder : supply.bleeders)
        n.add(Resistor{rails[static_cast<std::size_t>(bleeder.node - 1)], ground, bleeder.resistor.resistance});
}

namespace {

/// Winding, diode towards it, reservoir, series resistor, second capacitor, adjusters: all below ground.
void addBias(SupplyCircuit& s, const Build& b, const Catalogue& catalogue, const Conditions& c, Node winding) {
    Netlist& n = s.netlist;
    const BiasSupply& bias = b.bias;
    s.biasReservoir = n.node("bias reservoir");
    s.biasRail = n.node("bias rail");
    const RectifierType* diode = catalogue.rectifier(bias.diode);
    addRectifier(n, diode ? *diode : *catalogue.rectifier("silicon"), 1, s.biasReservoir, winding);
    const auto capacitor = [&](Node node, const CapacitorPart& p) {
        n.add(Capacitor{ground, node, p.capacitance, p.esr, p.leakageResistance});
    };
    capacitor(s.biasReservoir, bias.reservoir);
    n.add(Resistor{s.biasReservoir, s.biasRail, bias.series.resistance});
    capacitor(s.biasRail, bias.second);
    const auto adjuster = [&](double position) {
        const double p = c.coldest ? 1 : position;
        const Node wiper = n.node("wiper"), floor = n.node("floor");
        n.add(Resistor{s.biasRail, wiper, std::max(1.0, (1 - p) * bias.adjuster)});
        n.add(Resistor{wiper, floor, std::max(1.0, p * bias.adjuster)});
        n.add(Resistor{floor, ground, bias.floor});
        if (bias.failSafe > 0) n.add(Resistor{wiper, s.biasRail, bias.failSafe});
        s.wipers.push_back(wiper);
    };
    for (const Channel& ch : b.channels) {
        adjuster(ch.pair.adjusterA);
        adjuster(ch.pair.adjusterB);
    }
}

} // namespace

SupplyCircuit supplyCircuit(const Build& b, const Catalogue& catalogue, const Conditions& c,
                            const std::vector<NodeLoad>& loads, const std::vector<HeaterGroup>& heaters,
                            double lampKelvin, double rectifierEmission, Filament filaments) {
    SupplyCircuit s;
    Netlist& n = s.netlist;
    const PowerTransformer& t = b.transformer;
    const auto filament = [&](const IncandescentLaw& law, Node from, Node to) {
        return filaments == Filament::Held ? n.add(Resistor{from, to, law.ohms()})
                                           : n.add(NonlinearDevice{{from, to}, law});
    };
    s.mains = n.node("mains");
    s.source = n.add(VoltageSource{s.mains, ground, {0, c.mainsVolts * std::numbers::sqrt2, b.mains.frequency, 0}});
    s.primary = s.mains;
    if (c.limiter) {
        s.primary = n.node("primary");
        IncandescentLaw lamp = limiterLaw(b, catalogue);
        lamp.kelvin = lampKelvin;
        s.lamp = filament(lamp, s.mains, s.primary);
    }
    // Turns as the no-load volts; the dotted ends rise together.
    Transformer iron;
    iron.inductance = t.magnetisingInductance;
    iron.windings.push_back({s.primary, ground, t.primaryVolts, t.primaryResistance});
    s.legA = n.node("leg a");
    const bool centreTapped = b.supply.connection == Connection::CentreTapped;
    if (centreTapped) {
        s.legB = n.node("leg b");
        iron.windings.push_back({s.legA, ground, t.plateVolts, t.plateResistance});
        iron.windings.push_back({ground, s.legB, t.plateVolts, t.plateResistance});
    } else {
        if (b.supply.connection == Connection::Bridge) s.legB = n.node("leg b");
        iron.windings.push_back({s.legA, s.legB, t.plateVolts, t.plateResistance});
    }
    for (const HeaterWinding& h : t.heaters) {
        s.heaterNodes.push_back(n.node("heater " + h.id));
        iron.windings.push_back({s.heaterNodes.back(), ground, h.volts, h.resistance});
    }
    Node biasWinding = ground;
    if (t.biasVolts > 0) {
        biasWinding = n.node("bias winding");
        iron.windings.push_back({biasWinding, ground, t.biasVolts, t.biasResistance});
    }
    s.transformer = n.add(iron);
    for (const HeaterGroup& g : heaters) s.heaters.push_back(filament(g.law, s.heaterNodes[g.winding], ground));

    s.rails = {n.node("B+1")};
    const RectifierType& type = *catalogue.rectifier(b.supply.rectifier.type);
    if (!type.vacuum || c.rectifierIn) {
        const double emission = type.vacuum ? rectifierEmission * b.supply.rectifier.emission : 1;
        s.rectifiers.push_back(addRectifier(n, type, emission, s.legA, s.rails[0]));
        if (s.legB) s.rectifiers.push_back(addRectifier(n, type, emission, s.legB, s.rails[0]));
        if (b.supply.connection == Connection::Bridge) {
            s.rectifiers.push_back(addRectifier(n, type, emission, ground, s.legA));
            s.rectifiers.push_back(addRectifier(n, type, emission, ground, s.legB));
        }
    }
    addChain(n, b.supply, s.rails, s.sections);
    for (std::size_t k = 0; k < loads.size() && k < s.rails.size(); ++k) {
        const NodeLoad& load = loads[k];
        if (load.siemens > 0) n.add(Resistor{s.rails[k], ground, 1 / load.siemens});
        if (load.amps != 0) n.add(CurrentSource{s.rails[k], ground, {load.amps - load.siemens * load.at}});
    }
    if (biasWinding) addBias(s, b, catalogue, c, biasWinding);
    return s;
}

} // namespace ember::plan
