#include "response.h"

#include "transform.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <future>
#include <numbers>
#include <numeric>
#include <optional>

namespace ember::signal {

namespace {

using Complex = std::complex<double>;
using Bins = std::vector<Complex>;
constexpr double fullTurn = 2 * std::numbers::pi;
constexpr int mostHarmonic = 5;
constexpr double perOctave = 24;

/// What a sweep is, read from its samples: where it begins and ends, and between which frequencies.
struct SweepFacts {
    double from = 0, to = 0, start = 0, seconds = 0;
    [[nodiscard]] double constant() const { return seconds / std::log(to / from); } ///< L [s]
    [[nodiscard]] double timeOf(double hertz) const { return start + constant() * std::log(hertz / from); }
};

/// Zero crossings give the phase, half a turn each; L and the first frequency follow from three of them, as the
/// phase of an exponential sweep is 2 pi f1 L (exp(t / L) - 1).
std::optional<SweepFacts> factsOf(const Capture& s) {
    const double rate = s.sampleRate;
    const double crest = crestOf(s.volts);
    if (!(crest > 0)) return std::nullopt;
    std::vector<double> crossings; // [s]
    std::size_t last = 0, first = s.volts.size();
    for (std::size_t k = 0; k < s.volts.size(); ++k)
        if (std::abs(s.volts[k]) > 1e-4 * crest) last = k, first = std::min(first, k);
    for (std::size_t k = first; k + 1 <= last && k + 1 < s.volts.size(); ++k) {
        const double a = s.volts[k], b = s.volts[k + 1];
        if ((a < 0) != (b < 0)) crossings.push_back((static_cast<double>(k) + a / (a - b)) / rate);
    }
    if (crossings.size() < 40) return std::nullopt;
    // Local frequency about two places, over enough crossings each.
    const auto frequency = [&](std::size_t at, std::size_t wide) {
        const std::size_t from = at > wide ? at - wide : 0, to = std::min(crossings.size() - 1, at + wide);
        return std::pair{0.5 * (crossings[from] + crossings[to]),
                         0.5 * static_cast<double>(to - from) / (crossings[to] - crossings[from])};
    };
    const double end = static_cast<double>(last + 1) / rate, begin = static_cast<double>(first) / rate;
    // Places in time, not in crossings: most of those are at the end.
    const auto near = [&](double t) {
        return static_cast<std::size_t>(std::lower_bound(crossings.begin(), crossings.end(), t) - crossings.begin());
    };
    const double length = end - begin;
    const std::size_t a = near(begin + 0.45 * length), z = near(begin + 0.85 * length);
    if (a < 4 || z + 8 >= crossings.size() || z <= a + 8) return std::nullopt;
    auto [ta, fa] = frequency(a, std::max<std::size_t>(4, a / 50));
    auto [tz, fz] = frequency(z, std::max<std::size_t>(4, z / 200));
    if (!(fz > 1.5 * fa)) return std::nullopt;
    double L = (tz - ta) / std::log(fz / fa);
    // The number of crossings up to the middle one must be what L says: Newton's method with a numerical slope.
    for (int k = 0; k < 50; ++k) {
        const double grown = 0.5 * static_cast<double>(z - a),
                     f1 = grown / (L * (std::exp((crossings[z] - crossings[a]) / L) - 1)),
                     half = crossings[(a + z) / 2], turns = f1 * L * (std::exp((half - crossings[a]) / L) - 1),
                     wanted = 0.5 * static_cast<double>((a + z) / 2 - a);
        const double step = 1e-4 * L,
                     f2 = grown / ((L + step) * (std::exp((crossings[z] - crossings[a]) / (L + step)) - 1)),
                     other = f2 * (L + step) * (std::exp((half - crossings[a]) / (L + step)) - 1);
        const double slope = (other - turns) / step;
        if (slope == 0 || !std::isfinite(slope)) break;
        const double by = std::clamp((wanted - turns) / slope, -0.1 * L, 0.1 * L);
        L += by;
        if (std::abs(by) < 1e-12 * L) break;
    }
    const double fAt =
        0.5 * static_cast<double>(z - a) / (L * (std::exp((crossings[z] - crossings[a]) / L) - 1)); // at crossing a
    SweepFacts f;
    f.start = begin;
    f.seconds = length;
    f.from = fAt * std::exp((begin - crossings[a]) / L);
    f.to = fAt * std::exp((end - crossings[a]) / L);
    if (!(f.from > 0.1 && f.to > 2 * f.from && f.to < rate)) return std::nullopt;
    f.seconds = L * std::log(f.to / f.from);
    return f;
}

/// Both records over the same whole seconds, so that their bins stand at the same frequencies whatever their rates.
struct Deconvolved {
    /// Sums over two ranges of the transfer's bins, each times its neighbour's conjugate: how its phase turns there.
    std::optional<Complex> low, high;
    double lowHertz = 0, highHertz = 0; ///< middles of the ranges
    std::vector<double> ideal;          ///< what a wire would give: the band's edges alone
    std::vector<double> impulse;
    /// Of the lower part of the band alone, at a lower rate: roughly where the impulse stands.
    std::vector<double> within;
    double binHertz = 0, rate = 0, withinRate = 0; ///< the rates of `impulse` and `within`
};
/// `wanted`: whether `ideal` is.
Deconvolved deconvolve(const Capture& y, const Capture& x, const SweepFacts& f, bool wanted) {
    const double longest = std::max(static_cast<double>(y.volts.size()) / y.sampleRate,
                                    static_cast<double>(x.volts.size()) / x.sampleRate);
    const double seconds = std::ceil(longest + static_cast<double>(x.volts.size()) / x.sampleRate);
    Deconvolved d;
    d.binHertz = 1 / seconds;
    d.rate = y.sampleRate;
    const auto lengthAt = [&](double rate) { return static_cast<std::size_t>(std::lround(seconds * rate)) / 2 * 2; };
    // Two at a time, where there are two processors: the transforms are nearly all of the work.
    auto other = std::async(std::launch::async, [&] { return transformOf(y.volts, lengthAt(y.sampleRate)); });
    Bins X = transformOf(x.volts, lengthAt(x.sampleRate)), Y = other.get();
    double most = 0;
    for (const Complex& b : X) most = std::max(most, std::norm(b));
    const double scale = x.sampleRate / y.sampleRate;
    const auto limit = std::min(X.size(), Y.size());
    const auto rise = [](double share) {
        return share >= 1 ? 1 : share <= 0 ? 0 : 0.5 - 0.5 * std::cos(std::numbers::pi * share);
    };
    // Of the sweep alone: outside, what little it has is divided by.
    const double reach = std::min(0.95 * f.to, std::max(20 * f.from, 3000.0));
    const std::size_t length = smoothLengthFrom(2 * (static_cast<std::size_t>(1.1 * reach / d.binHertz) + 1));
    Bins within(length / 2 + 1, 0);
    d.withinRate = static_cast<double>(length) * d.binHertz;
    const auto first = std::max<std::size_t>(1, static_cast<std::size_t>(0.4 * f.from / d.binHertz)),
               last = std::min(limit, static_cast<std::size_t>(1.03 * f.to / d.binHertz) + 1);
    // In place: the capture over the stimulus, and what a wire would give, zero outside of the sweep.
    X.resize(Y.size());
    for (Bins* bins : {&X, &Y}) {
        std::fill(bins->begin(), bins->begin() + static_cast<std::ptrdiff_t>(std::min(first, bins->size())),
                  Complex(0));
        std::fill(bins->begin() + static_cast<std::ptrdiff_t>(std::min(last, bins->size())), bins->end(), Complex(0));
    }
    for (std::size_t k = first; k < last; ++k) {
        const double hertz = static_cast<double>(k) * d.binHertz, norm = std::norm(X[k]);
        const double edge =
            rise((hertz / f.from - 0.4) / 0.4) * rise((1.03 - hertz / f.to) / 0.03); // so that neither end rings
        const double divided = edge / (norm + 1e-9 * most);
        Y[k] = scale * divided * (Y[k] * std::conj(X[k]));
        X[k] = divided * norm;
        if (hertz > 1.1 * f.from && hertz < reach) within[k] = Y[k];
    }
    // Where an amplifier's own delay hardly changes.
    const auto turning = [&](double from, double& middle) -> std::optional<Complex> {
        middle = 1.14 * from;
        const auto begin = static_cast<std::size_t>(from / d.binHertz),
                   end = std::min(Y.size() - 1, static_cast<std::size_t>(1.3 * from / d.binHertz));
        if (end <= begin + 8) return std::nullopt;
        Complex sum = 0;
        for (std::size_t k = begin; k < end; ++k) sum += Y[k + 1] * std::conj(Y[k]);
        return sum;
    };
    d.low = turning(std::max(3 * f.from, std::min(1000.0, 0.05 * f.to)), d.lowHertz);
    d.high = turning(0.45 * f.to, d.highHertz);
    auto wire = std::async(std::launch::async, [&] {
        return wanted ? recordOf(std::move(X), lengthAt(y.sampleRate)) : std::vector<double>{};
    });
    d.impulse = recordOf(std::move(Y), lengthAt(y.sampleRate));
    d.within = recordOf(std::move(within), length);
    d.ideal = wire.get();
    return d;
}

/// A piece of the impulse response about `centre` [s], its ends faded, as a spectrum that is asked at any frequency.
class Piece {
  public:
    Piece(const Deconvolved& d, const std::vector<double>& impulse, double centre, double before, double after)
        : rate(d.rate) {
        const auto n = std::ssize(impulse);
        const auto from = static_cast<std::ptrdiff_t>(std::floor((centre - before) * rate)),
                   to = static_cast<std::ptrdiff_t>(std::ceil((centre + after) * rate));
        const auto count = to - from;
        begin = static_cast<double>(from) / rate;
        const auto fadeIn = static_cast<std::ptrdiff_t>(0.25 * before * rate),
                   fadeOut = static_cast<std::ptrdiff_t>(0.25 * after * rate);
        samples.reserve(static_cast<std::size_t>(count));
        for (std::ptrdiff_t k = 0; k < count; ++k) {
            double w = 1;
            if (k < fadeIn)
                w = 0.5 - 0.5 * std::cos(std::numbers::pi * static_cast<double>(k) / static_cast<double>(fadeIn));
            if (count - k < fadeOut)
                w = 0.5 -
                    0.5 * std::cos(std::numbers::pi * static_cast<double>(count - k) / static_cast<double>(fadeOut));
            samples.push_back(w * impulse[static_cast<std::size_t>(((from + k) % n + n) % n)]);
        }
        spectrum = transformOf(samples, smoothLengthFrom(2 * samples.size()));
        bin = rate / static_cast<double>(2 * (spectrum.size() - 1));
    }
    /// Magnitude by a parabola through the nearest bins' logarithms.
    [[nodiscard]] double magnitude(double hertz) const {
        const double place = hertz / bin;
        const auto k = std::clamp<std::ptrdiff_t>(std::lround(place), 1, std::ssize(spectrum) - 2);
        const double d = place - static_cast<double>(k);
        const auto level = [&](std::ptrdiff_t at) {
            return std::log(std::max(1e-300, std::abs(spectrum[static_cast<std::size_t>(at)])));
        };
        const double l = level(k - 1), m = level(k), r = level(k + 1);
        return std::exp(m + 0.5 * d * (r - l) + 0.5 * d * d * (l - 2 * m + r));
    }

    /// Phase at a frequency with `place` [s] as the moment 0 [radians].
    [[nodiscard]] double phase(double hertz, double place) const {
        const double at = hertz / bin;
        const auto k = std::clamp<std::ptrdiff_t>(static_cast<std::ptrdiff_t>(at), 1, std::ssize(spectrum) - 3);
        const auto turned = [&](std::ptrdiff_t n) { // so that it hardly turns from bin to bin
            return spectrum[static_cast<std::size_t>(n)] *
                   std::polar(1.0, fullTurn * static_cast<double>(n) * bin * (place - begin));
        };
        return std::arg(turned(k) + (at - static_cast<double>(k)) * (turned(k + 1) - turned(k)));
    }
    /// Sum of the samples from `from` [s] on over `seconds`, as it grows.
    [[nodiscard]] std::vector<double> sums(double from, double seconds) const {
        std::vector<double> out;
        double sum = 0;
        const auto first = static_cast<std::ptrdiff_t>((from - begin) * rate);
        for (std::ptrdiff_t k = std::max<std::ptrdiff_t>(0, first);
             k < std::min(std::ssize(samples), first + static_cast<std::ptrdiff_t>(seconds * rate)); ++k)
            out.push_back(sum += samples[static_cast<std::size_t>(k)]);
        return out;
    }

  private:
    double rate, bin = 1, begin = 0; ///< the last: where the piece begins [s]
    std::vector<double> samples;
    Bins spectrum;
};

double db(double ratio) {
    return 20 * std::log10(std::max(1e-15, ratio));
}

/// Where the impulse stands [s]: roughly by the lower part of the band, then the crest of the whole one nearby, between
/// samples by a parabola; beyond half of the record it is before the beginning.
double peakOf(const Deconvolved& d) {
    const auto larger = [](double a, double b) { return std::abs(a) < std::abs(b); };
    const auto roughly = std::max_element(d.within.begin(), d.within.end(), larger) - d.within.begin();
    const std::vector<double>& h = d.impulse;
    const double rate = d.rate;
    const auto n = std::ssize(h);
    const auto about = static_cast<std::ptrdiff_t>(std::lround(static_cast<double>(roughly) / d.withinRate * rate)),
               reach = static_cast<std::ptrdiff_t>(std::ceil(1.5 * rate / d.withinRate));
    std::ptrdiff_t at = about;
    const auto size = [&](std::ptrdiff_t k) { return std::abs(h[static_cast<std::size_t>((k % n + n) % n)]); };
    for (std::ptrdiff_t k = about - reach; k <= about + reach; ++k)
        if (size(k) > size(at)) at = k;
    at = (at % n + n) % n;
    const auto v = [&](std::ptrdiff_t k) { return std::abs(h[static_cast<std::size_t>((k % n + n) % n)]); };
    const double l = v(at - 1), m = v(at), r = v(at + 1), bend = l - 2 * m + r;
    double place = static_cast<double>(at) + (bend < 0 ? 0.5 * (l - r) / bend : 0);
    if (place > 0.5 * static_cast<double>(n)) place -= static_cast<double>(n);
    return place / rate;
}

/// The recorder's clock against the player's, from the delays of two parts of the sweep: where the phase of a transfer
/// turns with frequency as a delay does.
double clockOf(const Deconvolved& d, const SweepFacts& f, double delay) {
    if (!d.low || !d.high) return 0;
    const auto delayOf = [&](Complex sum) {
        sum *= std::polar(1.0, fullTurn * d.binHertz * delay);
        return delay - std::arg(sum) / (fullTurn * d.binHertz);
    };
    const double apart = f.timeOf(d.highHertz) - f.timeOf(d.lowHertz);
    // A recorder that counts faster sees later parts later.
    return apart > 0.05 ? 1e6 * (delayOf(*d.high) - delayOf(*d.low)) / apart : 0;
}

void judge(Response& out, const Capture& y, const SweepFacts& f) {
    const double crest = crestOf(y.volts), sum = std::accumulate(y.volts.begin(), y.volts.end(), 0.0);
    // A run at the crest that is come to steeply: the top of a sine is come to slowly, however few bits it has.
    int clipped = 0;
    for (std::size_t k = 1; k + 2 < y.volts.size(); ++k) {
        const auto at = [&](std::size_t n) { return std::abs(y.volts[n]) / crest; };
        clipped += at(k - 1) < 0.995 && at(k) > 0.99999 && at(k + 1) > 0.99999 && at(k + 2) > 0.99999;
    }
    const double dc = sum / static_cast<double>(y.volts.size());
    if (clipped >= 3)
        out.trust.push_back(fmt::format(
            "the capture runs flat at its crest {} times: it was clipped, and its harmonics are the recorder's too",
            clipped));
    if (crest > 0 && std::abs(dc) > 0.02 * crest)
        out.trust.push_back(fmt::format("it has DC of {:.1f} % of its crest", 100 * std::abs(dc) / crest));
    const double end = static_cast<double>(y.volts.size()) / y.sampleRate;
    if (out.delay < -0.001) {
        const double missed = f.from * std::exp(std::max(0.0, -out.delay - f.start) / f.constant());
        if (missed > 1.01 * f.from)
            out.trust.push_back(fmt::format(
                "the capture began {:.2f} s after the sweep: below {:.0f} Hz it has nothing", -out.delay, missed));
    }
    if (end < out.delay + f.start + f.seconds) {
        const double reached = f.from * std::exp(std::max(0.0, end - out.delay - f.start) / f.constant());
        out.trust.push_back(fmt::format("the capture ended before the sweep: above {:.0f} Hz it has nothing", reached));
    }
    if (std::abs(out.clockPpm) > 300)
        out.trust.push_back(
            fmt::format("player and recorder differ by {:.0f} ppm: more than sound devices do", out.clockPpm));
}

} // namespace

Expected<Response> sweepResponse(const Capture& y, const Capture& x, const Capture* reference) {
    for (const auto& [c, what] : {std::pair{&y, "capture"}, {&x, "stimulus"}})
        if (c->volts.size() < 1024)
            return Problem{what, fmt::format("it has {} samples; at least 1024 are needed", c->volts.size())};
    const auto facts = factsOf(x);
    if (!facts) return Problem{"stimulus", "this is no exponential sweep; make one with \"stimulus sweep\""};
    const SweepFacts& f = *facts;
    const Deconvolved d = deconvolve(y, x, f, reference == nullptr);
    Response out;
    out.delay = peakOf(d);
    double whole = 0, near = 0;
    for (std::size_t k = 0; k < d.within.size(); ++k) whole += d.within[k] * d.within[k];
    if (!(whole > 0)) return Problem{"capture", "there is nothing in it"};
    const auto at = static_cast<std::ptrdiff_t>(std::lround(out.delay * d.withinRate)), n = std::ssize(d.within);
    const auto reach = static_cast<std::ptrdiff_t>(0.2 * d.withinRate);
    for (std::ptrdiff_t k = at - reach; k <= at + reach; ++k) {
        const double v = d.within[static_cast<std::size_t>((k % n + n) % n)];
        near += v * v;
    }
    if (near < 0.2 * whole)
        return Problem{"capture", "the sweep is not found in it: it is another stimulus, or buried in noise"};
    const double gap = f.constant() * std::log(2.0); // from the second harmonic's response to the first's
    const double after = std::max(
        0.05, std::min(2.0, d.rate > 0 ? static_cast<double>(d.impulse.size()) / d.rate - f.seconds - 0.1 : 1.0));
    const Piece linear(d, d.impulse, out.delay, 0.45 * gap, after);
    std::optional<Piece> other, ideal; // what is divided by: the loop, or a wire
    std::optional<Deconvolved> loop;
    if (reference) {
        loop.emplace(deconvolve(*reference, x, f, false));
        other.emplace(*loop, loop->impulse, peakOf(*loop), 0.45 * gap, after);
    } else {
        ideal.emplace(d, d.ideal, 0, 0.45 * gap, after);
    }
    const double top = std::min({f.to, 0.499 * y.sampleRate, 0.499 * x.sampleRate}) * 0.99;
    const auto gain = [&](double hertz) {
        return linear.magnitude(hertz) / (other ? other->magnitude(hertz) : ideal->magnitude(hertz));
    };
    // The corner frequencies of what the fades leave whole.
    const double bottom = f.from * 1.02;
    const int first = static_cast<int>(std::ceil(perOctave * std::log2(bottom / 1000))),
              last = static_cast<int>(std::floor(perOctave * std::log2(top / 1000)));
    for (int k = first; k <= last; ++k) {
        const double hertz = 1000 * std::exp2(k / perOctave);
        double degrees = linear.phase(hertz, out.delay) * 180 / std::numbers::pi;
        if (!out.points.empty()) degrees += 360 * std::round((out.points.back().degrees - degrees) / 360);
        out.points.push_back({hertz, db(gain(hertz)), degrees});
    }
    constexpr double stepLead = 1e-3, stepLength = 0.03; // [s]
    out.step = linear.sums(out.delay - stepLead, stepLength);
    out.stepRate = d.rate;
    const double middle = std::clamp(1000.0, bottom, top),
                 level = db(gain(middle)) - 20 * std::log10(std::numbers::sqrt2);
    const auto corner = [&](double outer) {
        // From the middle outwards in small steps to the first crossing, then by bisection.
        const double ratio = outer > middle ? std::exp2(1 / 48.0) : std::exp2(-1 / 48.0);
        for (double h = middle; outer > middle ? h * ratio <= outer : h * ratio >= outer; h *= ratio)
            if (db(gain(h * ratio)) < level) {
                double in = h, past = h * ratio;
                for (int k = 0; k < 40; ++k) {
                    const double mid = std::sqrt(in * past);
                    (db(gain(mid)) < level ? past : in) = mid;
                }
                return in;
            }
        return std::numeric_limits<double>::quiet_NaN();
    };
    out.lowCorner = corner(bottom);
    out.highCorner = corner(top);
    // In its last hundredth the sweep fades out: a harmonic that falls on these frequencies, though it was played while
    // the sweep was whole, would be divided by what is left of them.
    const double unfaded = top * std::pow(f.from / f.to, 0.01);
    for (int order = 2; order <= mostHarmonic; ++order) {
        const double ahead = f.constant() * std::log(order), room = f.constant() * std::log((order + 1.0) / order);
        const Piece piece(d, d.impulse, out.delay - ahead, 0.45 * room,
                          0.5 * f.constant() * std::log(order / (order - 1.0)));
        HarmonicCurve curve;
        curve.order = order;
        for (const ResponsePoint& p : out.points)
            if (order * p.hertz < unfaded && p.hertz > 1.5 * f.from)
                curve.points.push_back(
                    {p.hertz, db(piece.magnitude(order * p.hertz) / std::max(1e-15, linear.magnitude(p.hertz)))});
        out.harmonics.push_back(std::move(curve));
    }
    out.clockPpm = clockOf(d, f, out.delay);
    judge(out, y, f);
    return out;
}

} // namespace ember::signal
