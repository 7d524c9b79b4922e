#include "heaters.h"

#include "core/circuit/operating_point.h"
#include "core/plan/heater.h"
#include "core/plan/supply_circuit.h"

#include <algorithm>
#include <cmath>
#include <set>

namespace ember::wires {

using namespace schematic;

namespace {

/// One heater at its socket.
struct Load {
    std::string valve;
    Heater heater;                   ///< as wired
    std::set<std::string> a, z;      ///< names of its terminals on the two sides; empty: not on the chassis
    const ValveType* type = nullptr; ///< none: a rectifier
    const Valve* bottle = nullptr;
};

class Winding {
  public:
    Winding(const Build& build, const Catalogue& catalogue, const Harness& harness, std::size_t index)
        : b(build),
          h(harness),
          w(build.transformer.heaters[index]) {
        one = h.terminals.whole.schematic.findNet(heaterNet(w.id, 'a'));
        other = h.terminals.whole.schematic.findNet(heaterNet(w.id, 'b'));
        const auto addLoad = [&](const std::string& id, const Heater& heater, const ValveType* type,
                                 const Valve* bottle) {
            Load l{id, heater.wiredFor(w.volts), {}, {}, type, bottle};
            for (const Terminal& t : h.terminals.list)
                if (h.terminals.part(t).id == id && (t.net == one || t.net == other)) {
                    (t.net == one ? l.a : l.z).insert(t.name);
                }
            loads.push_back(std::move(l));
        };
        const auto rectifier = [&](const std::string& feeds, const std::string& id, const std::string& typeName) {
            const RectifierType* type = catalogue.rectifier(typeName);
            if (w.feeds == feeds && type && type->vacuum) addLoad(id, type->heater, nullptr, nullptr);
        };
        rectifier("rectifier", b.supply.rectifier.id, b.supply.rectifier.type);
        for (const Section& s : b.supply.sections)
            if (s.kind == SectionKind::Tap) rectifier(s.id, s.id, s.type);
        for (const Valve& v : b.bottles) {
            const ValveType* type = catalogue.valve(v.type);
            if (type && plan::windingOf(b, v) == index) addLoad(v.id, type->heater, type, &v);
        }
        order();
    }

    /// Volts at the loads, and the winding's own; `emf` [V] behind its copper.
    struct Solved {
        double volts = 0, amps = 0;
        std::vector<double> at;
        std::map<std::string, double> runs;
    };
    [[nodiscard]] Solved solve(double emf, bool cold) const {
        std::vector<double> ohms;
        for (const Load& l : loads) {
            circuit::IncandescentLaw law = plan::heaterLaw(l.heater, 1);
            law.kelvin = cold ? 293 : law.hotKelvin;
            ohms.push_back(law.ohms());
        }
        Solved s;
        for (int round = 0; round < 60; ++round) {
            s = linear(emf, ohms);
            if (cold) break;
            double change = 0;
            for (std::size_t k = 0; k < loads.size(); ++k) {
                circuit::IncandescentLaw law = plan::heaterLaw(loads[k].heater, 1);
                law.kelvin =
                    std::max(293.0, law.hotKelvin * std::pow(std::max(1e-3, s.at[k]) / law.ratedVolts, 1 / 2.6));
                change = std::max(change, std::abs(law.ohms() / ohms[k] - 1));
                ohms[k] = law.ohms();
            }
            if (change < 1e-8) break;
        }
        return s;
    }
    std::vector<Load> loads;

  private:
    /// By the wires: from the winding on, breadth first.
    void order() {
        std::vector<std::string> names;
        for (const Run& r : h.runs)
            if (r.kind == RunKind::Heater) names.push_back(r.wire.to);
        std::stable_sort(loads.begin(), loads.end(), [&](const Load& x, const Load& y) {
            const auto place = [&](const Load& l) {
                for (std::size_t k = 0; k < names.size(); ++k)
                    if (l.a.contains(names[k]) || l.z.contains(names[k])) return k;
                return names.size();
            };
            return place(x) < place(y);
        });
    }

    /// Sides of the winding: every terminal a node, the same part's pins on one side joined.
    [[nodiscard]] Solved linear(double emf, const std::vector<double>& ohms) const {
        circuit::Netlist n;
        std::map<std::string, circuit::Node> nodes;
        const circuit::Node source = n.node("emf"), tagA = n.node("a"), tagZ = circuit::ground;
        const circuit::DeviceId drive = n.add(circuit::VoltageSource{source, tagZ, {emf}});
        n.add(circuit::Resistor{source, tagA, std::max(1e-4, w.resistance)});
        // A winding's tags stand for all of its terminals, a socket's first pin for the pins that it joins.
        for (const Terminal& t : h.terminals.list)
            if ((t.net == one || t.net == other) && std::holds_alternative<Windings>(h.terminals.part(t).element))
                nodes[t.name] = t.net == one ? tagA : tagZ;
        const auto side = [&](const std::set<std::string>& names) {
            circuit::Node at = -1;
            for (const std::string& name : names)
                if (const auto known = nodes.find(name); known != nodes.end()) at = known->second;
            if (at < 0) at = n.node(*names.begin());
            for (const std::string& name : names) nodes[name] = at;
            return at;
        };
        std::vector<std::pair<circuit::Node, circuit::Node>> at;
        for (const Load& l : loads) at.emplace_back(l.a.empty() ? tagA : side(l.a), l.z.empty() ? tagZ : side(l.z));
        std::vector<std::pair<const Run*, std::pair<circuit::Node, circuit::Node>>> wires;
        for (const Run& r : h.runs) {
            if (r.kind != RunKind::Heater) continue;
            const Terminal *from = h.terminals.find(r.wire.from), *to = h.terminals.find(r.wire.to);
            if (!from || !to || (from->net != one && from->net != other)) continue;
            const auto node = [&](const std::string& name) {
                const auto known = nodes.find(name);
                return known != nodes.end() ? known->second : nodes[name] = n.node(name);
            };
            const circuit::Node a = node(r.wire.from), z = node(r.wire.to);
            if (a == z) continue;
            n.add(circuit::Resistor{a, z, r.ohms + 2 * jointOhms});
            wires.push_back({&r, {a, z}});
        }
        for (std::size_t k = 0; k < loads.size(); ++k)
            if (at[k].first != at[k].second) n.add(circuit::Resistor{at[k].first, at[k].second, ohms[k]});
        const circuit::System sys = circuit::assemble(n);
        const auto op = circuit::operatingPoint(sys);
        Solved out;
        if (!op) {
            out.volts = out.amps = plan::unknown;
            out.at.assign(loads.size(), plan::unknown);
            return out;
        }
        out.volts = op->volts(tagA);
        out.amps = std::abs(op->x[sys.branchOf[static_cast<std::size_t>(drive)]]);
        for (const auto& [a, z] : at) out.at.push_back(std::abs(op->volts(a) - op->volts(z)));
        for (const auto& [run, ends] : wires)
            out.runs[run->wire.id] =
                std::abs(op->volts(ends.first) - op->volts(ends.second)) / (run->ohms + 2 * jointOhms);
        return out;
    }

    const Build& b;
    const Harness& h;
    const HeaterWinding& w;
    std::optional<NetId> one, other;
};

/// DC of heater over cathode that is furthest from zero: at rest, or while the cathode is still at ground.
double heaterCathode(const Build& b, const HeaterWinding& w, const Load& l, const plan::Steady& s) {
    if (!l.bottle || !l.type || l.type->heater.directlyHeated) return plan::unknown;
    if (w.feeds == "signal" && w.reference == HeaterReference::Floating) return plan::unknown;
    double worst = w.referenceVolts;
    for (const plan::ChannelPoint& c : s.channels)
        for (const plan::ValvePoint& p : c.valves)
            if (&b.bottles[p.bottle] == l.bottle && std::abs(w.referenceVolts - p.cathode) > std::abs(worst))
                worst = w.referenceVolts - p.cathode;
    return worst;
}

} // namespace

HeaterFigures heaterFigures(const Build& b, const Catalogue& catalogue, const Harness& h, const plan::Figures& f) {
    HeaterFigures out;
    for (std::size_t k = 0; k < b.transformer.heaters.size(); ++k) {
        const HeaterWinding& w = b.transformer.heaters[k];
        const Winding winding(b, catalogue, h, k);
        HeatedWinding x;
        x.id = w.id;
        x.ratedAmps = w.amps;
        x.floating = w.feeds == "signal" && w.reference == HeaterReference::Floating;
        for (const Load& l : winding.loads) {
            SocketVolts socket;
            socket.valve = l.valve;
            socket.rated = l.heater.volts;
            if (l.type)
                for (const TypeSection& half : l.type->halves)
                    if (const double limit = half.limits.heaterCathodeVolts; limit > 0)
                        socket.heaterCathodeLimit =
                            socket.heaterCathodeLimit > 0 ? std::min(socket.heaterCathodeLimit, limit) : limit;
            if (f.high) socket.heaterCathode = heaterCathode(b, w, l, *f.high);
            x.sockets.push_back(std::move(socket));
        }
        const auto at = [&](const std::optional<plan::Steady>& s, WindingVolts& of, double SocketVolts::*volts) {
            if (!s) return;
            double emf = 0;
            for (const plan::HeaterFigures& g : s->heaters)
                if (g.winding == w.id) emf = g.volts;
            double amps = 0;
            for (const plan::HeaterFigures& g : s->heaters)
                if (g.winding == w.id) amps += g.amps;
            if (!(emf > 0)) // nothing hangs on it
                emf = w.volts * s->primaryVolts / b.transformer.primaryVolts;
            emf += amps * w.resistance;
            const auto solved = winding.solve(emf, false);
            of = {solved.volts, solved.amps};
            for (std::size_t n = 0; n < x.sockets.size(); ++n) x.sockets[n].*volts = solved.at[n];
            if (&s != &f.nominal) return;
            x.coldAmps = winding.solve(emf, true).amps;
            out.runAmps.insert(solved.runs.begin(), solved.runs.end());
        };
        at(f.low, x.low, &SocketVolts::low);
        at(f.nominal, x.nominal, &SocketVolts::nominal);
        at(f.high, x.high, &SocketVolts::high);
        out.windings.push_back(std::move(x));
    }
    return out;
}

} // namespace ember::wires
