// Squares through what is known of the way: the source's own shape taken out, the expected picture from a response.
#include "square_wave.h"

#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>

namespace ember::signal {

namespace {

using Complex = std::complex<double>;
constexpr double wholeTurn = 2 * std::numbers::pi;

/// Harmonic of one period: what it is times sin(order w t) and cos(order w t), as (sine part, cosine part).
Complex part(const std::vector<double>& period, int order) {
    Complex sum = 0;
    const double n = static_cast<double>(period.size());
    for (std::size_t k = 0; k < period.size(); ++k)
        sum += period[k] * std::polar(2 / n, -wholeTurn * order * static_cast<double>(k) / n);
    return sum; // of A sin(w t + p): A exp(i (p - pi/2))
}

std::vector<double> summed(const std::vector<std::pair<int, Complex>>& parts, std::size_t count) {
    std::vector<double> out(count, 0.0);
    for (const auto& [order, c] : parts)
        for (std::size_t k = 0; k < count; ++k)
            out[k] +=
                (c * std::polar(1.0, wholeTurn * order * static_cast<double>(k) / static_cast<double>(count))).real();
    return out;
}

} // namespace

Expected<Capture> withoutSource(const Capture& capture, const Capture& source, double hertz) {
    const auto a = analyseSquare(capture, hertz), s = analyseSquare(source, hertz);
    if (!a) return a.problem();
    if (!s) return Problem{"the source's square", s.problem().sentence};
    if (std::abs(a->hertz / s->hertz - 1) > 0.01 || a->period.size() < 32 || s->period.size() < 32)
        return Problem{"", "the source's square is of another frequency, or either has too few samples in a period"};
    const Complex first = part(s->period, 1);
    std::vector<std::pair<int, Complex>> parts;
    const int most = static_cast<int>(std::min(a->period.size(), s->period.size()) / 2) - 1;
    for (int order = 1; order < most; order += 2) {
        const Complex own = part(s->period, order);
        // An ideal square that rises where the source's first harmonic does: the n-th is a n-th of it, n times its
        // phase.
        const Complex ideal = std::polar(std::abs(first) / order,
                                         order * (std::arg(first) + std::numbers::pi / 2) - std::numbers::pi / 2);
        if (std::abs(own) < 0.01 * std::abs(ideal)) break;
        parts.emplace_back(order, part(a->period, order) / own * ideal);
    }
    const std::size_t count = a->period.size();
    const auto period = summed(parts, count);
    Capture out;
    out.sampleRate = a->hertz * static_cast<double>(count);
    out.fullScale = capture.fullScale, out.source = capture.source;
    constexpr int periods = 12;
    for (int k = 0; k < periods; ++k) out.volts.insert(out.volts.end(), period.begin(), period.end());
    return out;
}

std::vector<double> squareThrough(const std::vector<ResponsePoint>& r, double hertz, std::size_t count) {
    std::vector<std::pair<int, Complex>> parts;
    for (int order = 1; !r.empty() && order * hertz <= r.back().hertz; order += 2) {
        const auto above = std::lower_bound(r.begin(), r.end(), order * hertz,
                                            [](const ResponsePoint& p, double hz) { return p.hertz < hz; });
        if (above == r.begin()) continue;
        const auto below = above - 1;
        const double share = std::log(order * hertz / below->hertz) / std::log(above->hertz / below->hertz),
                     db = below->db + share * (above->db - below->db),
                     degrees = below->degrees + share * (above->degrees - below->degrees);
        parts.emplace_back(order, std::polar(4 / (std::numbers::pi * order) * std::pow(10, db / 20),
                                             degrees * std::numbers::pi / 180 - std::numbers::pi / 2));
    }
    return summed(parts, count);
}

} // namespace ember::signal
