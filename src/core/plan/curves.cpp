#include "solve.h"

#include "heater.h"

#include "core/circuit/transient.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember::plan {

using namespace circuit;

double Curve::most(std::size_t node) const {
    return *std::max_element(nodes[node].begin(), nodes[node].end());
}

double Curve::below(std::size_t node, double volts) const {
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
    std::vector<RailLoad> out;
    const auto add = [&](int node, double amps, bool output) {
        const auto k = static_cast<std::size_t>(node - 1);
        if (amps > 1e-9 && s.nodes[k].mean > 1) out.push_back({k, amps, s.nodes[k].mean, output});
    };
    for (std::size_t k = 0; k < s.channels.size(); ++k) {
        const Channel& ch = b.channels[k];
        add(ch.plateNode, s.channels[k].railPlate, true);
        add(ch.screenNode, s.channels[k].railScreen, true);
        add(ch.smallNode, s.channels[k].railSmall, false);
    }
    // One law per node and kind is the same circuit with fewer ports.
    std::vector<RailLoad> merged;
    for (const RailLoad& l : out) {
        const auto same = std::find_if(merged.begin(), merged.end(),
                                       [&](const RailLoad& m) { return m.node == l.node && m.output == l.output; });
        if (same == merged.end())
            merged.push_back(l);
        else
            same->amps += l.amps;
    }
    return merged;
}

namespace {

/// The chain with its loads; legs as EMF and the resistance that copper gives them.
struct RailCircuit {
    Netlist netlist;
    std::vector<Node> rails;
    std::vector<DeviceId> sections, rectifiers, loads;
};

RailCircuit railCircuit(const Build& b, const Catalogue& catalogue, double mainsVolts, bool powered,
                        const std::vector<RailLoad>& loads) {
    RailCircuit c;
    Netlist& n = c.netlist;
    c.rails = {n.node("B+1")};
    const PowerTransformer& t = b.transformer;
    const RectifierType& type = *catalogue.rectifier(b.supply.rectifier.type);
    if (powered) {
        const double ratio = t.plateVolts / t.primaryVolts;
        const double ohms = t.plateResistance + t.primaryResistance * ratio * ratio;
        const auto leg = [&](double phase, Node reference) {
            const Node emf = n.node("emf"), end = n.node("leg");
            n.add(
                VoltageSource{emf, reference, {0, mainsVolts * ratio * std::numbers::sqrt2, b.mains.frequency, phase}});
            n.add(Resistor{emf, end, ohms});
            return end;
        };
        if (b.supply.connection == Connection::Bridge) {
            const Node low = n.node("low");
            const Node high = leg(0, low);
            for (const Node anode : {high, low}) {
                c.rectifiers.push_back(addRectifier(n, type, 1, anode, c.rails[0]));
                c.rectifiers.push_back(addRectifier(n, type, 1, ground, anode));
            }
        } else {
            c.rectifiers.push_back(addRectifier(n, type, 1, leg(0, ground), c.rails[0]));
            if (b.supply.connection == Connection::CentreTapped)
                c.rectifiers.push_back(addRectifier(n, type, 1, leg(std::numbers::pi, ground), c.rails[0]));
        }
    }
    addChain(n, b.supply, c.rails, c.sections);
    for (const RailLoad& l : loads)
        c.loads.push_back(
            n.add(NonlinearDevice{{c.rails[l.node], ground}, VacuumLaw{l.amps / (l.volts * std::sqrt(l.volts))}}));
    return c;
}

/// Keeps the nodes' volts, thinned to at most `every` seconds.
class Trace {
  public:
    Trace(const System& s, const RailCircuit& c, double interval) : sys(s), every(interval) {
        for (const Node r : c.rails) rows.push_back(sys.row(r));
        curve.nodes.resize(rows.size());
    }
    void add(const Stepper& stepper, double t) {
        if (!curve.seconds.empty() && t < next) return;
        next = t + every;
        stepper.endUnknowns(x);
        curve.seconds.push_back(t);
        for (std::size_t k = 0; k < rows.size(); ++k) curve.nodes[k].push_back(x[rows[k]]);
    }
    Curve curve;

  private:
    const System& sys;
    std::vector<int> rows;
    Eigen::VectorXd x;
    double every, next = 0;
};

Heater heaterOf(const Catalogue& catalogue, const Build& b, bool output) {
    if (b.channels.empty()) return {};
    const ValveType* v = catalogue.valve(output ? b.channels[0].pair.a.type : b.channels[0].small.type);
    return v ? v->heater : Heater{};
}

double heaterShare(const Steady& s, const std::string& type, const Heater& heater) {
    for (const HeaterFigures& h : s.heaters)
        if (h.valve == type) return h.volts / heater.volts;
    return 1;
}

struct Warming {
    WarmUp small, output;
};
Warming warming(const Build& b, const Catalogue& catalogue, const Steady& s) {
    const Heater small = heaterOf(catalogue, b, false), output = heaterOf(catalogue, b, true);
    const std::string a = b.channels.empty() ? "" : b.channels[0].small.type,
                      p = b.channels.empty() ? "" : b.channels[0].pair.a.type;
    return {WarmUp(small, heaterShare(s, a, small)), WarmUp(output, heaterShare(s, p, output))};
}

} // namespace

Expected<Curve> switchOn(const Build& b, const Catalogue& catalogue, const Steady& steady, double seconds,
                         std::stop_token stop) {
    const auto loads = railLoads(b, steady);
    const RailCircuit c = railCircuit(b, catalogue, steady.conditions.mainsVolts, true, loads);
    const System sys = assemble(c.netlist);
    const RectifierType& type = *catalogue.rectifier(b.supply.rectifier.type);
    const WarmUp rectifier(type.heater, heaterShare(steady, b.supply.rectifier.type, type.heater));
    const Warming valves = warming(b, catalogue, steady);
    Stepper stepper(sys, 1 / b.mains.frequency / 32, 5);
    Trace trace(sys, c, seconds / 1500);
    const auto warm = [&](Stepper& s, double t) {
        if (type.vacuum)
            for (const DeviceId d : c.rectifiers)
                s.portSolver().setEmission(sys.portOf[static_cast<std::size_t>(d)],
                                           rectifier.emission(t) * b.supply.rectifier.emission);
        for (std::size_t k = 0; k < loads.size(); ++k)
            s.portSolver().setEmission(sys.portOf[static_cast<std::size_t>(c.loads[k])],
                                       (loads[k].output ? valves.output : valves.small).emission(t));
    };
    warm(stepper, 0);
    State state{0, Eigen::VectorXd::Zero(sys.states()), Eigen::VectorXd::Zero(sys.states())};
    TransientOptions o;
    o.duration = seconds;
    o.tolerance = 2e-3;
    o.stop = stop;
    double due = 0.05;
    o.onStep = [&](Stepper& s, const State& at, double) {
        trace.add(s, at.t);
        if (at.t >= due) {
            warm(s, at.t);
            due = at.t + 0.05; // heaters move over seconds
        }
        return true;
    };
    if (auto done = runTransient(stepper, state, o); !done) return done.problem();
    return std::move(trace.curve);
}

Expected<Curve> switchOff(const Build& b, const Catalogue& catalogue, const Steady& steady, bool hot, double seconds,
                          std::stop_token stop) {
    const auto loads = hot ? railLoads(b, steady) : std::vector<RailLoad>{};
    const RailCircuit c = railCircuit(b, catalogue, 0, false, loads);
    const System sys = assemble(c.netlist);
    const Warming valves = warming(b, catalogue, steady);
    State state{0, Eigen::VectorXd::Zero(sys.states()), Eigen::VectorXd::Zero(sys.states())};
    for (std::size_t k = 0; k < c.sections.size(); ++k) {
        const Section& section = b.supply.sections[k];
        const auto at = sys.stateOf[static_cast<std::size_t>(c.sections[k])];
        if (section.kind == SectionKind::Capacitor)
            state.y[at] = steady
                              .nodes[static_cast<std::size_t>(std::count_if(
                                  b.supply.sections.begin(), b.supply.sections.begin() + static_cast<std::ptrdiff_t>(k),
                                  [](const Section& s) { return s.kind != SectionKind::Capacitor; }))]
                              .mean;
        else if (section.kind == SectionKind::Choke)
            state.y[at] = steady.chokeAmps.at(section.id);
    }
    Stepper stepper(sys, 0.25, 16);
    Trace trace(sys, c, 0);
    TransientOptions o;
    o.duration = seconds;
    o.tolerance = 1e-4;
    o.stop = stop;
    o.onStep = [&](Stepper& s, const State& at, double) {
        trace.add(s, at.t);
        for (std::size_t k = 0; k < loads.size(); ++k)
            s.portSolver().setEmission(sys.portOf[static_cast<std::size_t>(c.loads[k])],
                                       (loads[k].output ? valves.output : valves.small).emissionCooling(at.t));
        return true;
    };
    if (auto done = runTransient(stepper, state, o); !done) return done.problem();
    return std::move(trace.curve);
}

} // namespace ember::plan
