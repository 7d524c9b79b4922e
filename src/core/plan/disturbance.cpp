#include "disturbance.h"

#include "rail_circuit.h"

#include <cmath>
#include <numbers>

namespace ember::plan {

using namespace circuit;

namespace {

constexpr double leadIn = 0.4; // [s] from the means to the ripple that belongs to them

}

Expected<Curve> disturbed(const Build& b, const Catalogue& catalogue, const Steady& steady, const Disturbance& d,
                          double seconds, std::stop_token stop) {
    if (d.node < 1 || d.node > static_cast<int>(steady.nodes.size())) return Problem{"supply", "there is no such node"};
    auto loads = railLoads(b, steady);
    const auto node = static_cast<std::size_t>(d.node - 1);
    const bool more = d.amps > 0 && steady.nodes[node].mean > 1;
    if (more) loads.push_back({node, d.amps, steady.nodes[node].mean, true});
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
        if (more) stepper.portSolver().setEmission(sys.portOf[static_cast<std::size_t>(c.loads.back())], on ? 1 : 0);
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
    o.stop = stop;
    o.onStep = [&](Stepper& s, const State& at, double) {
        const double t = at.t - leadIn;
        if (t >= 0) trace.add(s, t);
        set(t >= d.from && t < d.until);
        return true;
    };
    if (auto done = runTransient(stepper, state, o); !done) return done.problem();
    return std::move(trace.curve);
}

double burstAmps(const Build& b, const Figures& f) {
    double more = 0;
    for (std::size_t k = 0; k < b.channels.size() && k < f.power.size() && f.nominal; ++k) {
        const double watts = f.power[k].clipWatts, load = b.channels[k].pair.transformer.primaryImpedance;
        if (!std::isfinite(watts)) continue;
        const plan::ChannelPoint& p = f.nominal->channels[k];
        more += std::max(0.0, 2 / std::numbers::pi * std::sqrt(8 * watts / load) - p.plateAmpsA - p.plateAmpsB);
    }
    return more;
}

Build withoutChokes(const Build& build) {
    Build b = build;
    for (Section& s : b.supply.sections)
        if (s.kind == SectionKind::Choke) s.kind = SectionKind::Resistor;
    return b;
}

} // namespace ember::plan
