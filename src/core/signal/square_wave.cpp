#include "square_wave.h"

#include "sinusoid.h"
#include "spectrum.h"
#include "steady_part.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>
#include <numeric>

namespace ember::signal {

namespace {

constexpr std::size_t places = 8192; // of the folded period

/// The frequency that makes the record's phase the same all along: refined from the phases of its two halves.
double refined(const std::vector<double>& x, double rate, double hertz) {
    for (int round = 0; round < 6; ++round) {
        const auto periods = std::floor(static_cast<double>(x.size()) / rate * hertz / 2);
        if (periods < 1) return hertz;
        const double length = periods / hertz; // whole periods in each half
        const auto phase = [&](double from) {  // against one cosine that runs from the first sample of all
            const auto a = static_cast<std::size_t>(from * rate),
                       z = std::min(x.size(), static_cast<std::size_t>((from + length) * rate));
            return std::arg(sinusoidIn({x.data() + a, z - a}, rate, hertz)) -
                   2 * std::numbers::pi * hertz * static_cast<double>(a) / rate;
        };
        const double by =
            std::remainder(phase(length) - phase(0), 2 * std::numbers::pi) / (2 * std::numbers::pi * length);
        hertz += by;
        if (std::abs(by) < 1e-10 * hertz) break;
    }
    return hertz;
}

/// Monotone cubic through the points of one period (Fritsch and Carlson 1980), so that an edge does not ring by itself.
class Periodic {
  public:
    Periodic(std::vector<double> where, std::vector<double> values) : x(std::move(where)), y(std::move(values)) {
        const std::size_t n = x.size();
        slope.resize(n);
        for (std::size_t k = 0; k < n; ++k) {
            const std::size_t l = (k + n - 1) % n, r = (k + 1) % n;
            const double before = std::fmod(x[k] - x[l] + 1, 1), after = std::fmod(x[r] - x[k] + 1, 1),
                         a = (y[k] - y[l]) / before, z = (y[r] - y[k]) / after;
            slope[k] = a * z <= 0 ? 0 : (before + after) / (before / a + after / z);
        }
    }
    [[nodiscard]] double at(double t) const {
        t -= std::floor(t);
        const auto above = std::upper_bound(x.begin(), x.end(), t);
        const std::size_t n = x.size(), r = above == x.end() ? 0 : static_cast<std::size_t>(above - x.begin()),
                          l = (r + n - 1) % n;
        double width = x[r] - x[l], d = t - x[l];
        if (width <= 0) width += 1;
        if (d < 0) d += 1;
        const double u = d / width, v = 1 - u;
        return v * v * (1 + 2 * u) * y[l] + u * u * (1 + 2 * v) * y[r] + u * v * width * (v * slope[l] - u * slope[r]);
    }

  private:
    std::vector<double> x, y, slope;
};

/// Mean values of neighbours in phase: no more than `most` points of a period.
Periodic folded(const std::vector<double>& x, double rate, double hertz, std::size_t most) {
    std::vector<std::pair<double, double>> all;
    all.reserve(x.size());
    for (std::size_t k = 0; k < x.size(); ++k) {
        const double t = static_cast<double>(k) * hertz / rate;
        all.emplace_back(t - std::floor(t), x[k]);
    }
    std::sort(all.begin(), all.end());
    std::vector<double> where, values;
    const double least = 1.0 / static_cast<double>(most);
    for (std::size_t k = 0; k < all.size();) {
        double sumT = 0, sumV = 0, count = 0;
        const double from = all[k].first;
        for (; k < all.size() && all[k].first - from < least; ++k) sumT += all[k].first, sumV += all[k].second, ++count;
        where.push_back(sumT / count);
        values.push_back(sumV / count);
    }
    if (where.size() > 2 && where.front() + 1 - where.back() < 0.5 * least) where.pop_back(), values.pop_back();
    return {std::move(where), std::move(values)};
}

} // namespace

Expected<SquareAnalysis> analyseSquare(const Capture& c, double known) {
    if (c.volts.size() < 256)
        return Problem{"", fmt::format("the capture has {} samples; at least 256 are needed", c.volts.size())};
    const auto playing = steadyPart(c.volts, c.sampleRate);
    std::vector<double> x(playing.begin(), playing.end());
    for (const double v : x)
        if (!std::isfinite(v)) return Problem{"", "the capture holds values that are no numbers"};
    const double mean = std::accumulate(x.begin(), x.end(), 0.0) / static_cast<double>(x.size());
    for (double& v : x) v -= mean;
    SquareAnalysis out;
    if (known > 0) {
        out.hertz = known;
    } else {
        const PowerSpectrum s = powerSpectrum(x, c.sampleRate);
        out.hertz = s.place(s.strongest((PowerSpectrum::lobe + 1.0) * s.binHertz, 0.5 * c.sampleRate)) * s.binHertz;
    }
    const double periods = static_cast<double>(x.size()) / c.sampleRate * out.hertz;
    if (!(periods >= 2)) return Problem{"", fmt::format("{:.1f} periods are in it; at least two are needed", periods)};
    out.hertz = refined(x, c.sampleRate, out.hertz);
    const double perPeriod = c.sampleRate / out.hertz;
    if (perPeriod < 8) return Problem{"", fmt::format("{:.1f} samples are a period: too few for its shape", perPeriod)};
    const Periodic wave = folded(x, c.sampleRate, out.hertz, places / 2);
    std::vector<double> v(places);
    for (std::size_t k = 0; k < places; ++k) v[k] = wave.at(static_cast<double>(k) / places);
    const double periodMean = std::accumulate(v.begin(), v.end(), 0.0) / places;
    for (double& y : v) y -= periodMean;
    // From the middle of the rising edge on: the steepest place.
    std::size_t edge = 0;
    double steepest = 0;
    for (std::size_t k = 0; k < places; ++k)
        if (const double rise = v[(k + 8) % places] - v[k]; rise > steepest) steepest = rise, edge = (k + 4) % places;
    std::rotate(v.begin(), v.begin() + static_cast<std::ptrdiff_t>(edge), v.end());
    out.period = v;
    const auto at = [&](std::ptrdiff_t k) {
        return v[static_cast<std::size_t>((k % static_cast<std::ptrdiff_t>(places) + places) % places)];
    };
    constexpr auto half = static_cast<std::ptrdiff_t>(places / 2);
    // The plateau as an exponential: its logarithm over the later half of the half period.
    const auto plateau = [&](std::ptrdiff_t from, double sign) {
        double n = 0, sx = 0, sy = 0, sxx = 0, sxy = 0;
        for (std::ptrdiff_t k = half * 55 / 100; k < half * 96 / 100; k += 4) {
            const double y = sign * at(from + k);
            if (!(y > 0)) return std::pair{0.0, 0.0};
            const double t = static_cast<double>(k) / half, l = std::log(y);
            n += 1, sx += t, sy += l, sxx += t * t, sxy += t * l;
        }
        // A level that still rises comes to rest: it has no tilt.
        const double slope = std::min(0.0, (n * sxy - sx * sy) / (n * sxx - sx * sx));
        if (slope == 0) return std::pair{sign * at(from + half * 96 / 100), 0.0};
        return std::pair{std::exp((sy - slope * sx) / n), slope}; // level at the edge, per half period
    };
    const auto top = plateau(0, 1);
    const double high = top.first, decay = top.second;
    const auto [low, decayLow] = plateau(half, -1);
    const bool steady = high > 0 && low > 0;
    const double crest = *std::max_element(v.begin(), v.end());
    if (!steady || std::abs(decay - decayLow) > 0.2 * std::max(0.05, std::abs(decay))) {
        if (!steady) {
            out.trust.push_back("behind its edges it does not stay on one side: this is no square wave, or its low "
                                "corner is above its frequency");
            return out;
        }
        out.trust.push_back(
            "its two halves tilt by different amounts: the generator's duty is not a half, or it clips");
    }
    const double slope = 0.5 * (decay + decayLow);
    out.tiltPercent = 100 * (1 - std::exp(slope));
    if (slope < 0) out.lowCorner = -slope * out.hertz / std::numbers::pi;
    // The step: from the lower half's end to the upper half's beginning.
    const double base = -low * std::exp(decayLow), step = high - base;
    const auto crossing = [&](double level) {
        std::ptrdiff_t k = 0;
        if (at(0) >= level)
            while (k > -half / 2 && at(k - 1) >= level) --k;
        else
            while (k < half / 2 && at(k) < level) ++k;
        const double a = at(k - 1), z = at(k);
        return static_cast<double>(k - 1) + (z > a ? (level - a) / (z - a) : 0);
    };
    const double rise = (crossing(base + 0.9 * step) - crossing(base + 0.1 * step)) / places / out.hertz;
    out.riseSeconds = rise;
    out.highCorner = 0.35 / rise;
    const double samples = rise * c.sampleRate;
    if (samples < 3)
        out.trust.push_back(
            fmt::format("the edge takes {:.1f} samples: rise and overshoot may be the recorder's own", samples));
    // What is left over the plateau: overshoot and ringing.
    const auto left = [&](std::ptrdiff_t k) {
        return (at(k) - high * std::exp(decay * static_cast<double>(k) / half)) / step;
    };
    std::vector<std::pair<double, double>> extrema; // place, height
    double noise = 0;
    for (std::ptrdiff_t k = half * 70 / 100; k < half * 95 / 100; ++k) noise = std::max(noise, std::abs(left(k)));
    const double least = std::max(0.004, 1.5 * noise);
    const auto start = static_cast<std::ptrdiff_t>(std::ceil(crossing(base + 0.97 * step)));
    double best = 0;
    std::ptrdiff_t bestAt = start;
    for (std::ptrdiff_t k = std::max<std::ptrdiff_t>(0, start); k < half * 70 / 100; ++k) {
        const double r = left(k);
        if (extrema.empty() && best == 0 && r < 0) continue; // not yet over it
        if ((r > 0) != (best > 0) && best != 0) {
            if (std::abs(best) < least) break;
            extrema.emplace_back(static_cast<double>(bestAt), best);
            best = 0;
        }
        if (std::abs(r) > std::abs(best)) best = r, bestAt = k;
    }
    out.overshootPercent = extrema.empty() ? 0 : 100 * std::max(0.0, extrema.front().second);
    if (extrema.size() >= 2) {
        // Half a turn from one to the next; their ratio is exp(-pi z / sqrt(1 - z^2)).
        double ratio = 0, apart = 0, count = 0;
        for (std::size_t k = 1;
             k < extrema.size() && std::abs(extrema[k].second) >= std::max(least, 0.08 * std::abs(extrema[0].second));
             ++k) {
            ratio += std::log(std::abs(extrema[k - 1].second / extrema[k].second));
            apart += extrema[k].first - extrema[k - 1].first;
            ++count;
        }
        if (count > 0) {
            const double d = ratio / count / std::numbers::pi;
            out.damping = d / std::sqrt(1 + d * d);
            out.ringingHertz = 0.5 * places * out.hertz / (apart / count);
        }
    }
    if (crest > 0 && c.fullScale > 0 && crest + std::abs(mean) > 0.999 * c.fullScale)
        out.trust.push_back("the capture reaches its full scale: it may be clipped");
    return out;
}

} // namespace ember::signal
