#include "select_on_test.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace ember::bench {

Expected<NextTry> nextTry(const std::vector<Tried>& tries, double target, Series series, bool falling) {
    if (!(target > 0)) return Problem{"", "a target above 0 is expected"};
    std::vector<Tried> by;
    for (const Tried& t : tries) {
        if (!(t.value > 0) || !(t.reading > 0)) return Problem{"", "a try needs a value and a reading above 0"};
        // A value that was tried twice counts with its newest reading.
        std::erase_if(by, [&](const Tried& o) { return std::abs(o.value / t.value - 1) < 1e-6; });
        by.push_back(t);
    }
    if (by.empty()) return Problem{"", "nothing was tried yet"};
    const auto off = [&](const Tried& t) { return std::abs(std::log(t.reading / target)); };
    std::stable_sort(by.begin(), by.end(), [&](const Tried& a, const Tried& b) { return off(a) < off(b); });
    NextTry out;
    // ln reading = c0 + c1 x + c2 x^2 with x = ln(value / nearest).
    const double c0 = std::log(by[0].reading);
    double c1 = falling ? -1 : 1, c2 = 0;
    const auto x = [&](const Tried& t) { return std::log(t.value / by[0].value); };
    if (by.size() > 1) {
        c1 = (std::log(by[1].reading) - c0) / x(by[1]);
        if (std::abs(c1) < 0.02)
            return Problem{"",
                           fmt::format("between {:.4g} and {:.4g} the reading hardly follows the value: another part "
                                       "decides it",
                                       by[0].value, by[1].value)};
    } else {
        out.doubt = "one try alone: taken for proportional";
    }
    if (by.size() > 2) {
        const double second = (std::log(by[2].reading) - c0) / x(by[2]);
        c2 = (second - c1) / (x(by[2]) - x(by[1]));
        const double first = c1 - c2 * x(by[1]);
        // A bend that turns the curve within the tries is scatter of the readings, not a law.
        if (first * (first + 2 * c2 * x(by[2])) > 0 && first * (first + 2 * c2 * x(by[1])) > 0)
            c1 = first;
        else
            c2 = 0, out.doubt = "the readings scatter: a straight line through the nearest two";
    }
    const auto predicted = [&](double value) {
        const double u = std::log(value / by[0].value);
        return std::exp(c0 + c1 * u + c2 * u * u);
    };
    // Newton's method in the logarithms.
    double u = 0;
    for (int k = 0; k < 40; ++k) {
        const double slope = c1 + 2 * c2 * u;
        if (std::abs(slope) < 1e-6) break;
        u -= std::clamp((c0 + c1 * u + c2 * u * u - std::log(target)) / slope, -1.0, 1.0);
    }
    out.wanted = by[0].value * std::exp(u);
    out.slope = c1 + 2 * c2 * u;
    if (!std::isfinite(out.wanted) || std::abs(std::log(predicted(out.wanted) / target)) > 0.01)
        return Problem{"", "the fit does not reach the target: it lies beyond where the reading turns"};
    const double near = nearest(out.wanted, series);
    out.standard = near;
    for (const double v : {nextUp(near, series), nextDown(near, series)})
        if (std::abs(std::log(predicted(v) / target)) < std::abs(std::log(predicted(out.standard) / target)))
            out.standard = v;
    out.expected = predicted(out.standard);
    out.error = out.expected / target - 1;
    const auto [least, most] =
        std::minmax_element(by.begin(), by.end(), [](const Tried& a, const Tried& b) { return a.value < b.value; });
    if (by.size() > 1 && out.doubt.empty() && (out.wanted > 3 * most->value || out.wanted < least->value / 3))
        out.doubt = "far from everything tried";
    return out;
}

} // namespace ember::bench
