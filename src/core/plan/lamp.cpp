#include "solve.h"

#include "heater.h"
#include "supply_circuit.h"

#include "core/circuit/thermal.h"
#include "core/circuit/transient.h"

#include <algorithm>
#include <cmath>
#include <iterator>

namespace ember::plan {

using namespace circuit;

namespace {

void findFlash(LampCurve& c, double settled) {
    if (c.kelvin.empty()) return;
    const auto top = std::max_element(c.kelvin.begin(), c.kelvin.end());
    c.flashKelvin = *top;
    c.flashSeconds = c.seconds[static_cast<std::size_t>(top - c.kelvin.begin())];
    c.settledSeconds = 0;
    for (std::size_t k = 0; k < c.kelvin.size(); ++k)
        if (std::abs(c.kelvin[k] / settled - 1) > 0.05) c.settledSeconds = c.seconds[k];
}

} // namespace

Expected<LampCurve> lampSwitchOn(const Build& b, const Catalogue& catalogue, const Steady& steady, double seconds,
                                 std::stop_token stop) {
    std::vector<HeaterGroup> heaters = heaterGroups(b, catalogue, steady.conditions);
    SupplyCircuit s =
        supplyCircuit(b, catalogue, steady.conditions, {}, heaters, 293, rectifiersAt(b, catalogue, 0), Filament::Live);
    // The stages as space-charge loads that follow their heaters.
    const auto loads = railLoads(b, steady);
    std::vector<DeviceId> loadDevices;
    loadDevices.reserve(loads.size());
    for (const RailLoad& l : loads)
        loadDevices.push_back(s.netlist.add(
            NonlinearDevice{{s.rails[l.node], ground}, VacuumLaw{l.amps / (l.volts * std::sqrt(l.volts))}, 0}));
    const System sys = assemble(s.netlist);
    Filaments filaments(sys);
    const RectifierType& type = *catalogue.rectifier(b.supply.rectifier.type);
    const auto port = [&](DeviceId d) { return sys.portOf[static_cast<std::size_t>(d)]; };
    // Emission of a type now, over what it is in the steady state that gave the loads.
    const auto emissionOf = [&](const std::string& feeds, const std::string& valve) {
        for (std::size_t k = 0; k < heaters.size(); ++k)
            if (heaters[k].type == valve && (feeds.empty() || b.transformer.heaters[heaters[k].winding].feeds == feeds))
                return emissionAt(filaments.kelvin(sys, s.heaters[k]));
        return 0.0;
    };
    const auto steadyEmission = [&](const std::string& valve) {
        for (const HeaterFigures& h : steady.heaters)
            if (h.valve == valve) return std::max(1e-6, h.emission);
        return 1.0;
    };
    const auto warm = [&](PortSolver& ports) {
        if (type.vacuum)
            for (const DeviceId d : s.rectifiers)
                ports.setEmission(port(d),
                                  emissionOf("rectifier", b.supply.rectifier.type) * b.supply.rectifier.emission);
        for (const std::size_t k : tapsOf(b.supply)) {
            const Section& tap = b.supply.sections[k];
            if (!catalogue.rectifier(tap.type)->vacuum || s.sections[k].empty()) continue;
            for (const std::size_t plate : {0, 1})
                ports.setEmission(port(s.sections[k][plate]), emissionOf(tap.id, tap.type));
        }
        for (std::size_t k = 0; k < loads.size(); ++k) {
            const std::string& valve = loads[k].valve;
            ports.setEmission(port(loadDevices[k]), valve.empty() ? 1 : emissionOf("", valve) / steadyEmission(valve));
        }
    };
    Stepper stepper(sys, 1 / b.mains.frequency / 24, 6);
    State state{0, Eigen::VectorXd::Zero(sys.states()), Eigen::VectorXd::Zero(sys.states())};
    warm(stepper.portSolver());
    LampCurve out;
    const double period = 1 / b.mains.frequency;
    double nextSample = 0, nextWarm = 0;
    TransientOptions o;
    o.duration = seconds;
    o.largestStep = period / 24;
    o.levels = 6;
    o.tolerance = 5e-3;
    o.stop = std::move(stop);
    o.onStep = [&](Stepper& run, const State& at, double h) {
        filaments.step(run.portSolver(), h);
        if (at.t >= nextSample) {
            out.seconds.push_back(at.t);
            out.kelvin.push_back(filaments.kelvin(sys, s.lamp));
            nextSample = at.t + (at.t < 1 ? period / 8 : period);
        }
        if (at.t >= nextWarm) {
            warm(run.portSolver());
            nextWarm = at.t + 0.05;
        }
        return true;
    };
    if (auto done = runTransient(stepper, state, o); !done) return done.problem();
    findFlash(out, steady.lamp.kelvin);
    return out;
}

} // namespace ember::plan
