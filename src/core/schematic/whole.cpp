#include "whole.h"

#include "path_schematic.h"
#include "whole_heaters.h"

#include "core/build/build_json.h"
#include "core/build/path.h"
#include "core/build/plate_winding.h"
#include "core/circuit/choke.h"
#include "core/quantity/letters.h"

#include <fmt/format.h>

#include <cmath>

namespace ember::schematic {

std::string inputPart(const Channel& ch) {
    return "input-" + ch.id;
}
std::string outputPart(const Channel& ch) {
    return "output-" + ch.id;
}
std::string heaterNet(const std::string& id, char side) {
    return fmt::format("heater {} {}", id, side);
}

std::string rectifierLead(char leg) {
    return fmt::format("rectifier lead {}", leg);
}

std::string junctionPart(const std::string& on, int lug) {
    return fmt::format("{}-lug{}", on, lug);
}

namespace {

/// A part with these pins, all of one element.
Part partOf(std::string id, Element element, std::vector<Pin> pins, std::string role) {
    Part p;
    p.id = std::move(id);
    p.element = std::move(element);
    p.pins = std::move(pins);
    p.role = std::move(role);
    return p;
}

class Supplies {
  public:
    Supplies(WholeAmplifier& to, const Build& build, const Catalogue& cat)
        : out(to),
          s(to.schematic),
          b(build),
          catalogue(cat) {}

    void mains() {
        const NetId live = s.net("live", NetKind::Mains), neutral = s.net("neutral", NetKind::Mains),
                    earth = s.net(earthNet, NetKind::Earth);
        put(Serves::Mains, partOf(inletPart, Connector{}, {{"L", live}, {"N", neutral}, {"E", earth}}, "mains inlet"));
        put(Serves::Mains, partOf(earthPart, Connector{}, {{"bolt", earth}}, "safety earth bolt"));
        NetId at = live, back = neutral;
        const auto fuse = [&] {
            const NetId behind = s.net("live, fused", NetKind::Mains);
            put(Serves::Mains, partOf(b.fuse.id.empty() ? "fuse" : b.fuse.id, Resistance{0.1},
                                      {{"far", at}, {"near", behind}}, "mains fuse"));
            at = behind;
        };
        const auto onOff = [&] {
            const NetId behind = s.net("live, switched", NetKind::Mains);
            std::vector<Pin> pins;
            if (b.mainsSwitch.breaks != Breaks::Neutral) {
                pins = {{"1", at}, {"2", behind}};
                at = behind;
            }
            if (b.mainsSwitch.breaks != Breaks::Live) {
                const NetId switched = s.net("neutral, switched", NetKind::Mains);
                pins.push_back({"3", back});
                pins.push_back({"4", switched});
                back = switched;
            }
            const int poles = static_cast<int>(pins.size() / 2);
            put(Serves::Mains, partOf(b.mainsSwitch.id.empty() ? switchPart : b.mainsSwitch.id, Contacts{poles},
                                      std::move(pins), "mains switch"));
        };
        if (b.mainsSwitch.fuseFirst)
            fuse(), onOff();
        else
            onOff(), fuse();
        if (b.thermistor.hot > 0) {
            const NetId behind = s.net("live, behind the thermistor", NetKind::Mains);
            put(Serves::Mains, partOf(b.thermistor.id.empty() ? "thermistor" : b.thermistor.id,
                                      Resistance{b.thermistor.hot}, {{"1", at}, {"2", behind}}, "thermistor"));
            at = behind;
        }
        primary = {at, back};
    }

    /// Windings, rectifiers and the chain.
    void highVoltage() {
        const bool centreTapped = b.supply.connection == Connection::CentreTapped;
        Part iron =
            partOf(b.transformer.id.empty() ? "transformer" : b.transformer.id, Windings{}, {}, "power transformer");
        auto& w = std::get<Windings>(iron.element);
        const auto coil = [&](const std::string& a, NetId from, const std::string& z, NetId to, double volts,
                              double ohms) {
            const int at = static_cast<int>(iron.pins.size());
            iron.pins.push_back({a, from});
            iron.pins.push_back({z, to});
            w.coils.push_back({at, at + 1, volts, ohms});
        };
        coil("primary 1", primary.first, "primary 2", primary.second, b.transformer.primaryVolts,
             b.transformer.primaryResistance);
        const NetId a = s.net("plate winding a", NetKind::Winding);
        NetId z;
        std::map<std::string, std::pair<NetId, NetId>> taps;
        for (const std::size_t k : tapsOf(b.supply)) {
            const std::string& id = b.supply.sections[k].id;
            taps[id] = {s.net(id + " winding a", NetKind::Winding), s.net(id + " winding b", NetKind::Winding)};
        }
        if (centreTapped) {
            z = s.net("plate winding b", NetKind::Winding);
            legs(iron, a, z, taps);
        } else {
            z = b.supply.connection == Connection::HalfWave ? Schematic::ground
                : b.supply.connection == Connection::Doubler
                    ? s.net(b.supply.sections.front().id + ".1", NetKind::HighVoltage)
                    : s.net("plate winding b", NetKind::Winding);
            coil("plate a", a, "plate b", z, b.transformer.plateVolts, b.transformer.plateResistance);
        }
        if (!centreTapped) // each tap is a winding of its own
            for (const std::size_t k : tapsOf(b.supply)) {
                const Section& tap = b.supply.sections[k];
                const auto& ends = taps[tap.id];
                coil(tap.id + " a", ends.first, tap.id + " b", ends.second, tap.volts, tap.resistance);
            }
        if (b.bias.from == BiasSource::Winding && b.transformer.biasVolts > 0)
            coil("bias 1", s.net("bias winding", NetKind::Winding), "bias 2", Schematic::ground,
                 b.transformer.biasVolts, b.transformer.biasResistance);
        addHeaterWindings(s, b, catalogue, iron, [this](Serves what, Part part) { return put(what, std::move(part)); });
        put(Serves::PowerTransformer, std::move(iron));
        NetId rail = s.net(nodeNet(1), NetKind::HighVoltage);
        const Rectifier& r = b.supply.rectifier;
        const std::string rectifierId = r.id.empty() ? "rectifier" : r.id;
        const bool oneLead = b.supply.connection == Connection::HalfWave || b.supply.connection == Connection::Doubler;
        const NetId first = lead(rectifierId, a, 'a'), second = oneLead ? z : lead(rectifierId, z, 'b');
        rectifier(rectifierId, r.type, "rectifier", b.supply.connection, first, second, rail);
        int count = 1;
        out.reservoirs.resize(2);
        for (const Section& section : b.supply.sections) {
            if (section.kind == SectionKind::Capacitor) {
                capacitor(section, rail, count);
                continue;
            }
            const NetId next = s.net(nodeNet(++count), NetKind::HighVoltage);
            out.reservoirs.emplace_back();
            if (section.kind == SectionKind::Tap) {
                const RectifierType* type = catalogue.rectifier(section.type);
                const Connection as = centreTapped           ? Connection::CentreTapped
                                      : type && type->vacuum ? Connection::HybridBridge
                                                             : Connection::Bridge;
                rectifier(section.id, section.type, section.id, as, taps[section.id].first, taps[section.id].second,
                          next);
            } else if (section.kind == SectionKind::Choke) {
                put(Serves::Chain,
                    partOf(section.id,
                           Inductance{section.inductance, section.resistance,
                                      circuit::idleOf(section.idleInductance, section.inductance), section.amps},
                           {{"1", rail}, {"2", next}}, "choke"));
            } else {
                put(Serves::Chain, resistorPart(section.id, rail, next, section.resistance,
                                                section.kind == SectionKind::Resistor ? "dropping resistor"
                                                : section.kind == SectionKind::Switch ? "standby switch"
                                                : section.kind == SectionKind::Fuse   ? "high-voltage fuse"
                                                                                      : "meter"));
            }
            rail = next;
        }
        for (const Bleeder& x : b.supply.bleeders)
            put(Serves::Bleeder, resistorPart(x.resistor.id.empty() ? fmt::format("bleeder-{}", x.node) : x.resistor.id,
                                              s.net(nodeNet(x.node), NetKind::HighVoltage), Schematic::ground,
                                              x.resistor.resistance * x.inSeries, "bleeder"));
    }

    void bias() {
        const auto adjusters = adjustersOf(b);
        if (adjusters.empty() || !biasIsFed(b.bias, b.transformer)) return;
        const BiasSupply& x = b.bias;
        NetId fed = s.net(x.from == BiasSource::Winding ? "bias winding" : "plate winding a", NetKind::Winding);
        if (x.from != BiasSource::Winding) {
            if (x.from == BiasSource::PlateCapacitor) {
                const NetId behind = s.net("bias feed capacitor", NetKind::Winding);
                put(Serves::Bias, partOf("bias-feed-c", Capacitance{x.feedCapacitance}, {{"1", fed}, {"2", behind}},
                                         "feeds the bias supply"));
                fed = behind;
            }
            const NetId behind = s.net("bias feed", NetKind::Winding);
            put(Serves::Bias, resistorPart("bias-feed", fed, behind, x.feed, "feeds the bias supply"));
            fed = behind;
            if (x.from == BiasSource::PlateCapacitor) put(Serves::Bias, diode("bias-d2", fed, Schematic::ground));
        }
        const NetId reservoir = s.net("bias reservoir", NetKind::Bias), rail = s.net("bias rail", NetKind::Bias);
        put(Serves::Bias, diode("bias-d1", reservoir, fed));
        const auto filter = [&](const CapacitorPart& c, NetId at, const char* otherwise) {
            put(Serves::BiasCapacitor, partOf(c.id.empty() ? otherwise : c.id, Capacitance{c.capacitance, c.esr},
                                              {{"+", Schematic::ground}, {"-", at}}, "bias supply"));
        };
        filter(x.reservoir, reservoir, "bias-c1");
        put(Serves::Bias, resistorPart(x.series.id.empty() ? "bias-r" : x.series.id, reservoir, rail,
                                       x.series.resistance, "bias supply"));
        filter(x.second, rail, "bias-c2");
        for (std::size_t k = 0; k < adjusters.size(); ++k) {
            const NetId wiper = wipers.count(k) ? wipers[k] : s.net(fmt::format("bias {}", k + 1), NetKind::Bias);
            const NetId foot = s.net(fmt::format("bias {} foot", k + 1), NetKind::Bias);
            const StagePart& p = b.channels[adjusters[k].channel].stages[adjusters[k].stage].parts[adjusters[k].part];
            const std::string id = idOf(p.part).empty() ? fmt::format("trimmer-{}", k + 1) : idOf(p.part);
            put(Serves::Bias, partOf(id, Track{x.adjuster, 0.5},
                                     {{"clockwise", foot}, {"wiper", wiper}, {"other end", rail}}, "bias adjuster"));
            put(Serves::Bias,
                resistorPart(fmt::format("{}-floor", id), foot, Schematic::ground, x.floor, "bias adjuster's end"));
            if (x.failSafe > 0)
                put(Serves::Bias,
                    resistorPart(fmt::format("{}-safe", id), wiper, rail, x.failSafe, "fail-safe resistor"));
        }
    }

    PartId put(Serves what, Part part) {
        const PartId id = s.add(std::move(part));
        out.serves.resize(s.parts().size(), Serves::Stage);
        out.serves[static_cast<std::size_t>(id.index)] = what;
        return id;
    }
    std::map<std::size_t, NetId> wipers; ///< of the channels, by adjuster

  private:
    static Part resistorPart(std::string id, NetId a, NetId z, double ohms, std::string role) {
        return partOf(std::move(id), Resistance{ohms}, {{"1", a}, {"2", z}}, std::move(role));
    }
    static Part diode(std::string id, NetId anode, NetId cathode) {
        return partOf(std::move(id), Diode{}, {{"anode", anode}, {"cathode", cathode}}, "rectifies");
    }
    /// A winding with its centre on ground, both legs with the taps that rectifiers of their own hang on: one lead
    /// between each two coils.
    void legs(Part& iron, NetId a, NetId z, const std::map<std::string, std::pair<NetId, NetId>>& taps) const {
        const auto order = tapsOf(b.supply);
        const auto stretches = stretchesOf(b.supply, b.transformer); // from the centre outwards
        auto& coils = std::get<Windings>(iron.element).coils;
        iron.pins.push_back({"plate a", a});
        for (std::size_t k = order.size() + 1; k-- > 0;) { // inwards along leg a
            const int at = static_cast<int>(iron.pins.size()) - 1;
            const std::string id = k > 0 ? b.supply.sections[order[k - 1]].id : "";
            iron.pins.push_back(k > 0 ? Pin{id + " a", taps.at(id).first} : Pin{"centre", Schematic::ground});
            coils.push_back({at, at + 1, stretches[k].emf, stretches[k].ohms});
        }
        for (std::size_t k = 0; k <= order.size(); ++k) { // outwards along leg b
            const int at = static_cast<int>(iron.pins.size()) - 1;
            const std::string id = k < order.size() ? b.supply.sections[order[k]].id : "";
            iron.pins.push_back(k < order.size() ? Pin{id + " b", taps.at(id).second} : Pin{"plate b", z});
            coils.push_back({at, at + 1, stretches[k].emf, stretches[k].ohms});
        }
    }
    /// The resistor in a lead from the winding to the rectifier; without one the lead itself.
    NetId lead(const std::string& id, NetId from, char leg) {
        if (!(b.supply.rectifier.legResistance > 0)) return from;
        const NetId behind = s.net(rectifierLead(leg), NetKind::Winding);
        put(Serves::Rectifier, resistorPart(fmt::format("{}-leg-{}", id, leg), from, behind,
                                            b.supply.rectifier.legResistance, "resistor in a leg"));
        return behind;
    }
    void capacitor(const Section& c, NetId rail, int node) {
        NetId from = rail;
        PartId last;
        for (int k = 1; k <= c.inSeries; ++k) {
            const NetId to =
                k == c.inSeries ? Schematic::ground : s.net(fmt::format("{}.{}", c.id, k), NetKind::HighVoltage);
            const std::string id = c.inSeries > 1 ? fmt::format("{}.{}", c.id, k) : c.id;
            last = put(Serves::SupplyCapacitor, partOf(id, Capacitance{c.capacitance, c.esr, c.leakageResistance},
                                                       {{"+", from}, {"-", to}}, "supply capacitor"));
            if (c.balancing > 0)
                put(Serves::Bleeder, resistorPart(id + "-r", from, to, c.balancing, "balancing resistor"));
            from = to;
        }
        out.reservoirs.resize(static_cast<std::size_t>(node) + 1);
        if (PartId& first = out.reservoirs[static_cast<std::size_t>(node)]; first.index < 0) first = last;
    }
    /// One part whatever is in it: a bottle, or diodes side by side.
    void rectifier(const std::string& id, const std::string& typeName, const std::string& feeds, Connection connection,
                   NetId a, NetId z, NetId rail) {
        const RectifierType* type = catalogue.rectifier(typeName);
        if (!type) return;
        Part p = partOf(id, Bottle{typeName, 1, {}}, {}, "rectifier");
        auto& bottle = std::get<Bottle>(p.element);
        const circuit::PortLaw law = type->vacuum ? circuit::PortLaw(type->law) : circuit::PortLaw(type->junction);
        const auto pin = [&](std::string name, NetId net, const std::vector<int>& stands = {}, std::size_t which = 0) {
            p.pins.push_back(
                {.name = std::move(name), .net = net, .stands = which < stands.size() ? stands[which] : 0});
            return static_cast<int>(p.pins.size()) - 1;
        };
        const RectifierPins& on = type->pins;
        const auto system = [&](const circuit::PortLaw& of, int anode, int cathode) {
            bottle.sections.push_back({of, {anode, cathode}, static_cast<int>(bottle.sections.size()) + 1});
        };
        const bool half = connection == Connection::HalfWave || connection == Connection::Doubler;
        const int first = pin(half ? "plate" : "plate 1", a, on.plate),
                  second = half ? -1 : pin("plate 2", z, on.plate, 1), cathode = pin("cathode", rail, on.cathode);
        system(law, first, cathode);
        if (second >= 0) system(law, second, cathode);
        if (connection == Connection::Doubler) system(law, pin("minus", Schematic::ground), first);
        if (connection == Connection::Bridge || connection == Connection::HybridBridge) {
            if (connection == Connection::Bridge) {
                const int minus = pin("minus", Schematic::ground);
                system(law, minus, first);
                system(law, minus, second);
            } else {
                put(Serves::Rectifier, diode(id + "-d1", Schematic::ground, a));
                put(Serves::Rectifier, diode(id + "-d2", Schematic::ground, z));
            }
        }
        if (type->vacuum)
            for (const HeaterWinding& w : b.transformer.heaters)
                if (w.feeds == feeds) {
                    pin("heater 1", s.net(heaterNet(w.id, 'a'), NetKind::Heater), on.heater);
                    pin("heater 2", s.net(heaterNet(w.id, 'b'), NetKind::Heater), on.heater, 1);
                    break;
                }
        put(Serves::Rectifier, std::move(p));
    }

    WholeAmplifier& out;
    Schematic& s;
    const Build& b;
    const Catalogue& catalogue;
    std::pair<NetId, NetId> primary;
};

} // namespace

WholeAmplifier wholeAmplifier(const Build& b, const Catalogue& catalogue) {
    WholeAmplifier out;
    Schematic& s = out.schematic;
    Supplies supplies(out, b, catalogue);
    supplies.mains();
    supplies.highVoltage();
    Surroundings around;
    around.supply = [&](int node, bool) { return s.net(nodeNet(node), NetKind::HighVoltage); };
    around.bias = [&](std::size_t adjuster, const std::string& name) {
        return supplies.wipers[adjuster] = s.net(name, NetKind::Bias);
    };
    for (const Channel& ch : b.channels)
        supplies.put(Serves::Jack,
                     partOf(inputPart(ch), Connector{}, {{"tip", s.net(inputNet(ch))}, {"sleeve", Schematic::ground}},
                            "input jack of " + ch.name));
    const auto paths = wirePaths(s, b, catalogue, around, 0, b.channels.size());
    out.node.assign(s.parts().size(), 0);
    out.serves.resize(s.parts().size(), Serves::Stage);
    for (const Path& path : paths)
        for (const auto& [part, stage] : path.stageOf)
            if (std::holds_alternative<Windings>(s[part].element))
                out.serves[static_cast<std::size_t>(part.index)] = Serves::SignalIron;
    for (const Path& path : paths) {
        out.inputs.push_back(path.input);
        out.outputs.push_back(path.output);
        for (const auto& [part, stage] : path.stageOf)
            out.node[static_cast<std::size_t>(part.index)] = b.channels[path.channel].stages[stage].node;
    }
    for (std::size_t k = 0; k < b.channels.size(); ++k)
        supplies.put(Serves::Terminals,
                     partOf(outputPart(b.channels[k]), Connector{}, {{"+", out.outputs[k]}, {"-", Schematic::ground}},
                            "output of " + b.channels[k].name));
    supplies.bias();
    addHeaterPins(s, b, catalogue);
    for (const Board& board : b.wiring.boards)
        for (const Junction& j : board.junctions)
            if (const auto net = s.findNet(j.net))
                supplies.put(Serves::Junction,
                             partOf(junctionPart(board.on, j.lug), Connector{}, {{"1", *net}}, "wires meet"));
    out.node.resize(s.parts().size(), 0);
    out.serves.resize(s.parts().size(), Serves::Stage);
    return out;
}

} // namespace ember::schematic
