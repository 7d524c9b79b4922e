#include "model_bench.h"

#include "core/signal/resample.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>

namespace ember::bench {

namespace {

constexpr std::size_t finer = 4; // samples that the computation gets of each that is played

/// One period, evenly spaced, as `count` samples at `rate`: its Fourier series, exact between its samples and free of
/// harmonics beyond half the sample rate.
std::vector<double> repeated(const std::vector<double>& period, double hertz, double rate, std::size_t count) {
    const auto n = period.size();
    std::vector<std::complex<double>> series;
    for (std::size_t h = 0; h < n / 2 && static_cast<double>(h) * hertz < 0.49 * rate; ++h) {
        std::complex<double> sum = 0;
        for (std::size_t k = 0; k < n; ++k)
            sum += period[k] * std::polar(h == 0 ? 1.0 / static_cast<double>(n) : 2.0 / static_cast<double>(n),
                                          -2 * std::numbers::pi * static_cast<double>(h * k) / static_cast<double>(n));
        series.push_back(sum);
    }
    double most = 0;
    for (const auto& c : series) most = std::max(most, std::abs(c));
    while (series.size() > 1 && std::abs(series.back()) < 1e-8 * most) series.pop_back(); // -160 dB
    std::vector<double> out(count, 0.0);
    const double perPeriod = rate / hertz;
    const bool whole = std::abs(perPeriod - std::round(perPeriod)) < 1e-9;
    const auto computed = whole ? std::min(count, static_cast<std::size_t>(std::lround(perPeriod))) : count;
    for (std::size_t k = 0; k < computed; ++k) {
        const auto turn = std::polar(1.0, 2 * std::numbers::pi * std::fmod(hertz * static_cast<double>(k) / rate, 1.0));
        std::complex<double> w = 1;
        for (const auto& c : series) {
            out[k] += (c * w).real();
            w *= turn;
        }
    }
    for (std::size_t k = computed; k < count; ++k) out[k] = out[k - computed];
    return out;
}

bool sameSignal(const TakeRequest& a, const TakeRequest& b) {
    return a.kind == b.kind && a.channel == b.channel && a.inputRms == b.inputRms && a.hertz == b.hertz &&
           a.seconds == b.seconds && a.setup == b.setup;
}

} // namespace

ModelBench::ModelBench(Build b, const Catalogue& c, plan::Steady s, plan::WarmStart w, plan::Miswiring miswired)
    : real(std::move(b)),
      catalogue(&c),
      steady(std::move(s)),
      warm(std::move(w)),
      wiring(std::move(miswired)) {}

Expected<ModelBench> ModelBench::at(Build build, const Catalogue& catalogue, double mainsVolts, std::stop_token stop) {
    plan::WarmStart warm;
    auto s = plan::solveSteady(build, catalogue, {mainsVolts}, {.stop = std::move(stop)}, &warm);
    if (!s) return s.problem();
    return ModelBench(std::move(build), catalogue, std::move(*s), std::move(warm));
}

Expected<signal::Capture> ModelBench::take(const TakeRequest& r, const TakeWatch& watch) {
    auto out = takeFirst(r, watch);
    if (!out || r.node > 0 || r.setup.second == SecondInput::Nothing) return out;
    if (r.setup.second == SecondInput::Input) {
        auto volts = voltsOf(r);
        if (!volts) return volts.problem();
        out->second = std::move(*volts);
    } else {
        TakeRequest other = r;
        other.channel = nextChannel(r.channel, real.channels.size());
        if (!r.setup.everyChannel) other.inputRms = 0;
        auto beside = takeFirst(other, {{}, watch.stop});
        if (!beside) return beside;
        out->second = std::move(beside->volts);
        out->fullScale = std::max(out->fullScale, beside->fullScale);
    }
    out->second.resize(out->volts.size());
    return out;
}

Expected<signal::Capture> ModelBench::takeFirst(const TakeRequest& r, const TakeWatch& watch) {
    if (r.channel >= real.channels.size()) return Problem{"", fmt::format("there is no channel {}", r.channel + 1)};
    if (r.node < 0 || r.node > static_cast<int>(steady.nodes.size()))
        return Problem{"", fmt::format("there is no supply node B+{}", r.node)};
    const double seconds = r.seconds > 0 ? r.seconds : formOf(r.kind).signal.seconds;
    if (r.kind == TakeKind::Tone && r.node == 0 && r.inputRms > 0) return tone(r, watch);
    if (r.kind == TakeKind::Noise || !(r.inputRms > 0)) {
        signal::Capture silent;
        silent.volts.assign(static_cast<std::size_t>(seconds * silent.sampleRate), 0.0);
        silent.fullScale = 1;
        return silent;
    }
    if (!playedOf || !sameSignal(*playedOf, r)) {
        playedOf.reset();
        auto volts = voltsOf(r);
        if (!volts) return volts.problem();
        // Nothing comes late here: no silence is needed behind the signal. A sweep's last low frequencies ring on.
        const double after = r.kind == TakeKind::Sweep ? 0.2 : 0;
        volts->resize(static_cast<std::size_t>((seconds + after) * takeRate));
        auto out = play(r.channel, r.setup, *volts, takeRate, watch);
        if (!out) return out;
        playedOf = r;
        if (r.node == 0) return out;
    }
    return recorded(played, r, takeRate);
}

Expected<signal::Capture> ModelBench::recorded(const plan::Played& from, const TakeRequest& r, double rate) const {
    signal::Capture out;
    if (r.node > 0) {
        out.volts = from.nodes.empty() ? std::vector<double>{} : from.nodes[static_cast<std::size_t>(r.node - 1)];
        out.sampleRate = 1 / from.block;
    } else {
        out.volts = signal::resampled(from.volts, 1, 2);
        out.sampleRate = rate;
    }
    out.fullScale = std::max(1.0, 1.5 * signal::crestOf(out.volts));
    return out;
}

Expected<signal::Capture> ModelBench::play(std::size_t channel, const Setup& setup, const std::vector<double>& volts,
                                           double rate, const TakeWatch& watch) {
    plan::PlayedSignal signal;
    signal.volts = signal::resampled(volts, finer, 1);
    signal.rate = finer * rate;
    signal.outputRate = 2 * rate;
    signal.wiring = wiring;
    signal.progress = watch.progress;
    signal.stop = watch.stop;
    playedOf.reset();
    auto through = plan::play(asSetUp(real, channel, setup), *catalogue, steady, channel, signal);
    if (!through) return through.problem();
    played = std::move(*through);
    return recorded(played, {}, rate);
}

Expected<signal::Capture> ModelBench::tone(const TakeRequest& r, const TakeWatch& watch) {
    const double seconds = r.seconds > 0 ? r.seconds : formOf(r.kind).signal.seconds;
    signal::Capture out;
    const auto count = static_cast<std::size_t>(seconds * out.sampleRate);
    Last& start = last[{r.channel, r.hertz}];
    if (!(start.setup == r.setup) || start.hertz != r.hertz) start = {r.setup, r.channel, r.hertz, {}, {}};
    if (start.sag.steady.nodes.empty()) start.sag = {.warm = warm, .steady = steady};
    if (auto done = plan::solveToneWithSag(
            asSetUp(real, r.channel, r.setup), *catalogue, r.channel, r.setup.everyChannel,
            {r.inputRms, r.hertz, watch.stop, schematic::ToneAccuracy::Full, wiring}, start.sag, start.run);
        !done) {
        last.erase({r.channel, r.hertz});
        return done.problem();
    }
    const std::vector<double>& period = start.run.tone.samples;
    out.volts = repeated(period, r.hertz, out.sampleRate, count);
    out.fullScale = std::max(1.0, 1.5 * signal::crestOf(period));
    if (watch.progress) watch.progress(1);
    return out;
}

} // namespace ember::bench
