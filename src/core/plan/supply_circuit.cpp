#include "supply_circuit.h"

#include "heater.h"

#include "core/build/path.h"
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember::plan {

using namespace circuit;

DeviceId addRectifier(Netlist& n, const RectifierType& type, double emission, int inSeries, Node anode, Node cathode) {
    if (type.vacuum) return n.addVacuumRectifier(anode, cathode, type.law, emission);
    DiodeLaw string = type.junction;
    string.ideality *= inSeries;
    return n.addDiode(anode, cathode, string, type.seriesOhms * inSeries);
}

namespace {
constexpr double windingInsulation = 1e9; // [ohm] a dry winding against the core, at least
}

bool floatingWinding(Connection c) {
    return c == Connection::Bridge || c == Connection::HybridBridge || c == Connection::Doubler;
}

Section asComputed(Section s) {
    if (s.kind != SectionKind::Capacitor)
        s.resistance = std::max(s.resistance, s.kind == SectionKind::Tap ? 0.01 : 1e-3);
    if (s.kind == SectionKind::Choke && s.inductance <= 0) s.kind = SectionKind::Resistor;
    return s;
}

PowerTransformer asComputed(PowerTransformer t) {
    t.primaryResistance = std::max(t.primaryResistance, 0.01);
    t.plateResistance = std::max(t.plateResistance, 0.01);
    return t;
}

Choke chokeOf(const Section& s) {
    return {s.inductance, idleOf(s.idleInductance, s.inductance), s.amps, s.resistance};
}

double stringVolts(const Section& s) {
    if (s.inSeries < 2) return s.volts;
    return s.volts * s.inSeries / (1 + (s.balancing > 0 ? 0.05 : s.tolerance));
}

Waveform mainsWave(double volts, double hertz, double crest) {
    // 2 (1 - k)^2 = crest^2 (1 + k^2), solved for the share k of the third harmonic.
    const double missing = 1 - crest * crest / 2;
    Waveform w{0, volts * std::numbers::sqrt2, hertz, 0};
    if (missing < 1e-6) return w;
    w.third = (1 - std::sqrt(1 - missing * missing)) / missing;
    w.amplitude /= std::sqrt(1 + w.third * w.third);
    return w;
}

EmfLegs addLegs(Netlist& n, Connection connection, const std::vector<Stretch>& stretches, const Waveform& ofOneVolt) {
    EmfLegs legs;
    const auto leg = [&](double phase, Node from, Node TapEnds::*side) {
        legs.taps.resize(stretches.size());
        for (std::size_t k = 0; k < stretches.size(); ++k) {
            const Node source = n.node("emf"), end = n.node("leg");
            Waveform emf = ofOneVolt;
            emf.amplitude *= stretches[k].emf, emf.phase = phase;
            legs.sources.push_back(n.add(VoltageSource{source, from, emf}));
            n.add(Resistor{source, end, stretches[k].ohms});
            legs.taps[k].*side = from = end;
        }
        return from;
    };
    if (floatingWinding(connection)) legs.b = n.node("low");
    legs.a = leg(0, legs.b, &TapEnds::a);
    if (connection == Connection::CentreTapped) legs.b = leg(std::numbers::pi, ground, &TapEnds::b);
    legs.taps.pop_back();
    return legs;
}

RectifierBank addRectifiers(Netlist& n, Connection connection, const RectifierKind& kind, Node legA, Node legB,
                            Node rail) {
    RectifierBank bank;
    const auto behindResistor = [&](Node end) {
        if (!(kind.legOhms > 0)) return end;
        const Node plate = n.node("plate");
        n.add(Resistor{end, plate, kind.legOhms});
        return plate;
    };
    const auto add = [&](const RectifierType& type, Node anode, Node cathode) {
        bank.devices.push_back(addRectifier(n, type, kind.emission, kind.inSeries, anode, cathode));
    };
    const RectifierType& type = kind.type;
    legA = behindResistor(legA);
    add(type, legA, rail);
    bank.toRail = 1;
    switch (connection) {
    case Connection::HalfWave: break;
    case Connection::Doubler: add(type, ground, legA); break; // legB is the middle of the two capacitors
    case Connection::CentreTapped:
    case Connection::Bridge:
    case Connection::HybridBridge:
        legB = behindResistor(legB);
        add(type, legB, rail);
        bank.toRail = 2;
        if (connection == Connection::CentreTapped) break;
        // While no rectifier conducts, the winding's insulation alone says where it floats.
        for (const Node end : {legA, legB}) n.add(Resistor{end, ground, windingInsulation});
        for (const Node end : {legA, legB}) add(connection == Connection::Bridge ? type : kind.silicon, ground, end);
    }
    return bank;
}

Chain addChain(Netlist& n, const Supply& supply, std::vector<Node>& rails, Node middle,
               const std::map<std::size_t, TapEnds>& taps, const TapRectifier& rectifierOf) {
    Chain devices;
    for (const Section& given : supply.sections) {
        const Section s = asComputed(given);
        const Node here = rails.back();
        std::vector<DeviceId> own;
        if (s.kind == SectionKind::Capacitor) {
            Node from = here;
            for (int k = 1; k <= s.inSeries; ++k) {
                const bool doubled = middle && devices.empty() && s.inSeries == 2 && k == 1;
                const Node to = k == s.inSeries ? ground : doubled ? middle : n.node(fmt::format("{}.{}", s.id, k));
                own.push_back(n.add(Capacitor{from, to, s.capacitance, s.esr, s.leakageResistance}));
                if (s.balancing > 0) n.add(Resistor{from, to, s.balancing});
                from = to;
            }
        } else if (s.kind == SectionKind::Tap) {
            rails.push_back(n.node(fmt::format("B+{}", rails.size() + 1)));
            if (const auto ends = taps.find(devices.size()); ends != taps.end()) {
                const RectifierKind kind = rectifierOf(s);
                const Connection as = supply.connection == Connection::CentreTapped ? Connection::CentreTapped
                                      : kind.type.vacuum                            ? Connection::HybridBridge
                                                                                    : Connection::Bridge;
                own = addRectifiers(n, as, kind, ends->second.a, ends->second.b, rails.back()).devices;
            }
        } else {
            rails.push_back(n.node(fmt::format("B+{}", rails.size() + 1)));
            own.push_back(s.kind == SectionKind::Choke ? n.add(chokeBetween(here, rails.back(), chokeOf(s)))
                          : s.kind == SectionKind::Switch
                              ? n.add(NonlinearDevice{{here, rails.back()}, ContactLaw{s.resistance}})
                              : n.add(Resistor{here, rails.back(), s.resistance}));
        }
        devices.push_back(std::move(own));
    }
    for (const Bleeder& bleeder : supply.bleeders)
        n.add(Resistor{rails[static_cast<std::size_t>(bleeder.node - 1)], ground,
                       bleeder.inSeries * bleeder.resistor.resistance});
    for (const SupplyLoad& load : supply.loads) {
        const Node at = rails[static_cast<std::size_t>(load.node - 1)];
        if (load.resistance > 0) n.add(Resistor{at, ground, load.resistance});
        if (load.amps > 0) n.add(NonlinearDevice{{at, ground}, SinkLaw{load.amps}});
    }
    return devices;
}

double wiperShare(const BiasSupply& bias, double p) {
    const double upper = std::max(1.0, (1 - p) * bias.adjuster), lower = std::max(1.0, p * bias.adjuster) + bias.floor;
    const double above = bias.failSafe > 0 ? 1 / (1 / upper + 1 / bias.failSafe) : upper;
    return lower / (above + lower);
}

namespace {

/// Source, diode towards it, reservoir, series resistor, second capacitor, adjusters: all below ground.
void addBias(SupplyCircuit& s, const Build& b, const Catalogue& catalogue, const Conditions& c, Node winding) {
    Netlist& n = s.netlist;
    const BiasSupply& bias = b.bias;
    if (bias.from != BiasSource::Winding) {
        const Node fed = n.node("bias feed");
        if (bias.from == BiasSource::PlateResistor) {
            n.add(Resistor{winding, fed, bias.feed});
        } else {
            // The capacitor's charge goes back through a second diode to ground in the other half wave.
            const Node behind = n.node("bias capacitor");
            n.add(Capacitor{winding, behind, bias.feedCapacitance});
            n.add(Resistor{behind, fed, bias.feed});
            addRectifier(n, *catalogue.rectifier("silicon"), 1, 1, fed, ground);
        }
        winding = fed;
    }
    s.biasReservoir = n.node("bias reservoir");
    s.biasRail = n.node("bias rail");
    const RectifierType* diode = catalogue.rectifier(bias.diode);
    addRectifier(n, diode ? *diode : *catalogue.rectifier("silicon"), 1, 1, s.biasReservoir, winding);
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
    for (const AdjusterAt& a : adjustersOf(b)) adjuster(a.position);
}

/// The plate winding, stretch by stretch from the centre outwards, and the taps' own windings; turns as no-load volts.
std::map<std::size_t, TapEnds> addPlateWindings(SupplyCircuit& s, Transformer& iron, const Build& b,
                                                const PowerTransformer& t) {
    Netlist& n = s.netlist;
    std::map<std::size_t, TapEnds> taps;
    s.legA = n.node("leg a");
    if (b.supply.connection != Connection::CentreTapped) {
        if (floatingWinding(b.supply.connection)) s.legB = n.node("leg b");
        iron.windings.push_back({s.legA, s.legB, t.plateVolts, t.plateResistance});
        for (const std::size_t k : tapsOf(b.supply)) {
            const Section tap = asComputed(b.supply.sections[k]);
            taps[k] = {n.node(tap.id + " a"), n.node(tap.id + " b")};
            iron.windings.push_back({taps[k].a, taps[k].b, tap.volts, tap.resistance});
        }
        return taps;
    }
    s.legB = n.node("leg b");
    std::vector<TapEnds> ends;
    for (const std::size_t k : tapsOf(b.supply))
        ends.push_back(taps[k] = {n.node(b.supply.sections[k].id + " a"), n.node(b.supply.sections[k].id + " b")});
    ends.push_back({s.legA, s.legB});
    TapEnds from;
    const auto stretches = stretchesOf(b.supply, t);
    for (std::size_t k = 0; k < ends.size(); from = ends[k++]) {
        iron.windings.push_back({ends[k].a, from.a, stretches[k].emf, stretches[k].ohms});
        iron.windings.push_back({from.b, ends[k].b, stretches[k].emf, stretches[k].ohms});
    }
    return taps;
}

} // namespace

TapRectifier tapRectifiers(const Catalogue& catalogue, const Emissions& emissions) {
    return [&catalogue, emissions](const Section& tap) {
        const RectifierType& type = *catalogue.rectifier(tap.type);
        const auto at = emissions.taps.find(tap.id);
        return RectifierKind{type, *catalogue.rectifier("silicon"),
                             type.vacuum && at != emissions.taps.end() ? at->second : 1, tap.inSeries};
    };
}

Emissions rectifiersAt(const Build& b, const Catalogue& catalogue, double emission) {
    Emissions e;
    const auto of = [&](const std::string& type) { return catalogue.rectifier(type)->vacuum ? emission : 1; };
    e.rectifier = of(b.supply.rectifier.type);
    for (const Section& s : b.supply.sections)
        if (s.kind == SectionKind::Tap) e.taps[s.id] = of(s.type);
    return e;
}

SupplyCircuit supplyCircuit(const Build& b, const Catalogue& catalogue, const Conditions& c,
                            const std::vector<NodeLoad>& loads, const std::vector<HeaterGroup>& heaters,
                            double lampKelvin, const Emissions& emissions, Filament filaments) {
    SupplyCircuit s;
    Netlist& n = s.netlist;
    const PowerTransformer t = asComputed(b.transformer);
    const auto filament = [&](const IncandescentLaw& law, Node from, Node to) {
        return filaments == Filament::Held ? n.add(Resistor{from, to, law.ohms()})
                                           : n.add(NonlinearDevice{{from, to}, law});
    };
    s.mains = n.node("mains");
    s.source = n.add(VoltageSource{s.mains, ground,
                                   mainsWave(c.mainsVolts, b.mains.frequency, c.crest > 0 ? c.crest : b.mains.crest)});
    s.primary = s.mains;
    if (c.limiter) {
        s.primary = n.node("primary");
        IncandescentLaw lamp = limiterLaw(b, catalogue);
        lamp.kelvin = lampKelvin;
        s.lamp = filament(lamp, s.mains, s.primary);
    }
    if (b.thermistor.hot > 0) {
        const Node before = s.primary;
        s.primary = n.node("behind the thermistor");
        n.add(Resistor{before, s.primary, filaments == Filament::Held ? b.thermistor.hot : b.thermistor.cold});
    }
    // Turns as the no-load volts; the dotted ends rise together.
    Transformer iron;
    iron.inductance = t.magnetisingInductance;
    iron.windings.push_back({s.primary, ground, t.primaryVolts, t.primaryResistance});
    s.taps = addPlateWindings(s, iron, b, t);
    for (std::size_t k = 0; k < t.heaters.size(); ++k) s.feeds.push_back(addHeaterFeed(n, iron, t, k, catalogue));
    Node biasWinding = b.bias.from == BiasSource::Winding ? ground : s.legA;
    if (t.biasVolts > 0 && b.bias.from == BiasSource::Winding) {
        biasWinding = n.node("bias winding");
        iron.windings.push_back({biasWinding, ground, t.biasVolts, t.biasResistance});
    }
    s.transformer = n.add(iron);
    std::map<std::pair<std::size_t, std::string>, Node> strings;
    for (std::size_t k = 0; k < heaters.size(); ++k) {
        const HeaterGroup& g = heaters[k];
        Node from = s.feeds[g.winding].out, to = ground;
        if (!g.string.empty()) {
            Node& at = strings.try_emplace({g.winding, g.string}, from).first->second;
            from = at;
            if (!lastOfString(heaters, k)) at = to = n.node("heater string " + g.string);
        }
        s.heaters.push_back(filament(g.law, from, to));
    }

    s.rails = {n.node("B+1")};
    const RectifierType& type = *catalogue.rectifier(b.supply.rectifier.type);
    if (!type.vacuum || c.rectifierIn) {
        const double emission = type.vacuum ? emissions.rectifier * b.supply.rectifier.emission : 1;
        RectifierBank bank = addRectifiers(n, b.supply.connection,
                                           {type, *catalogue.rectifier("silicon"), emission,
                                            b.supply.rectifier.inSeries, b.supply.rectifier.legResistance},
                                           s.legA, s.legB, s.rails[0]);
        s.rectifiers = std::move(bank.devices);
        s.toRail = bank.toRail;
    }
    if (biasWinding) addBias(s, b, catalogue, c, biasWinding);
    std::map<std::size_t, TapEnds> fed;
    for (const auto& [section, ends] : s.taps)
        if (c.rectifierIn || !catalogue.rectifier(b.supply.sections[section].type)->vacuum) fed[section] = ends;
    s.sections = addChain(n, b.supply, s.rails, b.supply.connection == Connection::Doubler ? s.legB : ground, fed,
                          tapRectifiers(catalogue, emissions));
    for (const HeaterWinding& w : t.heaters) {
        Node at = ground;
        if (w.referenceNode > 0 && w.referenceNode <= static_cast<int>(s.rails.size())) {
            at = n.node("heater reference " + w.id);
            n.add(Resistor{s.rails[static_cast<std::size_t>(w.referenceNode) - 1], at, w.lift.top});
            n.add(Resistor{at, ground, w.lift.bottom});
        }
        s.references.push_back(at);
    }
    for (std::size_t k = 0; k < loads.size() && k < s.rails.size(); ++k) {
        const NodeLoad& load = loads[k];
        if (load.siemens > 0) n.add(Resistor{s.rails[k], ground, 1 / load.siemens});
        const bool follows = load.perBias != 0 && s.biasRail;
        const double rest = load.amps - load.siemens * load.at - (follows ? load.perBias * load.biasAt : 0);
        if (rest != 0) n.add(CurrentSource{s.rails[k], ground, {rest}});
        if (follows) n.add(Transconductance{s.rails[k], ground, s.biasRail, ground, load.perBias});
    }
    return s;
}

} // namespace ember::plan
