#include "clips.h"

#include "run_figures.h"

#include <algorithm>
#include <cmath>

namespace ember::wires {

bool endsInClips(const Chassis& c, const Run& r) {
    return c.form == ChassisForm::Board && r.kind != RunKind::Mains && r.kind != RunKind::Earth &&
           r.wire.to != chassisEnd;
}

Clips clipsOf(const Chassis& c, const Harness& h) {
    Clips out;
    for (const Run& r : h.runs) {
        if (!endsInClips(c, r)) continue;
        out.count += 2;
        if (std::isfinite(r.worstVolts)) out.volts = std::max(out.volts, std::abs(r.worstVolts));
    }
    out.rated = insulationFor(out.volts);
    return out;
}

} // namespace ember::wires
