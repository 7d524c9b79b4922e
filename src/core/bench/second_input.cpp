#include "second_input.h"

#include "core/quantity/quantity.h"
#include "core/signal/noise_analysis.h"
#include "core/signal/response.h"
#include "core/signal/sinusoid.h"
#include "core/signal/steady_part.h"
#include "core/signal/tone_analysis.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>

namespace ember::bench {

namespace {

double inDb(double ratio) {
    return 20 * std::log10(std::max(ratio, 1e-12));
}

/// To a tenth of a degree, without a sign before zero.
std::string degreesInWords(double degrees) {
    const double tenths = std::round(10 * std::remainder(degrees, 360.0));
    return tenths == 0 ? "0.0°" : fmt::format("{:+.1f}°", tenths / 10);
}

/// Over the median of what noise has in a bin, one bin in 50 000 reaches this (Rayleigh's distribution) [dB].
constexpr double overNoise = 12;

/// Level of the second over the first, as it is or as a bound.
std::string levelWords(const BothInputs& both) {
    return both.ratioDb > both.floorDb + overNoise ? fmt::format("{:.1f} dB", both.ratioDb)
                                                   : fmt::format("less than {:.0f} dB", both.floorDb + overNoise);
}

SecondReading ofTone(const TakeRequest& r, const BothInputs& both, const std::string& next) {
    if (r.setup.second == SecondInput::Input) {
        SecondReading out{fmt::format("At its input {} were recorded: gain {:.2f} ({:.2f} dB), phase {}.",
                                      format(both.secondRms, Unit::Volt, 4), both.firstRms / both.secondRms,
                                      -both.ratioDb, degreesInWords(-both.degrees)),
                          fmt::format("gain by the recorded input {:.2f} dB", -both.ratioDb)};
        if (const double off = both.secondRms / r.inputRms - 1; std::abs(off) > 0.02)
            out.words += fmt::format(" {} were asked for: it is {:+.1f} % off, by the player's calibration or what the "
                                     "input draws.",
                                     format(r.inputRms, Unit::Volt, 4), 100 * off);
        return out;
    }
    if (r.setup.everyChannel)
        return {fmt::format("{}, driven alike, against this channel: {:+.2f} dB, phase {}.", next, both.ratioDb,
                            degreesInWords(both.degrees)),
                fmt::format("{} {:+.2f} dB", next, both.ratioDb)};
    return {fmt::format("Crosstalk into {}, not driven: {}.", next, levelWords(both)),
            fmt::format("crosstalk into {} {}", next, levelWords(both))};
}

/// At a few frequencies, the second input's response over the first's.
Expected<SecondReading> ofSweep(const TakeRequest& r, const signal::Capture& capture, const std::string& next) {
    if (r.setup.second == SecondInput::Input)
        return SecondReading{"The response is that from the recorded input to the output.", "by the recorded input"};
    auto played = voltsOf(r);
    if (!played) return played.problem();
    const signal::Capture stimulus{std::move(*played), takeRate, 0, "", {}};
    const auto first = signal::sweepResponse(capture, stimulus);
    if (!first) return first.problem();
    signal::Capture beside = capture;
    beside.volts = std::move(beside.second);
    const auto second = signal::sweepResponse(beside, stimulus);
    if (!second) return SecondReading{fmt::format("Nothing of the sweep was found in {}.", next), ""};
    std::string levels;
    const auto at = [](const signal::Response& of, double hertz) {
        double db = NAN, nearest = 0.1;
        for (const signal::ResponsePoint& p : of.points)
            if (const double off = std::abs(std::log2(p.hertz / hertz)); off < nearest) nearest = off, db = p.db;
        return db;
    };
    for (const double hertz : {100.0, 1000.0, 10e3})
        levels += fmt::format("{}{:+.1f} dB at {}", levels.empty() ? "" : ", ", at(*second, hertz) - at(*first, hertz),
                              formatExact(hertz, Unit::Hertz));
    const std::string what = r.setup.everyChannel ? fmt::format("{}, driven alike, against this channel", next)
                                                  : fmt::format("Crosstalk into {}, not driven", next);
    return SecondReading{fmt::format("{}: {}.", what, levels), fmt::format("{} {}", next, levels)};
}

} // namespace

bool secondInputFits(TakeKind kind, SecondInput second) {
    switch (second) {
    case SecondInput::Nothing: return true;
    case SecondInput::Input: return kind == TakeKind::Tone || kind == TakeKind::Sweep;
    case SecondInput::NextChannel: break;
    }
    return kind == TakeKind::Tone || kind == TakeKind::Sweep || kind == TakeKind::Noise;
}

Expected<BothInputs> compareInputs(const signal::Capture& c, double hertz) {
    const auto first = signal::steadyPart(c.volts, c.sampleRate);
    const auto tone = signal::analyseTone(first, c.sampleRate, c.fullScale);
    if (!tone) return tone.problem();
    if (hertz > 0 && std::abs(tone->fundamental / hertz - 1) > 0.01)
        return Problem{"", fmt::format("the tone of {} was not found", format(hertz, Unit::Hertz))};
    const auto from = static_cast<std::size_t>(first.data() - c.volts.data());
    if (c.second.size() < from + first.size()) return Problem{"", "the second input was not recorded"};
    const std::span<const double> second(c.second.data() + from, first.size());
    const double f = tone->fundamental, bin = c.sampleRate / static_cast<double>(first.size());
    const auto a = signal::sinusoidIn(first, c.sampleRate, f), b = signal::sinusoidIn(second, c.sampleRate, f);
    // Where neither the tone nor a harmonic is: a few bins beside it, beyond the window's main lobe.
    std::vector<double> beside;
    for (const double bins : {4, 7, 10, 13})
        for (const double off : {-bins * bin, bins * bin})
            beside.push_back(std::abs(signal::sinusoidIn(second, c.sampleRate, std::max(bin, f + off))));
    std::sort(beside.begin(), beside.end());
    BothInputs out;
    out.hertz = f;
    out.firstRms = std::abs(a) / std::numbers::sqrt2, out.secondRms = std::abs(b) / std::numbers::sqrt2;
    out.ratioDb = inDb(std::abs(b) / std::abs(a));
    out.degrees = std::arg(b / a) * 180 / std::numbers::pi;
    out.floorDb = inDb(beside[beside.size() / 2] / std::abs(a));
    return out;
}

Expected<SecondReading> readSecond(const TakeRequest& r, const signal::Capture& c, const std::string& next,
                                   double mainsHertz) {
    if (c.second.empty() || !secondInputFits(r.kind, r.setup.second)) return SecondReading{};
    if (r.kind == TakeKind::Sweep) return ofSweep(r, c, next);
    if (r.kind == TakeKind::Noise) {
        signal::Capture other = c;
        other.volts = std::move(other.second);
        const auto a = signal::analyseNoise(other, mainsHertz);
        if (!a) return a.problem();
        const std::string figures =
            fmt::format("{}, A-weighted {}", format(a->rms, Unit::Volt), format(a->weighted, Unit::Volt));
        return SecondReading{fmt::format("{} at the same time: {}.", next, figures),
                             fmt::format("{} {}", next, figures)};
    }
    const auto both = compareInputs(c, r.hertz);
    if (!both) return both.problem();
    return ofTone(r, *both, next);
}

} // namespace ember::bench
