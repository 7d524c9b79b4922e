#include "faults.h"

#include "core/quantity/letters.h"

#include <fmt/format.h>

#include <algorithm>

namespace ember::bench {

namespace {
constexpr double open = 1e9; ///< [ohm]
} // namespace

std::vector<Fault> faultsOf(const Build& b) {
    std::vector<Fault> out;
    const auto& sections = b.supply.sections;
    const auto first = std::find_if(sections.begin(), sections.end(),
                                    [](const Section& s) { return s.kind == SectionKind::Capacitor; });
    if (first != sections.end()) {
        const auto at = static_cast<std::size_t>(first - sections.begin());
        out.push_back({"leaky-reservoir", fmt::format("{} leaks: 4 kΩ across it", upper(first->id)),
                       [at](Build& x) { x.supply.sections[at].leakageResistance = 4e3; }});
        out.push_back({"open-reservoir", fmt::format("{} is open or not connected", upper(first->id)),
                       [at](Build& x) { x.supply.sections[at].capacitance = 2e-9; }});
    }
    if (biasIsFed(b.bias, b.transformer))
        out.push_back({"open-bias", fmt::format("the bias supply is open at {}", upper(b.bias.series.id)),
                       [](Build& x) { x.bias.series.resistance = open; }});
    out.push_back({"weak-rectifier", fmt::format("{} is worn out", upper(b.supply.rectifier.id)),
                   [](Build& x) { x.supply.rectifier.emission = 0.2; }});
    for (std::size_t k = 0; k < b.channels.size(); ++k) {
        const Channel& ch = b.channels[k];
        const std::string suffix = "-" + ch.id;
        out.push_back({"dead-small-valve" + suffix, fmt::format("{} is dead or its heater is open", upper(ch.small.id)),
                       [k](Build& x) { x.channels[k].small.emission = 0; }});
        out.push_back({"half-winding-open" + suffix,
                       fmt::format("the plate winding half to {} is open", upper(ch.pair.a.id)),
                       [k](Build& x) { x.channels[k].pair.transformer.primaryResistanceA = open; }});
        out.push_back({"leaky-coupling" + suffix,
                       fmt::format("{} leaks: its grid is pulled up", upper(ch.pair.couplingA.id)),
                       [k](Build& x) { x.channels[k].pair.couplingA.leakageResistance = 4e6; }});
    }
    return out;
}

} // namespace ember::bench
