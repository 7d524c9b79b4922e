#include "bias_range.h"

#include "supply_circuit.h"

#include <cmath>

namespace ember::plan {

BiasRange biasRange(const BiasSupply& bias, const Steady& s) {
    if (!std::isfinite(s.biasRail)) return {};
    return {s.biasRail * wiperShare(bias, 1), s.biasRail * wiperShare(bias, 0),
            bias.failSafe > 0 ? s.biasRail : unknown};
}

double gridForWatts(const TypeSection& valve, double plate, double screen, double watts) {
    if (!(plate > 1)) return unknown;
    double hot = 0, cold = valve.pentode ? -screen : -plate; // the current falls all the way
    while (hot - cold > 1e-3) {
        const double middle = (hot + cold) / 2;
        const bool tooHot = figuresAt(valve.law, plate, middle, screen).plateAmps * plate > watts;
        (tooHot ? hot : cold) = middle;
    }
    return cold;
}

double coldEnough(const Build& b, const Catalogue& catalogue, const Steady& s) {
    double coldest = unknown;
    for (const ChannelPoint& p : s.channels)
        for (const ValvePoint& v : p.valves) {
            const ValveType* type = v.adjuster < 0 ? nullptr : catalogue.valve(b.bottles[v.bottle].type);
            if (!type || v.duty != schematic::Duty::Output) continue;
            const TypeSection& section = type->section(v.section);
            if (!(section.limits.plateWatts > 0)) continue; // none is published
            const double own =
                gridForWatts(section, v.plate - v.cathode, v.screen - v.cathode, coldShare * section.limits.plateWatts);
            if (!(own >= coldest)) coldest = own;
        }
    return coldest;
}

} // namespace ember::plan
