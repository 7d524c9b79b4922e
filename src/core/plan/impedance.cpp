#include "impedance.h"

#include "core/build/build_json.h"
#include "core/circuit/small_signal.h"

#include <cmath>
#include <functional>

namespace ember::plan {

using namespace circuit;

Expected<ImpedanceCurve> supplyImpedance(const Build& b, const Catalogue& catalogue, const Steady& steady, int count,
                                         std::stop_token stop) {
    ImpedanceCurve out;
    SteadyOptions options;
    options.tolerance = 1e-6;
    options.stop = stop;
    WarmStart warm = steady.end ? *steady.end : WarmStart{};
    const auto rest = solveSteady(b, catalogue, steady.conditions, options, &warm);
    if (!rest) return rest.problem();
    const std::vector<NodeLoad> stages = warm.loads; // what they draw and how it follows the volts
    // How far a rectifier's node falls for more current drawn from it.
    const auto sourceOhms = [&](std::size_t node, const std::function<double(const Steady&)>& given) {
        options.musicAmps.assign(steady.nodes.size(), 0);
        options.musicAmps[node] = std::max(1e-3, 0.03 * given(*rest));
        WarmStart near = warm;
        const auto more = solveSteady(b, catalogue, steady.conditions, options, &near);
        if (!more) return Expected<double>(more.problem());
        const double drawn = given(*more) - given(*rest);
        if (!(drawn > 0)) return Expected<double>(Problem{"supply", "the rectifier cannot deliver more current"});
        return Expected<double>(std::max(1e-3, (rest->nodes[node].mean - more->nodes[node].mean) / drawn));
    };
    const auto first = sourceOhms(0, [](const Steady& s) { return s.rectifierMean; });
    if (!first) return first.problem();
    out.sourceOhms = *first;

    Netlist n;
    std::vector<Node> rails{n.node("B+1")};
    n.add(Resistor{rails[0], ground, *first});
    Supply quiet = b.supply;
    for (SupplyLoad& load : quiet.loads) load.amps = 0; // constant: no part of a change
    addChain(n, quiet, rails);
    for (const std::size_t k : tapsOf(b.supply)) {
        const auto node = static_cast<std::size_t>(nodeOfSection(b.supply, k));
        const auto ohms = sourceOhms(node, [&](const Steady& s) { return s.taps.at(b.supply.sections[k].id).mean; });
        if (!ohms) return ohms.problem();
        n.add(Resistor{rails[node], ground, *ohms});
    }
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
