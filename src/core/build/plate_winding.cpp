#include "plate_winding.h"

#include <algorithm>

namespace ember {

std::vector<std::size_t> tapsOf(const Supply& supply) {
    std::vector<std::size_t> taps;
    for (std::size_t k = 0; k < supply.sections.size(); ++k)
        if (supply.sections[k].kind == SectionKind::Tap) taps.push_back(k);
    std::stable_sort(taps.begin(), taps.end(),
                     [&](std::size_t a, std::size_t b) { return supply.sections[a].volts < supply.sections[b].volts; });
    return taps;
}

std::vector<Stretch> stretchesOf(const Supply& supply, const PowerTransformer& t) {
    constexpr double leastOhms = 0.01; // a circuit needs some
    std::vector<Stretch> out;
    double volts = 0, ohms = 0;
    const auto to = [&](double nextVolts, double nextOhms) {
        out.push_back({std::max(1e-3 * t.plateVolts, nextVolts - volts), std::max(leastOhms, nextOhms - ohms)});
        volts = nextVolts, ohms = nextOhms;
    };
    if (supply.connection == Connection::CentreTapped)
        for (const std::size_t k : tapsOf(supply)) to(supply.sections[k].volts, supply.sections[k].resistance);
    to(t.plateVolts, t.plateResistance);
    return out;
}

} // namespace ember
