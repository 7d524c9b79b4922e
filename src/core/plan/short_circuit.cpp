#include "short_circuit.h"

#include "core/circuit/periodic.h"

#include <algorithm>

namespace ember::plan {

Expected<ShortCircuit> shortedRail(const Build& b, const Catalogue& catalogue, double mainsVolts, double ohms) {
    Conditions c;
    c.mainsVolts = mainsVolts;
    auto heaters = heaterGroups(b, catalogue, c);
    for (HeaterGroup& g : heaters) g.law.kelvin = g.law.hotKelvin;
    SupplyCircuit s = supplyCircuit(b, catalogue, c, {}, heaters, 293, rectifiersAt(b, catalogue, 1));
    s.netlist.add(circuit::Resistor{s.rails.front(), circuit::ground, std::max(1e-3, ohms)});
    const circuit::System sys = circuit::assemble(s.netlist);
    circuit::PeriodicOptions o;
    o.period = 1 / b.mains.frequency;
    o.steps = 96;
    o.levels = 5;
    o.residual = 1e-6;
    o.acceptable = 1e-3;
    circuit::Recording record({circuit::nodeVolts(sys, s.rails.front()), circuit::branchAmps(sys, s.transformer, 0)});
    circuit::Stepper stepper = circuit::periodicStepper(sys, o);
    const auto solved = circuit::periodicSteadyState(stepper, Eigen::VectorXd::Zero(sys.states()), o, &record);
    if (!solved) return Problem{"supply", "shorted: " + solved.problem().sentence};
    return ShortCircuit{record.mean(0) / std::max(1e-3, ohms), record.rms(0) / std::max(1e-3, ohms), record.rms(1)};
}

} // namespace ember::plan
