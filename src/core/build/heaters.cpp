#include "heaters.h"

#include "build.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember {

const HeaterWinding* inSeriesWith(const PowerTransformer& t, const HeaterWinding& w) {
    const auto at = std::find_if(t.heaters.begin(), t.heaters.end(),
                                 [&](const HeaterWinding& x) { return &x != &w && !w.id.empty() && x.feeds == w.id; });
    return at == t.heaters.end() ? nullptr : &*at;
}

const HeaterWinding* mainWindingOf(const PowerTransformer& t, const HeaterWinding& w) {
    const auto at = std::find_if(t.heaters.begin(), t.heaters.end(),
                                 [&](const HeaterWinding& main) { return inSeriesWith(t, main) == &w; });
    return at == t.heaters.end() ? nullptr : &*at;
}

double heaterVolts(const PowerTransformer& t, const HeaterWinding& w) {
    if (w.rectified() && (w.dc.regulator == HeaterRegulator::Linear || w.dc.regulator == HeaterRegulator::LowDropout))
        return w.dc.volts;
    double volts = w.volts;
    if (const HeaterWinding* other = inSeriesWith(t, w)) volts += other->opposed ? -other->volts : other->volts;
    volts = std::max(0.1, volts);
    constexpr double drop = 0.8; // of a silicon diode that conducts in pulses [V]
    switch (w.rectifier) {
    case HeaterRectifier::Bridge: return std::max(0.1, volts * std::numbers::sqrt2 - 2 * drop);
    case HeaterRectifier::FullWave: return std::max(0.1, volts / 2 * std::numbers::sqrt2 - drop);
    case HeaterRectifier::None: break;
    }
    return volts;
}

std::optional<std::size_t> heaterWindingOf(const Build& b, const Valve& v) {
    const auto& windings = b.transformer.heaters;
    for (std::size_t k = 0; k < windings.size(); ++k)
        if (v.heater.empty() ? windings[k].feeds == "signal" : windings[k].id == v.heater) return k;
    return std::nullopt;
}

StringPlace heaterStringOf(const Build& b, const Valve& v, std::size_t winding) {
    StringPlace s;
    if (v.heaterString.empty()) return s;
    s.length = 0;
    for (const Valve& x : b.bottles) {
        if (x.heaterString != v.heaterString || heaterWindingOf(b, x) != winding) continue;
        if (&x == &v || x.id == v.id) s.place = s.length;
        ++s.length;
    }
    return s;
}

double heaterVoltsOf(const Build& b, const Valve& v, std::size_t winding) {
    return heaterVolts(b.transformer, b.transformer.heaters[winding]) /
           static_cast<double>(heaterStringOf(b, v, winding).length);
}

} // namespace ember
