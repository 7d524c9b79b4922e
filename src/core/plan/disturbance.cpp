#include "disturbance.h"

#include "rail_circuit.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>

namespace ember::plan {

using namespace circuit;

namespace {

constexpr double leadIn = 0.4; // [s] from the means to the ripple that belongs to them

}

Expected<Curve> disturbed(const Build& b, const Catalogue& catalogue, const Steady& steady, const Disturbance& d,
                          double seconds, std::stop_token stop) {
    auto loads = biasedRailLoads(b, steady);
    const std::size_t atRest = loads.size();
    for (const Draw& draw : d.draws) {
        if (draw.node < 1 || draw.node > static_cast<int>(steady.nodes.size()))
            return Problem{"supply", fmt::format("there is no B+{} to draw from", draw.node)};
        const auto node = static_cast<std::size_t>(draw.node - 1);
        if (draw.amps > 0 && steady.nodes[node].mean > 1)
            loads.push_back({node, draw.amps, steady.nodes[node].mean, ""});
    }
    const RailCircuit c = railCircuit(b, catalogue, steady.conditions.mainsVolts, true, loads);
    const System sys = assemble(c.netlist);
    Stepper stepper(sys, 1 / b.mains.frequency / 32, 5);
    State state{0, Eigen::VectorXd::Zero(sys.states()), Eigen::VectorXd::Zero(sys.states())};
    startAt(b, steady, sys, c, state);
    int now = -1;
    const auto set = [&](bool on) {
        if (now == static_cast<int>(on)) return;
        now = on;
        stepper.jump();
        for (std::size_t k = atRest; k < c.loads.size(); ++k)
            stepper.portSolver().setEmission(sys.portOf[static_cast<std::size_t>(c.loads[k])], on ? 1 : 0);
        for (const DeviceId source : c.sources) {
            Waveform w = std::get<VoltageSource>(c.netlist.devices()[static_cast<std::size_t>(source)]).volts;
            w.amplitude *= on ? d.mainsShare : 1;
            stepper.setSource(sys.sourceOf[static_cast<std::size_t>(source)], w);
        }
    };
    set(false);
    Trace trace(sys, c, seconds / 3000);
    TransientOptions o;
    o.duration = leadIn + seconds;
    o.tolerance = 1e-3;
    o.stop = std::move(stop);
    o.onStep = [&](Stepper& s, const State& at, double) {
        const double t = at.t - leadIn;
        if (t >= 0) trace.add(s, t);
        set(t >= d.from && t < d.until);
        return true;
    };
    if (auto done = runTransient(stepper, state, o); !done) return done.problem();
    return std::move(trace.curve);
}

std::vector<Draw> fullPower(const std::vector<PowerFigures>& power) {
    std::map<int, double> more;
    for (const PowerFigures& p : power)
        if (std::isfinite(p.clipWatts))
            for (const NodeDraw& d : p.clipMore) more[d.node] += d.amps;
    std::vector<Draw> draws;
    draws.reserve(more.size());
    for (const auto& [node, amps] : more) draws.push_back({node, std::max(0.0, amps)});
    return draws;
}

Build withoutChokes(const Build& build) {
    Build b = build;
    for (Section& s : b.supply.sections)
        if (s.kind == SectionKind::Choke) s.kind = SectionKind::Resistor;
    return b;
}

} // namespace ember::plan
