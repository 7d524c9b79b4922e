#include "choke_flux.h"

#include "core/build/build_json.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember::plan {

Phasors alternatingFlux(const Build& b, const Steady& s, std::size_t k) {
    const Section& x = b.supply.sections[k];
    if (x.kind != SectionKind::Choke || !(x.inductance * x.amps > 0)) return {};
    const auto after = static_cast<std::size_t>(nodeOfSection(b.supply, k)); // index of the node behind it
    if (after == 0 || after >= s.nodes.size()) return {};
    const Phasors &before = s.nodes[after - 1].ripple, &behind = s.nodes[after].ripple;
    Phasors out(std::min(before.size(), behind.size()));
    for (std::size_t e = 0; e < out.size(); ++e) {
        const double omega = 2 * std::numbers::pi * b.mains.frequency * static_cast<double>(e + 1);
        out[e] = std::numbers::sqrt2 * (before[e] - behind[e]) / (omega * x.inductance * x.amps);
    }
    return out;
}

double alternatingShare(const Build& b, const Steady& s, std::size_t k) {
    double squares = 0;
    for (const auto& flux : alternatingFlux(b, s, k)) squares += std::norm(flux);
    return std::sqrt(squares);
}

} // namespace ember::plan
