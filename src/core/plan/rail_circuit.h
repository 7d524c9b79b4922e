#pragma once
// The supply from the rectifier on, for runs through time: legs as EMF and resistance, stages as space-charge laws.

#include "solve.h"
#include "supply_circuit.h"

#include "core/circuit/transient.h"

namespace ember::plan {

/// The chain with its loads; legs as EMF and the resistance that copper gives them.
struct RailCircuit {
    circuit::Netlist netlist;
    std::vector<circuit::Node> rails;
    Chain sections;
    std::vector<circuit::DeviceId> rectifiers, loads, sources;
};

/// `powered` false: without legs and rectifiers, as after switch-off.
RailCircuit railCircuit(const Build& build, const Catalogue& catalogue, double mainsVolts, bool powered,
                        const std::vector<RailLoad>& loads);

/// Capacitors at their nodes' means and chokes at theirs, as a start.
void startAt(const Build& build, const Steady& steady, const circuit::System& system, const RailCircuit& rails,
             circuit::State& state);

/// Keeps the nodes' volts, thinned to at most `every` seconds.
class Trace {
  public:
    Trace(const circuit::System& s, const RailCircuit& c, double interval) : sys(s), every(interval) {
        for (const circuit::Node r : c.rails) rows.push_back(sys.row(r));
        curve.nodes.resize(rows.size());
    }
    void add(const circuit::Stepper& stepper, double t) {
        if (!curve.seconds.empty() && t < next) return;
        next = t + every;
        stepper.endUnknowns(x);
        curve.seconds.push_back(t);
        for (std::size_t k = 0; k < rows.size(); ++k) curve.nodes[k].push_back(x[rows[k]]);
    }
    Curve curve;

  private:
    const circuit::System& sys;
    std::vector<int> rows;
    circuit::Unknowns x;
    double every, next = 0;
};

} // namespace ember::plan
