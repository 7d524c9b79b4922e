#include "heaters.h"

#include "core/chassis/layout_figures.h"
#include "core/circuit/operating_point.h"
#include "core/plan/heater.h"
#include "core/plan/heater_feed.h"
#include "core/plan/heater_groups.h"
#include "core/plan/regulator_heat.h"
#include "core/schematic/whole_heaters.h"

#include <algorithm>
#include <cmath>
#include <set>

namespace ember::wires {

using namespace schematic;

namespace {

/// One heater at its socket.
struct Load {
    std::string valve;
    Heater heater;                    ///< as wired
    std::set<std::string> a, z;       ///< names of its terminals on the two sides; empty: not on the chassis
    std::optional<NetId> first, last; ///< nets of the two sides
    const ValveType* type = nullptr;  ///< none: a rectifier
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
            Load l{id, heater, {}, {}, one, other, type, bottle};
            if (bottle) {
                const auto [first, last] = heaterNetsOf(b, *bottle, index);
                l.first = h.terminals.whole.schematic.findNet(first);
                l.last = h.terminals.whole.schematic.findNet(last);
            }
            nets.insert({l.first, l.last});
            for (const Terminal& t : h.terminals.list)
                if (h.terminals.part(t).id == id && (t.net == l.first || t.net == l.last))
                    (t.net == l.first ? l.a : l.z).insert(t.name);
            loads.push_back(std::move(l));
        };
        const auto rectifier = [&](const std::string& feeds, const std::string& id, const std::string& typeName) {
            const RectifierType* type = catalogue.rectifier(typeName);
            if (w.feeds == feeds && type && type->vacuum) addLoad(id, type->heater.wiredFor(w.volts), nullptr, nullptr);
        };
        rectifier("rectifier", b.supply.rectifier.id, b.supply.rectifier.type);
        for (const Section& s : b.supply.sections)
            if (s.kind == SectionKind::Tap) rectifier(s.id, s.id, s.type);
        for (const Valve& v : b.bottles) {
            const ValveType* type = catalogue.valve(v.type);
            if (type && heaterWindingOf(b, v) == index)
                addLoad(v.id, plan::wiredHeater(b, catalogue, v, index), type, &v);
        }
        order();
    }

    /// Volts at the loads, and the winding's own; `emf` [V] behind its copper.
    struct Solved {
        double volts = 0, amps = 0;
        std::vector<double> at;
        std::map<std::string, double> runs;
    };
    [[nodiscard]] Solved solve(double emf, double sourceOhms, bool cold) const {
        std::vector<double> ohms;
        for (const Load& l : loads) {
            circuit::IncandescentLaw law = plan::heaterLaw(l.heater, 1);
            law.kelvin = cold ? 293 : law.hotKelvin;
            ohms.push_back(law.ohms());
        }
        Solved s;
        for (int round = 0; round < 60; ++round) {
            s = linear(emf, sourceOhms, ohms);
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
    /// Whether a wire lies on one of the nets.
    [[nodiscard]] bool feeds(const Run& r) const {
        const Terminal *from = h.terminals.find(r.wire.from), *to = h.terminals.find(r.wire.to);
        return from && to && (r.kind == RunKind::Heater || r.kind == RunKind::Winding) && nets.contains(from->net);
    }

    /// By the wires: from the winding on, breadth first.
    void order() {
        std::vector<std::string> names;
        for (const Run& r : h.runs)
            if (feeds(r)) names.push_back(r.wire.to);
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
    [[nodiscard]] Solved linear(double emf, double sourceOhms, const std::vector<double>& ohms) const {
        circuit::Netlist n;
        std::map<std::string, circuit::Node> nodes;
        const circuit::Node source = n.node("emf"), tagA = n.node("a"), tagZ = circuit::ground;
        const circuit::DeviceId drive = n.add(circuit::VoltageSource{source, tagZ, {emf}});
        n.add(circuit::Resistor{source, tagA, std::max(1e-4, sourceOhms)});
        // The tags stand for all terminals of what feeds, a socket's first pin for the pins that it joins.
        for (const Terminal& t : h.terminals.list)
            if ((t.net == one || t.net == other) && !std::holds_alternative<Bottle>(h.terminals.part(t).element))
                nodes[t.name] = t.net == one ? tagA : tagZ;
        std::map<std::optional<NetId>, circuit::Node> unplaced{{one, tagA}, {other, tagZ}};
        const auto side = [&](const std::set<std::string>& names, std::optional<NetId> net) {
            circuit::Node at = -1;
            if (names.empty()) {
                const auto known = unplaced.find(net);
                return known != unplaced.end() ? known->second : unplaced[net] = n.node("not placed");
            }
            for (const std::string& name : names)
                if (const auto known = nodes.find(name); known != nodes.end()) at = known->second;
            if (at < 0) at = n.node(*names.begin());
            for (const std::string& name : names) nodes[name] = at;
            return at;
        };
        std::vector<std::pair<circuit::Node, circuit::Node>> at;
        for (const Load& l : loads) at.emplace_back(side(l.a, l.first), side(l.z, l.last));
        std::vector<std::pair<const Run*, std::pair<circuit::Node, circuit::Node>>> wires;
        for (const Run& r : h.runs) {
            if (!feeds(r)) continue;
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
    std::set<std::optional<NetId>> nets;
};

/// DC of heater over cathode that is furthest from zero: at rest, while the cathode is still at ground, and while the
/// supply is up but nothing draws from it, where the reference hangs on a divider. Of direct current both of its sides.
double heaterCathode(const Build& b, const HeaterWinding& w, const Load& l, const plan::Figures& f) {
    if (!l.bottle || !l.type || l.type->heater.directlyHeated || !f.high) return plan::unknown;
    if (w.feeds == "signal" && w.reference == HeaterReference::Floating) return plan::unknown;
    const plan::Steady& s = *f.high;
    const double reference = s.heaterReference(w);
    std::vector<double> heater{reference};
    if (w.rectified()) {
        const auto feed = s.heaterFeeds.find(w.id);
        const double volts = feed == s.heaterFeeds.end() ? 0 : feed->second.out;
        heater = w.reference == HeaterReference::OneSide ? std::vector{reference, reference + volts}
                                                         : std::vector{reference - volts / 2, reference + volts / 2};
    }
    double worst = 0;
    const auto against = [&](double at, double cathode) {
        if (std::abs(at - cathode) > std::abs(worst)) worst = at - cathode;
    };
    for (const double at : heater) {
        against(at, 0);
        if (f.cold) against(at - reference + f.cold->heaterReference(w), 0);
        for (const plan::ChannelPoint& c : s.channels)
            for (const plan::ValvePoint& p : c.valves)
                if (&b.bottles[p.bottle] == l.bottle) against(at, p.cathode);
    }
    return worst;
}

std::optional<RegulatorHeat> regulatorHeat(const Build& b, const Catalogue& catalogue, const HeaterWinding& w,
                                           const plan::Figures& f) {
    if (!w.rectified() || w.dc.regulator == HeaterRegulator::None || !f.high) return std::nullopt;
    const auto feed = f.high->heaterFeeds.find(w.id);
    if (feed == f.high->heaterFeeds.end()) return std::nullopt;
    RegulatorHeat x;
    x.watts = feed->second.regulatorWatts;
    x.board = plan::junctionOnBoard(w.dc, x.watts, b.chassis.ambient);
    x.sink = plan::junctionOnSink(w.dc, x.watts, b.chassis.ambient);
    x.sinkNeeded = plan::sinkNeeded(w.dc, x.watts, b.chassis.ambient);
    for (const PlacedPart& p : b.chassis.parts) {
        if (p.of != w.id || !isPlate(p.face)) continue;
        auto sources = chassis::heatSources(b, catalogue, f, p.face, w.id);
        constexpr double tab = 0.015; // of its case on the metal [m]
        PlacedPart under = p;
        under.bodies = {Body{{}, "tab", BodyShape::Box, 0, 0, tab, tab, 0, 0.005}};
        sources.push_back({chassis::footprint(under), x.watts});
        const chassis::HeatSheet sheet(b.chassis);
        x.chassis = plan::junctionOnMetal(
            w.dc, x.watts, sheet.at(sheet.solve(sources, chassis::heatInside(b, catalogue, f, p.face)), p.x, p.y));
        break;
    }
    x.now = w.dc.mount == RegulatorMount::Board ? x.board : w.dc.mount == RegulatorMount::HeatSink ? x.sink : x.chassis;
    return x;
}

} // namespace

HeaterFigures heaterFigures(const Build& b, const Catalogue& catalogue, const Harness& h, const plan::Figures& f) {
    HeaterFigures out;
    const PowerTransformer& t = b.transformer;
    for (std::size_t k = 0; k < t.heaters.size(); ++k) {
        const HeaterWinding& w = t.heaters[k];
        HeatedWinding x;
        x.id = w.id;
        x.ratedAmps = w.amps;
        if (const HeaterWinding* main = mainWindingOf(t, w)) { // its volts are its own, its current the other's
            x.partOfAnother = true;
            const auto own = [&](const std::optional<plan::Steady>& s, WindingVolts& of) {
                if (!s || !s->heaterFeeds.contains(main->id)) return;
                of.amps = s->heaterFeeds.at(main->id).windingAmps;
                of.volts = w.volts * s->primaryVolts / t.primaryVolts;
            };
            own(f.low, x.low);
            own(f.nominal, x.nominal);
            own(f.high, x.high);
            out.windings.push_back(std::move(x));
            continue;
        }
        const Winding winding(b, catalogue, h, k);
        x.floating = w.feeds == "signal" && w.reference == HeaterReference::Floating;
        x.regulator = regulatorHeat(b, catalogue, w, f);
        for (const Load& l : winding.loads) {
            SocketVolts socket;
            socket.valve = l.valve;
            socket.rated = l.heater.volts;
            if (l.type)
                for (const TypeSection& half : l.type->halves)
                    if (const double limit = half.limits.heaterCathodeVolts; limit > 0)
                        socket.heaterCathodeLimit =
                            socket.heaterCathodeLimit > 0 ? std::min(socket.heaterCathodeLimit, limit) : limit;
            socket.heaterCathode = heaterCathode(b, w, l, f);
            x.sockets.push_back(std::move(socket));
        }
        const auto at = [&](const std::optional<plan::Steady>& s, WindingVolts& of, double SocketVolts::*volts) {
            if (!s) return;
            const auto found = s->heaterFeeds.find(w.id);
            if (found == s->heaterFeeds.end()) return;
            const plan::HeaterFeedFigures& feed = found->second;
            const double ohms = w.rectified() ? 1e-4 : plan::feedOhms(t, w),
                         emf = w.rectified() ? feed.out : feed.out + feed.windingAmps * ohms;
            const auto solved = winding.solve(emf, ohms, false);
            of = {solved.volts, solved.amps};
            if (w.rectified()) of.amps = feed.windingAmps;
            for (std::size_t n = 0; n < x.sockets.size(); ++n) x.sockets[n].*volts = solved.at[n];
            if (&s != &f.nominal) return;
            x.coldAmps = winding.solve(emf, ohms, true).amps;
            if (w.rectified() && w.dc.regulator == HeaterRegulator::CurrentSource)
                x.coldAmps = w.dc.amps;
            else if (w.rectified() && w.dc.regulator != HeaterRegulator::None)
                x.coldAmps = std::min(x.coldAmps, w.dc.mostAmps);
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
