#include "discharge.h"

#include "supply_circuit.h"

#include "core/build/build_json.h"
#include "core/build/path.h"
#include "core/circuit/transient.h"
#include "core/quantity/quantity.h"

#include <algorithm>
#include <cmath>

namespace ember::plan {

using namespace circuit;

namespace {

constexpr double openOhms = 1e12; // [ohm] an open switch or fuse
constexpr double handVolts = 5;   // [V] left after a discharge by hand
constexpr double handSeconds = 5; // [s] that a short-time overload is tested for (IEC 60115-1)
constexpr double overload = 6.25; // times the rated watts, there

/// One capacitor and where its state is.
struct Followed {
    std::string id;
    int node = 0;
    DeviceId device = -1;
    double farads = 0, start = 0;
};

} // namespace

Supply guaranteedPaths(const Supply& given) {
    Supply s = given;
    s.loads.clear();
    for (Section& x : s.sections) {
        switch (x.kind) {
        case SectionKind::Capacitor:
            x.leakageResistance = 0;
            x.capacitance *= 1 + x.tolerance;
            x.balancing *= 1 + 0.05; // resistors of the usual series
            break;
        case SectionKind::Switch:
        case SectionKind::Fuse:
            x.kind = SectionKind::Resistor;
            x.resistance = openOhms;
            break;
        case SectionKind::Resistor: x.resistance *= 1 + x.tolerance; break;
        case SectionKind::Choke:
        case SectionKind::Meter:
        case SectionKind::Tap: break;
        }
    }
    for (Bleeder& x : s.bleeders) x.resistor.resistance *= 1 + x.resistor.tolerance;
    return s;
}

Expected<Discharge> dischargeOf(const Build& b, const Steady& steady, std::stop_token stop) {
    Netlist n;
    std::vector<Node> rails{n.node("B+1")};
    const Supply supply = guaranteedPaths(b.supply);
    const Chain chain = addChain(n, supply, rails);
    std::vector<Followed> all;
    for (std::size_t k = 0; k < chain.size(); ++k) {
        const Section& s = supply.sections[k];
        if (s.kind != SectionKind::Capacitor) continue;
        const int node = nodeOfSection(supply, k);
        const double volts = steady.nodes[static_cast<std::size_t>(node - 1)].most;
        for (const DeviceId d : chain[k])
            all.push_back({s.id, node, d, s.capacitance, volts / static_cast<double>(chain[k].size())});
    }
    if (std::isfinite(steady.biasReservoir)) { // its adjusters' tracks are whole whatever their wipers do
        const Node reservoir = n.node("bias reservoir"), rail = n.node("bias rail");
        const auto capacitor = [&](const CapacitorPart& p, Node at, double volts) {
            const double farads = p.capacitance * (1 + p.tolerance);
            all.push_back({p.id, 0, n.add(Capacitor{ground, at, farads, p.esr}), farads, std::abs(volts)});
        };
        capacitor(b.bias.reservoir, reservoir, steady.biasReservoir);
        capacitor(b.bias.second, rail, steady.biasRail);
        n.add(Resistor{reservoir, rail, b.bias.series.resistance});
        for (std::size_t k = 0; k < adjustersOf(b).size(); ++k)
            n.add(Resistor{rail, ground, (b.bias.adjuster + b.bias.floor) * 1.2});
    }
    Discharge out;
    if (all.empty()) return out;
    const System sys = assemble(n);
    State state{0, Eigen::VectorXd::Zero(sys.states()), Eigen::VectorXd::Zero(sys.states())};
    for (const Followed& f : all) state.y[sys.stateOf[static_cast<std::size_t>(f.device)]] = f.start;
    for (const Followed& f : all) out.capacitors.push_back({f.id, f.node, f.farads, f.start, {}, unknown, unknown});
    Stepper stepper(sys, 0.5, 16);
    TransientOptions o;
    o.duration = dischargeFollowed;
    o.tolerance = 1e-4;
    o.stop = std::move(stop);
    const auto keep = [&](const State& at) {
        out.seconds.push_back(at.t);
        double most = 0;
        for (std::size_t k = 0; k < all.size(); ++k) {
            const double v = std::abs(at.y[sys.stateOf[static_cast<std::size_t>(all[k].device)]]);
            out.capacitors[k].volts.push_back(v);
            most = std::max(most, v);
        }
        return most;
    };
    keep(state);
    o.onStep = [&](Stepper&, const State& at, double) { return keep(at) > 2; };
    if (auto done = runTransient(stepper, state, o); !done) return done.problem();
    for (CapacitorDischarge& c : out.capacitors) {
        const auto below = [&](double wanted) {
            for (std::size_t k = c.volts.size(); k-- > 0;)
                if (c.volts[k] > wanted) {
                    if (k + 1 == c.volts.size()) return unknown;
                    const double share = (c.volts[k] - wanted) / (c.volts[k] - c.volts[k + 1]);
                    return out.seconds[k] + share * (out.seconds[k + 1] - out.seconds[k]);
                }
            return 0.0;
        };
        c.to50 = below(50);
        c.to10 = below(10);
    }
    return out;
}

HandDischarge dischargeByHand(double farads, double volts) {
    HandDischarge out;
    const double constants = std::log(std::max(1.5, volts / handVolts));
    out.ohms = nearest(std::clamp(handSeconds / (farads * constants), 100.0, 100e3), Series::E12);
    out.watts = 5;
    for (const double rating : {10.0, 17.0, 25.0, 50.0})
        if (volts * volts / out.ohms > overload * out.watts) out.watts = rating;
    out.seconds = out.ohms * farads * constants;
    return out;
}

} // namespace ember::plan
