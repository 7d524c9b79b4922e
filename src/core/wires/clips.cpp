#include "clips.h"

#include <algorithm>
#include <cmath>

namespace ember::wires {

bool endsInClips(const Chassis& c, const Run& r) {
    return c.form == ChassisForm::Board && r.kind != RunKind::Mains && r.kind != RunKind::Earth &&
           r.wire.to != chassisEnd;
}

Clips clipsOf(const Chassis& c, const Harness& h) {
    constexpr double spare = 1.2, step = 100;
    Clips out;
    for (const Run& r : h.runs) {
        if (!endsInClips(c, r)) continue;
        out.count += 2;
        if (std::isfinite(r.worstVolts)) out.volts = std::max(out.volts, std::abs(r.worstVolts));
    }
    out.rated = step * std::ceil(spare * out.volts / step);
    return out;
}

} // namespace ember::wires
