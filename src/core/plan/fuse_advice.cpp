#include "fuse_advice.h"

#include "supply_circuit.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace ember::plan {

namespace {

constexpr std::array<double, 26> ratings{0.032, 0.04, 0.05, 0.063, 0.08, 0.1, 0.125, 0.16, 0.2, 0.25, 0.315, 0.4, 0.5,
                                         0.63,  0.8,  1,    1.25,  1.6,  2,   2.5,   3.15, 4,   5,    6.3,   8,   10};

} // namespace

double fuseBears(double amps, bool slow) {
    constexpr double small = 0.1; // [A] up to which the standard asks half as much of a time-lag fuse
    return 100 * amps * amps * (!slow ? 0.001 : amps <= small ? 0.01 : 0.02);
}

double fuseClears(double amps, double rating, bool slow) {
    struct Point {
        double times, quick, slow; // of the rating; the longest [s]
    };
    constexpr std::array<Point, 4> points{{{2.1, 1800, 120}, {2.75, 2, 10}, {4, 0.3, 3}, {10, 0.02, 0.3}}};
    const double times = amps / rating;
    if (!(times >= points.front().times)) return INFINITY;
    const auto longest = [&](const Point& p) { return slow ? p.slow : p.quick; };
    for (std::size_t k = 1; k < points.size(); ++k) {
        const Point &a = points[k - 1], &z = points[k];
        if (times > z.times) continue;
        const double share = std::log(times / a.times) / std::log(z.times / a.times);
        return longest(a) * std::pow(longest(z) / longest(a), share);
    }
    return longest(points.back());
}

std::optional<FuseAdvice> adviseFuse(double continuous, double i2t, bool slow) {
    const auto least = [](const auto& enough) {
        const auto at = std::find_if(ratings.begin(), ratings.end(), enough);
        return at == ratings.end() ? 0.0 : *at;
    };
    FuseAdvice a;
    a.continuous = continuous;
    a.i2t = i2t;
    a.forContinuous = least([&](double r) { return r >= 1.5 * continuous; });
    if (std::isfinite(i2t)) {
        a.forSurge = least([&](double r) { return fuseBears(r, slow) >= i2t; });
        if (a.forSurge == 0) return std::nullopt;
    }
    if (!(a.forContinuous > 0)) return std::nullopt;
    a.amps = std::max(a.forContinuous, a.forSurge);
    return a;
}

std::optional<FuseAdvice> mainsFuse(const Build& b, const Figures& f) {
    return f.high ? adviseFuse(f.high->primaryRms, f.inrush.i2t, b.fuse.slow) : std::nullopt;
}

std::optional<FuseAdvice> chainFuse(const Figures& f, const Section& fuse) {
    if (!f.high) return std::nullopt;
    const auto watts = f.high->partWatts.find(fuse.id);
    if (watts == f.high->partWatts.end()) return std::nullopt;
    const auto surge = f.switchOn.surge.find(fuse.id);
    return adviseFuse(std::sqrt(watts->second / asComputed(fuse).resistance),
                      surge == f.switchOn.surge.end() ? unknown : surge->second, true);
}

} // namespace ember::plan
