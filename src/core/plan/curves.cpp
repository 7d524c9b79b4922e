#include "solve.h"

#include "discharge.h"
#include "heater.h"
#include "rail_circuit.h"

#include "core/build/build_json.h"
#include "core/circuit/transient.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <numeric>

namespace ember::plan {

using namespace circuit;

double Curve::most(std::size_t node) const {
    return node < nodes.size() && !nodes[node].empty() ? *std::max_element(nodes[node].begin(), nodes[node].end())
                                                       : unknown;
}

const CapacitorDischarge* Discharge::slowest() const {
    const CapacitorDischarge* out = nullptr;
    const auto time = [](const CapacitorDischarge& c) { return std::isnan(c.to50) ? INFINITY : c.to50; };
    for (const CapacitorDischarge& c : capacitors)
        if (!out || time(c) > time(*out) || (time(c) == time(*out) && c.start > out->start)) out = &c;
    return out;
}

double Discharge::highest(double t) const {
    if (seconds.empty()) return 0;
    std::size_t k = 0;
    while (k + 1 < seconds.size() && seconds[k + 1] <= t) ++k;
    double most = 0;
    for (const CapacitorDischarge& c : capacitors) most = std::max(most, c.volts[k]);
    return most;
}

double Discharge::allBelow10() const {
    double out = 0;
    for (const CapacitorDischarge& c : capacitors) {
        if (std::isnan(c.to10)) return unknown;
        out = std::max(out, c.to10);
    }
    return out;
}

double Curve::below(std::size_t node, double volts) const {
    if (node >= nodes.size()) return unknown;
    const auto& v = nodes[node];
    for (std::size_t k = v.size(); k-- > 0;)
        if (v[k] > volts) {
            if (k + 1 == v.size()) return unknown;
            const double share = (v[k] - volts) / (v[k] - v[k + 1]);
            return seconds[k] + share * (seconds[k + 1] - seconds[k]);
        }
    return 0;
}

std::vector<RailLoad> railLoads(const Build& b, const Steady& s) {
    // What a node gives is divided among the types whose plates and screens hang on it.
    std::vector<RailLoad> out;
    for (std::size_t k = 0; k < s.nodes.size(); ++k) {
        const int node = static_cast<int>(k) + 1;
        if (!(s.nodes[k].mean > 1)) continue;
        for (std::size_t c = 0; c < s.channels.size(); ++c) {
            const double amps = s.channels[c].drawn(node);
            if (!(amps > 1e-9)) continue;
            std::vector<std::pair<std::string, double>> share;
            double total = 0;
            for (const ValvePoint& v : s.channels[c].valves) {
                const Stage& stage = b.channels[c].stages[v.stage];
                const double own = std::max(0.0, stage.node == node ? v.plateAmps : 0) +
                                   std::max(0.0, stage.screensNode() == node ? v.screenAmps : 0);
                if (!(own > 0)) continue;
                const std::string& type = b.bottles[v.bottle].type;
                const auto at =
                    std::find_if(share.begin(), share.end(), [&](const auto& x) { return x.first == type; });
                if (at == share.end())
                    share.emplace_back(type, own);
                else
                    at->second += own;
                total += own;
            }
            if (share.empty()) share.emplace_back("", total = 1);
            for (const auto& [type, own] : share) {
                // One law per node and type is the same circuit with fewer ports.
                const auto same = std::find_if(
                    out.begin(), out.end(), [&, &t = type](const RailLoad& m) { return m.node == k && m.valve == t; });
                if (same == out.end())
                    out.push_back({k, amps * own / total, s.nodes[k].mean, type});
                else
                    same->amps += amps * own / total;
            }
        }
    }
    return out;
}

std::vector<RailLoad> biasedRailLoads(const Build& b, const Steady& s) {
    auto loads = railLoads(b, s);
    for (RailLoad& l : loads) {
        if (!s.end || l.node >= s.end->loads.size()) continue;
        const NodeLoad& known = s.end->loads[l.node];
        // d ln i / d ln v = 1.5 v / (v - v0); v0 at most 95 % of v, so that the law stays solvable
        const double steepness = known.amps > 1e-9 ? known.siemens * l.volts / known.amps : 0;
        if (steepness > 1.5) l.cutOff = l.volts * (1 - 1.5 / std::min(steepness, 30.0));
    }
    return loads;
}

namespace {

/// The worst tenth of a second of a fuse's current squared, in steps of a fiftieth.
struct Surge {
    Surge(const Supply& supply, std::size_t section, const System& sys, const RailCircuit& c)
        : id(supply.sections[section].id),
          ohms(asComputed(supply.sections[section]).resistance) {
        const auto node = static_cast<std::size_t>(nodeOfSection(supply, section));
        from = sys.row(c.rails[node - 1]);
        to = sys.row(c.rails[node]);
    }
    /// Straight through the step's own two samples: what was before it may lie on the other side of a switch.
    void add(const Unknowns& middle, const Unknowns& end, double t, double h) {
        constexpr double ofMiddle = 0.5 / (1 - Stepper::gamma);
        const auto now = static_cast<long>(t / 0.02);
        for (; bin < now; ++bin) parts[static_cast<std::size_t>(bin + 1) % parts.size()] = 0;
        const double square = ofMiddle * std::pow((middle[from] - middle[to]) / ohms, 2) +
                              (1 - ofMiddle) * std::pow((end[from] - end[to]) / ohms, 2);
        parts[static_cast<std::size_t>(now) % parts.size()] += h * std::max(0.0, square);
        most = std::max(most, std::accumulate(parts.begin(), parts.end(), 0.0));
    }
    std::string id;
    double ohms, most = 0;

  private:
    int from, to;
    long bin = 0;
    std::array<double, 5> parts{};
};

double heaterShare(const Steady& s, const std::string& type, const std::string& winding = {}) {
    for (const HeaterFigures& h : s.heaters)
        if (h.valve == type && (winding.empty() || h.winding == winding)) return h.volts / h.ratedVolts;
    return 1;
}

/// A valve rectifier, of the supply or of a tap, and where it stands in the circuit.
struct Rectifying {
    WarmUp warmUp;
    std::vector<DeviceId> devices;
    double emission;
};
std::vector<Rectifying> rectifying(const Build& b, const Catalogue& catalogue, const Steady& s, const RailCircuit& c) {
    std::vector<Rectifying> out;
    const auto add = [&](const std::string& feeds, const std::string& type, double emission,
                         std::vector<DeviceId> devices) {
        const RectifierType& found = *catalogue.rectifier(type);
        if (!found.vacuum || devices.empty()) return;
        std::string winding;
        for (const HeaterWinding& w : b.transformer.heaters)
            if (w.feeds == feeds) winding = w.id;
        out.push_back({WarmUp(found.heater, heaterShare(s, type, winding)), std::move(devices), emission});
    };
    add("rectifier", b.supply.rectifier.type, b.supply.rectifier.emission, c.rectifiers);
    for (const std::size_t k : tapsOf(b.supply))
        if (c.sections[k].size() >= 2)
            add(b.supply.sections[k].id, b.supply.sections[k].type, 1, {c.sections[k][0], c.sections[k][1]});
    return out;
}

/// The valves that load the supply, by type, as they warm and cool.
class Warming {
  public:
    Warming(const Catalogue& catalogue, const Steady& s, const std::vector<RailLoad>& loads) {
        for (const RailLoad& l : loads)
            if (const ValveType* v = catalogue.valve(l.valve); v && !types.contains(l.valve))
                types.emplace(l.valve, WarmUp(v->heater, heaterShare(s, l.valve)));
    }
    [[nodiscard]] double emission(const RailLoad& load, double t) const {
        const auto at = types.find(load.valve);
        return at == types.end() ? 1 : at->second.emission(t);
    }
    [[nodiscard]] double emissionCooling(const RailLoad& load, double t) const {
        const auto at = types.find(load.valve);
        return at == types.end() ? 1 : at->second.emissionCooling(t);
    }

  private:
    std::map<std::string, WarmUp> types;
};

} // namespace

Expected<Curve> switchOn(const Build& b, const Catalogue& catalogue, const Steady& steady, double seconds,
                         std::stop_token stop) {
    const auto loads = railLoads(b, steady);
    const RailCircuit c = railCircuit(b, catalogue, steady.conditions.mainsVolts, true, loads);
    const System sys = assemble(c.netlist);
    const std::vector<Rectifying> rectifiers = rectifying(b, catalogue, steady, c);
    const Warming valves(catalogue, steady, loads);
    Stepper stepper(sys, 1 / b.mains.frequency / 32, 5);
    Trace trace(sys, c, seconds / 1500);
    double warmedTo = -1;
    const auto warm = [&](Stepper& s, double t) {
        for (const Rectifying& r : rectifiers)
            for (const DeviceId d : r.devices)
                s.portSolver().setEmission(sys.portOf[static_cast<std::size_t>(d)], r.warmUp.emission(t) * r.emission);
        for (std::size_t k = 0; k < loads.size(); ++k)
            s.portSolver().setEmission(sys.portOf[static_cast<std::size_t>(c.loads[k])], valves.emission(loads[k], t));
        for (std::size_t k = 0; k < c.sections.size(); ++k)
            if (const Section& contact = b.supply.sections[k]; contact.kind == SectionKind::Switch) {
                const bool closed = t >= contact.closes;
                s.portSolver().setEmission(sys.portOf[static_cast<std::size_t>(c.sections[k][0])], closed ? 1 : 0);
                if (closed && warmedTo < contact.closes) s.jump();
            }
        warmedTo = t;
    };
    warm(stepper, 0);
    std::vector<Surge> surges;
    for (std::size_t k = 0; k < c.sections.size(); ++k)
        if (b.supply.sections[k].kind == SectionKind::Fuse) surges.emplace_back(b.supply, k, sys, c);
    State state{0, Eigen::VectorXd::Zero(sys.states()), Eigen::VectorXd::Zero(sys.states())};
    TransientOptions o;
    o.duration = seconds;
    o.tolerance = 2e-3;
    o.stop = std::move(stop);
    double due = 0.05;
    Unknowns middle, end;
    o.onStep = [&](Stepper& s, const State& at, double h) {
        trace.add(s, at.t);
        if (!surges.empty()) {
            s.middleUnknowns(middle);
            s.endUnknowns(end);
            for (Surge& surge : surges) surge.add(middle, end, at.t, h);
        }
        if (at.t >= due) {
            warm(s, at.t);
            due = at.t + 0.05; // heaters move over seconds
        }
        return true;
    };
    if (auto done = runTransient(stepper, state, o); !done) return done.problem();
    for (const Surge& surge : surges) trace.curve.surge[surge.id] = surge.most;
    return std::move(trace.curve);
}

Expected<Curve> switchOff(const Build& b, const Catalogue& catalogue, const Steady& steady, bool hot, double seconds,
                          std::stop_token stop) {
    const auto loads = hot ? railLoads(b, steady) : std::vector<RailLoad>{};
    Build sure = b;
    if (!hot) sure.supply = guaranteedPaths(b.supply);
    const RailCircuit c = railCircuit(sure, catalogue, 0, false, loads);
    const System sys = assemble(c.netlist);
    const Warming valves(catalogue, steady, loads);
    State state{0, Eigen::VectorXd::Zero(sys.states()), Eigen::VectorXd::Zero(sys.states())};
    startAt(sure, steady, sys, c, state);
    Stepper stepper(sys, 0.25, 16);
    Trace trace(sys, c, 0);
    TransientOptions o;
    o.duration = seconds;
    o.tolerance = 1e-4;
    o.stop = std::move(stop);
    o.onStep = [&](Stepper& s, const State& at, double) {
        trace.add(s, at.t);
        for (std::size_t k = 0; k < loads.size(); ++k)
            s.portSolver().setEmission(sys.portOf[static_cast<std::size_t>(c.loads[k])],
                                       valves.emissionCooling(loads[k], at.t));
        return true;
    };
    if (auto done = runTransient(stepper, state, o); !done) return done.problem();
    return std::move(trace.curve);
}

} // namespace ember::plan
