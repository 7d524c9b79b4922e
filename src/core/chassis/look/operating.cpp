#include "operating.h"

#include "core/chassis/assembly.h"

#include <algorithm>
#include <cmath>

namespace ember::chassis::look {

Operating operatingOf(const Build& b, const plan::Figures& f) {
    Operating out;
    if (!f.nominal) return out;
    const plan::Steady& s = *f.nominal;
    out.lamp = true;
    const auto heated = [&](const std::string& id, const std::string& type) {
        for (const plan::HeaterFigures& h : s.heaters)
            if (h.valve == type && h.ratedVolts > 0)
                out.heaters[id] = std::max(out.heaters[id], h.volts / h.ratedVolts);
    };
    for (const Valve& v : b.bottles) heated(v.id, v.type);
    heated(b.supply.rectifier.id, b.supply.rectifier.type);
    for (const Section& x : b.supply.sections) {
        if (x.kind == SectionKind::Tap) heated(x.id, x.type);
        if (x.kind != SectionKind::Meter || !(x.amps > 0) || !(x.resistance > 0)) continue;
        const auto watts = s.partWatts.find(x.id);
        if (watts != s.partWatts.end()) out.meters[x.id] = std::sqrt(watts->second / x.resistance) / x.amps;
    }
    return out;
}

Proportions proportionsOf(const Chassis& c, const LayoutFigures& layout) {
    Proportions out;
    double heights = 0;
    int standing = 0;
    for (std::size_t k = 0; k < c.parts.size() && k < layout.assembly.of.size(); ++k) {
        const PlacedPart& p = c.parts[k];
        if (!isPlate(p.face)) continue;
        double high = 0;
        for (const std::size_t n : layout.assembly.of[k])
            high = std::max(high, layout.assembly.bodies[n].solid.highest() - plateHeight(c, p.face));
        if (!(high > 5e-3)) continue;
        if (isIron(p)) out.underIron += footprint(p).area() / ((isTower(c) ? 2 : 1) * c.width * c.depth);
        heights += high, ++standing;
        out.tallest = std::max(out.tallest, high);
    }
    if (standing > 0) out.overMean = out.tallest / (heights / standing);
    out.massX = layout.massCentre.x() - c.width / 2, out.massY = layout.massCentre.y() - c.depth / 2;
    return out;
}

} // namespace ember::chassis::look
