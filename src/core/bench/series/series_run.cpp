#include "series_run.h"

#include "core/bench/approach.h"
#include "core/signal/steady_part.h"
#include "core/signal/tone_analysis.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember::bench {

namespace {

const double dcAllowed = LoadLimits{}.dcVolts;
constexpr double crestTop = 5000; // [Hz] up to which a period has samples enough for its crest

double toFourDigits(double level) {
    if (!(level > 0)) return 0;
    const double digit = std::pow(10.0, std::floor(std::log10(level)) - 3);
    return std::round(level / digit) * digit;
}

} // namespace

SeriesRun::Known& SeriesRun::known(const Setup& setup, std::size_t channel) {
    for (Known& k : all)
        if (k.channel == channel && k.setup == setup) return k;
    all.push_back({setup, channel});
    return all.back();
}

double SeriesRun::ohms(const Setup& s, std::size_t channel) const {
    if (s.loudspeaker) return 0;
    return s.loadOhms > 0 ? s.loadOhms : context.channels[channel].loadOhms;
}

double SeriesRun::gain(const Setup& setup, std::size_t channel) const {
    for (const Known& k : all)
        if (k.channel == channel && k.setup == setup && k.gain > 0) return k.gain;
    const double expected = context.channels[channel].gain;
    return expected > 0 ? expected : 10;
}

Expected<signal::Capture> SeriesRun::capture(const TakeRequest& wanted) {
    if (cancelled()) return Problem{"", "cancelled"};
    return take(wanted);
}

Expected<ToneTaken> SeriesRun::taken(double inputRms, double hertz, const Setup& setup, std::size_t channel) {
    TakeRequest r{TakeKind::Tone, channel, inputRms, hertz, hertz < 100 ? 1.0 : 0.3, true};
    r.setup = setup;
    const auto c = capture(r);
    if (!c) return c.problem();
    const auto steady = signal::steadyPart(c->volts, c->sampleRate);
    const auto a = signal::analyseTone(steady, c->sampleRate, c->fullScale);
    if (!a) return a.problem();
    if (a->clipped)
        return Problem{"", fmt::format("with {} at the input the capture itself is clipped: put a divider before the "
                                       "recorder",
                                       format(inputRms, Unit::Volt, 2))};
    // A recorder's own offset, a thousandth or two of its full scale, is no DC of the amplifier's.
    if (std::abs(a->dc) > std::max(dcAllowed, 0.005 * c->fullScale))
        return Problem{"",
                       fmt::format("{} DC stand across the load with {} at the input, and {} are allowed: not taken "
                                   "louder",
                                   format(a->dc, Unit::Volt, 2), format(inputRms, Unit::Volt, 2),
                                   format(dcAllowed, Unit::Volt, 2))};
    ToneTaken out;
    out.inputRms = inputRms;
    out.rms = a->level;
    out.fundamental = a->harmonics[0].rms;
    if (const double load = ohms(setup, channel); load > 0) out.watts = out.rms * out.rms / load;
    out.thdPercent = a->thdPercent, out.thdNoisePercent = a->thdNoisePercent;
    for (const signal::Harmonic& h : a->harmonics)
        if (h.order < static_cast<int>(out.percent.size())) out.percent[static_cast<std::size_t>(h.order)] = h.percent;
    if (hertz <= crestTop) {
        double up = 0, down = 0;
        for (const double v : steady) up = std::max(up, v - a->dc), down = std::max(down, a->dc - v);
        out.flattening = 1 - std::min(up, down) / (std::numbers::sqrt2 * out.fundamental);
    }
    return out;
}

Expected<ToneTaken> SeriesRun::tone(double inputRms, double hertz, const Setup& setup, std::size_t channel) {
    const double wanted = toFourDigits(std::min(inputRms, context.mostInput));
    const double load = ohms(setup, channel), made = context.channels[channel].loadWatts;
    const auto allowed = [&](double level) -> Expected<Done> {
        // A gain that is not known yet is learnt 40 dB below.
        const double g = known(setup, channel).gain, watts = load > 0 && g > 0 ? g * g * level * level / load : 0;
        if (made > 0 && watts > 1.3 * made) // a tone that is flattened makes less than its gain says
            return Problem{"", fmt::format("with {} at the input the load would take {} of the {} that it is made for",
                                           format(level, Unit::Volt, 2), format(watts, Unit::Watt, 2),
                                           format(made, Unit::Watt, 2))};
        return Done{};
    };
    const auto step = [&](double level, double hz) -> Expected<ToneTaken> {
        if (auto fit = allowed(level); !fit) return fit.problem();
        auto t = taken(level, hz, setup, channel);
        if (!t) return t;
        Known& k = known(setup, channel);
        k.loudest = std::max(k.loudest, level);
        // What a small tone says; a flattened one would say less than the next may make.
        if (hz == 1000 || !(k.gain > 0)) k.gain = std::max(t->rms / level, k.gain > 0 ? k.gain : 0.0);
        if (made > 0 && t->watts > made)
            return Problem{"", fmt::format("with {} at the input the load takes {} of the {} that it is made for",
                                           format(level, Unit::Volt, 2), format(t->watts, Unit::Watt, 2),
                                           format(made, Unit::Watt, 2))};
        return t;
    };
    if (const double loudest = known(setup, channel).loudest; loudest * approachStep * 1.01 < wanted) {
        const auto play = [&](double level) {
            TakeRequest r{TakeKind::Tone, channel, level, 1000, approachSeconds, true};
            r.setup = setup;
            return capture(r);
        };
        const auto steps = approach(wanted, 1000, {load, made, dcAllowed}, play, watch, loudest * approachStep);
        if (!steps) return steps.problem();
        Known& k = known(setup, channel);
        k.loudest = steps->back().inputRms;
        k.gain = std::max(k.gain > 0 ? k.gain : 0.0, steps->back().outputRms / steps->back().inputRms);
    }
    return step(wanted, hertz);
}

Expected<ToneTaken> SeriesRun::toneOf(double watts, double hertz, const Setup& setup) {
    const double load = ohms(setup, request.channel), volts = std::sqrt(watts * (load > 0 ? load : channel().loadOhms));
    double level = volts / gain(setup, request.channel);
    for (int k = 0; k < 6; ++k) {
        auto t = tone(level, hertz, setup);
        if (!t) return t;
        const double off = t->rms / volts;
        if (std::abs(20 * std::log10(off)) < 0.05) return t;
        if (level >= context.mostInput && off < 1) return t;
        level = t->inputRms / off;
    }
    return Problem{
        "", fmt::format("{} at {} are not reached", format(watts, Unit::Watt, 2), format(hertz, Unit::Hertz, 2))};
}

std::vector<double> thirds(double from, double to, int every) {
    std::vector<double> out;
    for (int k = -18; k <= 18; k += 1)
        if (const double hz = 1000 * std::exp2(k / 3.0); k % every == 0 && hz > 0.98 * from && hz < 1.02 * to)
            out.push_back(hz);
    return out;
}

Ends endsOf(const SeriesLine& r, double decibels) {
    Ends out;
    const auto middle = std::min_element(r.x.begin(), r.x.end(), [](double a, double b) {
        return std::abs(std::log(a / 1000)) < std::abs(std::log(b / 1000));
    });
    if (middle == r.x.end()) return out;
    const auto at = static_cast<std::size_t>(middle - r.x.begin());
    const double level = r.y[at] - decibels;
    const auto cross = [&](std::size_t in, std::size_t past) {
        const double share = (r.y[in] - level) / (r.y[in] - r.y[past]);
        return r.x[in] * std::pow(r.x[past] / r.x[in], share);
    };
    for (std::size_t k = at; k > 0 && std::isnan(out.low); --k)
        if (r.y[k - 1] < level) out.low = cross(k, k - 1);
    for (std::size_t k = at; k + 1 < r.x.size() && std::isnan(out.high); ++k)
        if (r.y[k + 1] < level) out.high = cross(k, k + 1);
    return out;
}

} // namespace ember::bench
