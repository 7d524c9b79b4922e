#include "schools.h"

#include <cmath>

namespace ember::wires {

std::vector<School> compareSchools(const Build& build, const Catalogue& catalogue, const plan::Figures& figures) {
    std::vector<School> out;
    HumSolver kept;
    for (std::size_t k = 0; k < groundSchemeNames.size(); ++k) {
        Build b = build;
        b.wiring.grounds = static_cast<GroundScheme>(k);
        const Harness harness = harnessOf(b, catalogue);
        const HumFigures hum =
            kept.solve(b, catalogue, harness, heaterFigures(b, catalogue, harness, figures), figures);
        School s;
        s.scheme = b.wiring.grounds;
        for (const ChannelHum& c : hum.channels)
            if (s.scheme != GroundScheme::ChassisReturn && !(c.rms <= s.rms)) {
                s.rms = c.rms;
                s.returns = c.by[static_cast<std::size_t>(HumSource::Grounds)];
                if (c.channel < figures.power.size())
                    s.belowRatedDb = 20 * std::log10(figures.power[c.channel].clipOutput / c.rms);
            }
        s.loops = hum.loops.size();
        for (const Run& r : harness.runs)
            if (r.kind == RunKind::Ground) s.wire += r.length;
        out.push_back(s);
    }
    return out;
}

} // namespace ember::wires
