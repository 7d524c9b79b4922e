#include "take_reading.h"

#include "app/widgets/words.h"
#include "core/bench/second_input.h"
#include "core/bench/spread.h"
#include "core/build/own_types.h"
#include "core/schematic/path_schematic.h"
#include "core/signal/intermodulation.h"
#include "core/signal/noise_analysis.h"
#include "core/signal/spectrum.h"
#include "core/signal/square_wave.h"
#include "core/signal/steady_part.h"
#include "core/signal/tone_analysis.h"
#include "core/wires/hum.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <functional>

namespace ember::app {

namespace {

using bench::TakeKind;

/// A doubt of an analysis as a sentence.
QString sentence(const std::string& doubt) {
    QString out = text(doubt);
    if (!out.isEmpty()) out[0] = out[0].toUpper();
    return out.endsWith('.') ? out : out + ".";
}

QString orDash(double value, Unit unit, int digits = 3) {
    return std::isfinite(value) ? text(value, unit, digits) : QString("-");
}

/// The part in which the signal plays.
signal::PowerSpectrum spectrumOf(const signal::Capture& c) {
    return signal::powerSpectrum(signal::steadyPart(c.volts, c.sampleRate), c.sampleRate);
}

void showSpectrum(const signal::PowerSpectrum& s, double reference, const QString& word, TakeReading& out) {
    out.spectrum.resize(s.power.size());
    std::transform(s.power.begin(), s.power.end(), out.spectrum.begin(), [](double p) { return std::sqrt(p); });
    out.binHertz = s.binHertz, out.reference = reference, out.referenceWord = word;
}

void showWave(const signal::Capture& c, double seconds, TakeReading& out) {
    const auto count = std::min(c.volts.size(), static_cast<std::size_t>(seconds * c.sampleRate) + 1);
    const std::size_t from = c.volts.size() > 4 * count ? c.volts.size() / 4 : 0; // behind what settles
    out.wave.assign(c.volts.begin() + static_cast<std::ptrdiff_t>(from),
                    c.volts.begin() + static_cast<std::ptrdiff_t>(from + count));
    out.waveStep = 1 / c.sampleRate;
}

/// Where the sound device's own distortion is a third of what was measured, or more.
QString limitedBy(const bench::DeviceLimits& device, double thdPercent) {
    if (!(3 * device.thdPercent > thdPercent)) return {};
    const bench::Span own = bench::ownDistortion(thdPercent, device.thdPercent);
    if (own.least < 0.1 * own.most)
        return QString(".  The sound device alone has %1: the amplifier's THD is below %2.")
            .arg(text(device.thdPercent, Unit::Percent, 2), text(own.most, Unit::Percent, 2));
    return QString(".  The sound device alone has %1: the amplifier's THD is between %2 and %3.")
        .arg(text(device.thdPercent, Unit::Percent, 2), text(own.least, Unit::Percent, 2),
             text(own.most, Unit::Percent, 2));
}

Expected<TakeReading> readTone(const signal::Capture& c, const TakeContext& context) {
    const double load = context.load, inputRms = context.inputRms;
    const auto a = signal::analyseTone(signal::steadyPart(c.volts, c.sampleRate), c.sampleRate, c.fullScale);
    if (!a) return a.problem();
    TakeReading out;
    const double watts = load > 0 ? a->level * a->level / load : plan::unknown, ratio = a->harmonics[0].rms / inputRms;
    out.figures = {{{"power in the load", text(watts, Unit::Watt)},
                    {"gain", std::isfinite(ratio) ? QString("%1 dB").arg(20 * std::log10(ratio), 0, 'f', 1) : "-"},
                    {"THD", text(a->thdPercent, Unit::Percent)},
                    {"THD + noise", text(a->thdNoisePercent, Unit::Percent)}}};
    out.words =
        QString("%1 across %2 at %3")
            .arg(text(a->level, Unit::Volt), text(formatExact(load, Unit::Ohm)), text(a->fundamental, Unit::Hertz, 4));
    for (const auto& h : a->harmonics)
        if (h.order > 1)
            out.words += QString("%1H%2 %3").arg(h.order == 2 ? ";  dB: " : ", ").arg(h.order).arg(h.db, 0, 'f', 1);
    if (a->clipped) out.words += ".  The capture itself is clipped: turn its level down and take it again.";
    const QString limited = limitedBy(context.device, a->thdPercent);
    out.words += limited;
    out.good = !a->clipped;
    out.log = fmt::format("{} into {} at {}, THD {}, THD+N {}{}", format(watts, Unit::Watt),
                          formatExact(load, Unit::Ohm), format(a->fundamental, Unit::Hertz, 4),
                          format(a->thdPercent, Unit::Percent), format(a->thdNoisePercent, Unit::Percent),
                          std::isfinite(inputRms) ? ", input " + format(inputRms, Unit::Volt) : "");
    if (!limited.isEmpty()) out.log += " (device alone " + format(context.device.thdPercent, Unit::Percent, 2) + ")";
    out.spectrum = a->spectrum, out.binHertz = a->binHertz, out.reference = a->harmonics[0].rms;
    out.referenceWord = "the fundamental";
    out.level = a->level, out.thdPercent = a->thdPercent;
    if (!context.line) out.watts = watts;
    showWave(c, 3 / a->fundamental, out);
    return out;
}

QString squareWords(const signal::SquareAnalysis& a) {
    QString out = QString("tilt %1 (a low corner of %2), rise %3 (a high corner of %4), overshoot %5")
                      .arg(orDash(a.tiltPercent, Unit::Percent), orDash(a.lowCorner, Unit::Hertz),
                           orDash(a.riseSeconds, Unit::Second), orDash(a.highCorner, Unit::Hertz),
                           orDash(a.overshootPercent, Unit::Percent));
    if (std::isfinite(a.ringingHertz))
        out += QString(", ringing at %1, damping %2").arg(text(a.ringingHertz, Unit::Hertz)).arg(a.damping, 0, 'f', 2);
    return out;
}

Expected<TakeReading> readSquare(const bench::TakeRequest& r, const signal::Capture& c) {
    const auto a = signal::analyseSquare(c, r.hertz);
    if (!a) return a.problem();
    TakeReading out;
    out.figures = {{{"tilt", orDash(a->tiltPercent, Unit::Percent)},
                    {"rise, 10 to 90 %", orDash(a->riseSeconds, Unit::Second)},
                    {"overshoot", orDash(a->overshootPercent, Unit::Percent)},
                    {"ringing", orDash(a->ringingHertz, Unit::Hertz)}}};
    out.words = QString("Square wave of %1: %2.").arg(text(a->hertz, Unit::Hertz, 4), squareWords(*a));
    for (const std::string& doubt : a->trust) out.words += " " + sentence(doubt);
    out.log = fmt::format("square wave of {}: {}", format(a->hertz, Unit::Hertz, 4), squareWords(*a).toStdString());
    out.wave = a->period;
    out.waveStep = a->period.empty() ? 0 : 1 / a->hertz / static_cast<double>(a->period.size());
    showSpectrum(spectrumOf(c), 1, "1 V", out);
    return out;
}

Expected<TakeReading> readTwoTones(const signal::Capture& c) {
    const auto a = signal::analyseIntermodulation(c);
    if (!a) return a.problem();
    TakeReading out;
    const auto order = [&](int which) {
        double square = 0;
        for (const auto& p : a->products)
            if (p.order == which) square += std::pow(10, p.db / 10);
        return square > 0 ? QString("%1 dB").arg(10 * std::log10(square), 0, 'f', 1) : QString("-");
    };
    const QString tones = QString("%1 and %2").arg(text(a->low, Unit::Hertz, 4), text(a->high, Unit::Hertz, 4));
    out.figures = {{{"intermodulation", text(a->percent, Unit::Percent)},
                    {"second order", order(2)},
                    {"third order", order(3)},
                    {"tones", tones}}};
    out.words = QString("Intermodulation of %1, %2 (IEC 60268-3).")
                    .arg(tones, a->difference ? "difference method" : "modulation method");
    out.log = fmt::format("intermodulation of {} and {}: {}", format(a->low, Unit::Hertz, 4),
                          format(a->high, Unit::Hertz, 4), format(a->percent, Unit::Percent));
    const auto s = spectrumOf(c);
    showSpectrum(s, std::max(s.at(a->low), s.at(a->high)), "the stronger tone", out);
    showWave(c, a->difference ? 2e-3 : 0.034, out);
    return out;
}

Expected<TakeReading> readNoise(const signal::Capture& c, const TakeContext& context) {
    const auto a = signal::analyseNoise(c, context.mainsHertz);
    if (!a) return a.problem();
    TakeReading out;
    const double rated = context.clipVolts, device = context.device.noiseVolts;
    const double rest = bench::withoutNoise(a->rms, device), rms = std::isfinite(rest) ? rest : a->rms;
    out.figures = {
        {{"hum and noise", text(rms, Unit::Volt)},
         {"A-weighted", text(a->weighted, Unit::Volt)},
         {"under clipping",
          std::isfinite(rated) ? QString("%1 dB").arg(20 * std::log10(rated / rms), 0, 'f', 1) : QString("-")},
         {"strongest line", "-"}}};
    const auto line =
        std::max_element(a->lines.begin(), a->lines.end(), [](const auto& x, const auto& y) { return x.rms < y.rms; });
    if (line != a->lines.end())
        out.figures[3].value = QString("%1, %2").arg(text(line->hertz, Unit::Hertz), text(line->rms, Unit::Volt));
    out.words = sentence(a->verdict);
    if (std::isfinite(rest))
        out.words += QString(" The sound device's own %1 are taken off hum and noise, not off the A-weighted figure.")
                         .arg(text(device, Unit::Volt, 2));
    else if (std::isfinite(device))
        out.words += QString(" The sound device alone makes %1 of it: the amplifier's is less than this.")
                         .arg(text(device, Unit::Volt, 2));
    if (std::isfinite(context.humVolts))
        out.words += QString(" Planned: %1, A-weighted %2.")
                         .arg(text(context.humVolts, Unit::Volt), text(context.weightedHum, Unit::Volt));
    out.log = fmt::format("hum and noise {}, A-weighted {}", format(rms, Unit::Volt), format(a->weighted, Unit::Volt));
    showSpectrum(spectrumOf(c), 1, "1 V", out);
    showWave(c, 0.06, out);
    return out;
}

/// The capture itself; the response is analysed and shown by the response view.
TakeReading readSweep(const signal::Capture& c) {
    TakeReading out;
    out.figures = {{{sweepCaptions[0], "-"}, {sweepCaptions[1], "-"}, {sweepCaptions[2], ""}, {sweepCaptions[3], ""}}};
    out.words = "Response by a sweep: below, over the plan's.";
    out.referenceWord = "1 V"; // no spectrum: a windowed one of a sweep shows what was played in the middle
    showWave(c, 0.1, out);
    return out;
}

} // namespace

TakeContext contextOf(const Document::Solved& plan, std::size_t channel, double inputRms) {
    TakeContext out;
    out.inputRms = inputRms;
    out.mainsHertz = plan.build.mains.frequency;
    if (const auto& all = plan.build.channels; !all.empty())
        out.next = all[bench::nextChannel(channel, all.size())].name;
    if (channel < plan.build.channels.size())
        out.load = schematic::channelSchematic(plan.build, catalogueOf(plan.build), channel).load;
    if (channel < plan.figures.power.size()) {
        out.clipVolts = plan.figures.power[channel].clipOutput;
        out.line = plan.figures.power[channel].line();
    }
    if (const auto& w = plan.figures.wires; w && channel < w->hum.channels.size())
        out.humVolts = w->hum.channels[channel].rms, out.weightedHum = w->hum.channels[channel].weighted;
    return out;
}

namespace {

Expected<TakeReading> readKind(const bench::TakeRequest& r, const signal::Capture& c, const TakeContext& context) {
    switch (r.kind) {
    case TakeKind::Square: return readSquare(r, c);
    case TakeKind::Modulation:
    case TakeKind::Difference: return readTwoTones(c);
    case TakeKind::Noise: return readNoise(c, context);
    case TakeKind::Sweep: return readSweep(c);
    case TakeKind::Tone:
    case TakeKind::Burst: break;
    }
    return readTone(c, context);
}

} // namespace

Expected<TakeReading> readTake(const bench::TakeRequest& r, const signal::Capture& c, const TakeContext& context) {
    auto out = readKind(r, c, context);
    if (out && !c.second.empty()) {
        const auto second = bench::readSecond(r, c, context.next, context.mainsHertz);
        out->beside = text(second ? second->words : "The second input: " + second.problem().sentence + ".");
        if (second && !out->log.empty() && !second->log.empty()) out->log += "; " + second->log;
    }
    if (out) out->floorThd = context.device.thdPercent;
    if (out && !out->spectrum.empty()) out->floor = bench::noisePerBin(context.device.noiseVolts, out->binHertz);
    return out;
}

namespace {

/// A figure of the plan, and between what 95 of 100 healthy amplifiers have it. `positive`: by its logarithm.
QString ranged(const std::vector<double>& of, const std::function<QString(double)>& words, bool positive = true) {
    bench::Spread spread;
    for (std::size_t k = 1; k < of.size(); ++k) spread.add(positive ? std::log(of[k]) : of[k]);
    auto [least, most] = spread.range();
    if (positive) least = std::exp(least), most = std::exp(most);
    return words(of.front()) +
           (std::isfinite(least) ? QString(" (%1 to %2)").arg(words(least), words(most)) : QString());
}

} // namespace

PlannedReading readPlanned(const bench::TakeRequest& r, const std::vector<signal::Capture>& planned) {
    if (planned.empty()) return {};
    const auto unit = [](Unit u, int digits) { return [u, digits](double v) { return text(v, u, digits); }; };
    PlannedReading out;
    if (r.kind == TakeKind::Square) {
        std::vector<double> tilt, rise, over;
        for (const signal::Capture& c : planned)
            if (const auto a = signal::analyseSquare(c, r.hertz)) {
                if (tilt.empty()) {
                    out = {"Planned (brass): " + squareWords(*a) + ".", a->period, 1 / a->hertz};
                }
                tilt.push_back(a->tiltPercent), rise.push_back(a->riseSeconds), over.push_back(a->overshootPercent);
            }
        if (tilt.size() > 3)
            out.words = QString("Planned (brass): tilt %1, rise %2, overshoot %3.")
                            .arg(ranged(tilt, unit(Unit::Percent, 3)), ranged(rise, unit(Unit::Second, 3)),
                                 ranged(over, unit(Unit::Percent, 2)));
        return out;
    }
    if (r.kind == TakeKind::Tone) {
        std::vector<double> gain, thd;
        for (const signal::Capture& c : planned)
            if (const auto a = signal::analyseTone(signal::steadyPart(c.volts, c.sampleRate), c.sampleRate, 0)) {
                gain.push_back(20 * std::log10(a->harmonics[0].rms / r.inputRms));
                thd.push_back(a->thdPercent);
            }
        if (gain.empty()) return {};
        out.words = QString("Planned: gain %1, THD %2.")
                        .arg(ranged(
                                 gain, [](double v) { return QString("%1 dB").arg(v, 0, 'f', 1); }, false),
                             ranged(thd, unit(Unit::Percent, 2)));
        return out;
    }
    std::vector<double> percent;
    for (const signal::Capture& c : planned)
        if (const auto a = signal::analyseIntermodulation(c)) percent.push_back(a->percent);
    if (percent.empty()) return {};
    out.words = QString("Planned: %1.").arg(ranged(percent, unit(Unit::Percent, 3)));
    return out;
}

} // namespace ember::app
