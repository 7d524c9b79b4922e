#include "exposure.h"

#include "fit.h"

#include "core/base/contains.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember::chassis {

double Exposure::db() const {
    return 20 * std::log10(std::max(1e-15, tesla) / allowedTesla);
}

namespace {

/// A pair carrying `amps` with its wires `spacing` apart, at `d` [m]: 2e-7 I s / d^2 [T].
double pairField(double amps, double spacing, double d) {
    d = std::max(d, 0.01);
    return 2e-7 * amps * spacing / (d * d);
}

} // namespace

ExposureFigures exposures(const Chassis& c, const std::vector<Dipole>& dipoles, const Hum& hum) {
    ExposureFigures out;
    for (std::size_t v = 0; v < c.parts.size(); ++v) {
        const PlacedPart& victim = c.parts[v];
        const bool small = contains(hum.smallValves, victim.of);
        if (victim.kind != "jack" && victim.kind != "potentiometer" && !(victim.kind == "socket" && small)) continue;
        // Wires arrive under the chassis, at the part's origin.
        const Vector point = toChassis(frameOf(c, victim), 0, 0, -0.01);
        double square = 0;
        const auto add = [&](std::size_t source, double tesla) {
            if (source == v) return;
            out.pairs.push_back({source, v, tesla});
            square += tesla * tesla;
        };
        for (const Dipole& d : dipoles)
            if (contains(hum.iron, c.parts[d.part].of))
                add(d.part, hum.shareOf(c.parts[d.part].of) * fieldAt(d, point).norm());
        for (std::size_t s = 0; s < c.parts.size(); ++s) {
            const PlacedPart& source = c.parts[s];
            const double d = (toChassis(frameOf(c, source), 0, 0, -0.01) - point).norm();
            if (carriesMains(source))
                add(s, pairField(1, 0.005, d));
            else if (source.kind == "socket" && !hum.rectifier.empty() && source.of == hum.rectifier)
                add(s, 5 * pairField(0.5, 0.01, d));
        }
        out.victims.emplace_back(v, std::sqrt(square));
    }
    std::sort(out.pairs.begin(), out.pairs.end(),
              [](const Exposure& a, const Exposure& b) { return a.tesla > b.tesla; });
    std::sort(out.victims.begin(), out.victims.end(), [](const auto& a, const auto& b) { return a.second > b.second; });
    return out;
}

} // namespace ember::chassis
