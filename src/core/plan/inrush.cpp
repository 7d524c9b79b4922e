#include "heater.h"
#include "mains_iron.h"
#include "solve.h"
#include "supply_circuit.h"

#include "core/circuit/record.h"
#include "core/circuit/thermal.h"
#include "core/circuit/transient.h"

namespace ember::plan {

using namespace circuit;

Expected<Inrush> inrushOf(const Build& b, const Catalogue& catalogue, double mainsVolts, std::stop_token stop) {
    Conditions c;
    c.mainsVolts = mainsVolts;
    const auto heaters = heaterGroups(b, catalogue, c);
    SupplyCircuit s = supplyCircuit(b, catalogue, c, {}, heaters, 293, rectifiersAt(b, catalogue, 0), Filament::Live);
    // The worst instant: from the mains' zero crossing on, with flux left over in the direction in which it rises.
    const MainsCore core = mainsCore(b.transformer);
    auto& iron = std::get<Transformer>(s.netlist.device(s.transformer));
    iron.ratedFlux = core.ratedFlux, iron.saturation = {core.saturationAmps};
    iron.windings.front().ohms += b.mains.loop();
    const System sys = assemble(s.netlist);
    Filaments filaments(sys);
    const double period = 1 / b.mains.frequency;
    Stepper stepper(sys, period / 48, 6);
    State state{0, Eigen::VectorXd::Zero(sys.states()), Eigen::VectorXd::Zero(sys.states())};
    const double turns = iron.windings.front().turns; // the state is in ampere turns
    state.y[sys.stateOf[static_cast<std::size_t>(s.transformer)]] =
        turns * remanence * core.ratedFlux / iron.inductance;
    Recording record({branchAmps(sys, s.transformer, 0)});
    bool begun = false;
    TransientOptions o;
    o.duration = 0.1;
    o.largestStep = period / 48;
    o.levels = 6;
    o.tolerance = 2e-3;
    o.stop = std::move(stop);
    o.onStep = [&](Stepper& run, const State& at, double h) {
        filaments.step(run.portSolver(), h);
        if (!begun)
            record.begin(run, at);
        else
            record.add(run, at, h);
        begun = true;
        return true;
    };
    if (auto done = runTransient(stepper, state, o); !done) return done.problem();
    Inrush out;
    out.peakAmps = std::max(record.most(0), -record.least(0));
    out.i2t = record.rms(0) * record.rms(0) * o.duration;
    return out;
}

} // namespace ember::plan
