#include "response_takes.h"

#include "app/widgets/words.h"

#include <algorithm>
#include <cmath>

namespace ember::app {

double edgeOf(const MeasuredResponse& m, bool high) {
    double found = plan::unknown;
    for (std::size_t k = 1; k < m.hertz.size(); ++k) {
        const bool falls = m.db[k - 1] > -3.0103 && m.db[k] <= -3.0103,
                   rises = m.db[k - 1] <= -3.0103 && m.db[k] > -3.0103;
        if ((high && falls && m.hertz[k] > 1000 && !std::isfinite(found)) || (!high && rises && m.hertz[k] < 1000)) {
            const double share = (-3.0103 - m.db[k - 1]) / (m.db[k] - m.db[k - 1]);
            found = m.hertz[k - 1] * std::pow(m.hertz[k] / m.hertz[k - 1], share);
        }
    }
    return found;
}

QString ends(double low, double high, const std::vector<double>& hertz) {
    const auto hz = [](double value) { return text(value, Unit::Hertz); };
    if (hertz.empty()) return {};
    if (std::isfinite(low) && std::isfinite(high)) return QString("-3 dB at %1 and %2").arg(hz(low), hz(high));
    if (std::isfinite(low)) return QString("-3 dB at %1, less up to %2").arg(hz(low), hz(hertz.back()));
    if (std::isfinite(high)) return QString("less than 3 dB down to %1, -3 dB at %2").arg(hz(hertz.front()), hz(high));
    return QString("within 3 dB from %1 to %2").arg(hz(hertz.front()), hz(hertz.back()));
}

QString farthestApart(const std::vector<double>& hertz, const std::vector<double>& db) {
    std::size_t at = hertz.size();
    for (std::size_t k = 0; k < db.size(); ++k)
        if (std::isfinite(db[k]) && (at == hertz.size() || std::abs(db[k]) > std::abs(db[at]))) at = k;
    if (at == hertz.size()) return {};
    return QString(" The compared take (dashed) is at most %1 dB off, at %2 (dotted: the difference).")
        .arg(std::abs(db[at]), 0, 'f', 2)
        .arg(text(hertz[at], Unit::Hertz));
}

std::vector<double> differenceOf(const MeasuredResponse& now, const MeasuredResponse& then) {
    std::vector<double> out;
    for (const double hertz : now.hertz) {
        const auto above = std::lower_bound(then.hertz.begin(), then.hertz.end(), hertz);
        const auto n = static_cast<std::size_t>(above - then.hertz.begin());
        const double here = now.db[out.size()];
        if (above == then.hertz.end() || (n == 0 && *above != hertz)) {
            out.push_back(plan::unknown);
        } else if (n == 0) {
            out.push_back(here - then.db.front());
        } else {
            const double share = std::log(hertz / then.hertz[n - 1]) / std::log(then.hertz[n] / then.hertz[n - 1]);
            out.push_back(here - then.db[n - 1] - share * (then.db[n] - then.db[n - 1]));
        }
    }
    return out;
}

} // namespace ember::app
