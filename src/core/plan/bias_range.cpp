#include "bias_range.h"

#include "supply_circuit.h"

#include <cmath>

namespace ember::plan {

BiasRange biasRange(const BiasSupply& bias, const Steady& s) {
    if (!std::isfinite(s.biasRail)) return {};
    return {s.biasRail * wiperShare(bias, 1), s.biasRail * wiperShare(bias, 0),
            bias.failSafe > 0 ? s.biasRail : unknown};
}

double gridForWatts(const ValveType& type, double plate, double screen, double watts) {
    if (!type.pentode || !(plate > 1)) return unknown;
    double hot = 0, cold = -screen; // the current falls all the way
    while (hot - cold > 1e-3) {
        const double middle = (hot + cold) / 2;
        const bool tooHot = figuresAt(type.law, plate, middle, screen).plateAmps * plate > watts;
        (tooHot ? hot : cold) = middle;
    }
    return cold;
}

double coldEnough(const Build& b, const Catalogue& catalogue, const Steady& s) {
    if (b.channels.empty() || s.channels.empty()) return unknown;
    const ValveType* type = catalogue.valve(b.channels[0].pair.a.type);
    const ChannelPoint& p = s.channels[0];
    const double plate = p.plateA - p.senseA, screen = p.screenA - p.senseA;
    return type ? gridForWatts(*type, plate, screen, coldShare * type->limits.plateWatts) : unknown;
}

} // namespace ember::plan
