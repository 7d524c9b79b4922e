#include "impedance.h"

#include "core/circuit/small_signal.h"

#include <cmath>

namespace ember::plan {

using namespace circuit;

Expected<ImpedanceCurve> supplyImpedance(const Build& b, const Catalogue& catalogue, const Steady& steady, int count,
                                         std::stop_token stop) {
    ImpedanceCurve out;
    // How far the first node falls for more current drawn from it.
    const double extra = std::max(1e-3, 0.03 * steady.rectifierMean);
    SteadyOptions options;
    options.tolerance = 1e-6;
    options.stop = stop;
    WarmStart warm;
    const auto rest = solveSteady(b, catalogue, steady.conditions, options, &warm);
    if (!rest) return rest.problem();
    const std::vector<NodeLoad> stages = warm.loads; // what they draw and how it follows the volts
    options.musicAmps.assign(steady.nodes.size(), 0);
    options.musicAmps[0] = extra;
    const auto more = solveSteady(b, catalogue, steady.conditions, options, &warm);
    if (!more) return more.problem();
    const double drawn = more->rectifierMean - rest->rectifierMean;
    if (!(drawn > 0)) return Problem{"supply", "the rectifier gives no more when more is asked of it"};
    out.sourceOhms = (rest->nodes[0].mean - more->nodes[0].mean) / drawn;

    Netlist n;
    std::vector<Node> rails{n.node("B+1")};
    n.add(Resistor{rails[0], ground, std::max(1e-3, out.sourceOhms)});
    Supply quiet = b.supply;
    for (SupplyLoad& load : quiet.loads) load.amps = 0; // constant: no part of a change
    const Chain chain = addChain(n, quiet, rails);
    for (std::size_t k = 0; k < rails.size() && k < stages.size(); ++k)
        if (stages[k].siemens > 0) n.add(Resistor{rails[k], ground, 1 / stages[k].siemens});
    const System sys = assemble(n);
    const SmallSignal small(sys, Eigen::VectorXd::Zero(sys.portTotal()));
    out.ohms.resize(rails.size());
    for (int k = 0; k < count; ++k) {
        const double hertz = std::pow(20e3, double(k) / (count - 1));
        out.hertz.push_back(hertz);
        for (std::size_t r = 0; r < rails.size(); ++r)
            out.ohms[r].push_back(std::abs(small.impedance(rails[r], hertz)));
    }
    return out;
}

} // namespace ember::plan
