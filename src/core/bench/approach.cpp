#include "approach.h"

#include "core/quantity/quantity.h"
#include "core/schematic/stages/stage_kind.h"

#include <fmt/format.h>

#include <numbers>

namespace ember::bench {

namespace {

constexpr double smallestStep = 1.12; // 1 dB
constexpr double recorderShare = 0.9; // of its full scale, above which it may clip
constexpr double nothing = 1e-6;      // [V] of a tone, below which none is there
constexpr double audible = 0.1;       // [V] of a tone at a load, above which it is no crosstalk

/// What a capture shows of a tone: in the tenth of a second in which it is loudest, since it may begin late.
struct Heard {
    double toneRms = 0, rms = 0, mean = 0, crest = 0; ///< [V]; RMS without the mean
};
Heard listen(const signal::Capture& c, double hertz) {
    Heard out;
    out.crest = signal::crestOf(c.volts);
    const auto cycles = std::max(1.0, std::round(0.1 * hertz));
    const auto size = std::min(c.volts.size(), static_cast<std::size_t>(cycles / hertz * c.sampleRate));
    if (size == 0) return out;
    for (std::size_t from = 0; from + size <= c.volts.size(); from += std::max<std::size_t>(1, size / 2)) {
        double sine = 0, cosine = 0, sum = 0, squares = 0;
        for (std::size_t k = 0; k < size; ++k) {
            const double v = c.volts[from + k];
            const double phase = 2 * std::numbers::pi * hertz * static_cast<double>(k) / c.sampleRate;
            sine += v * std::sin(phase), cosine += v * std::cos(phase), sum += v, squares += v * v;
        }
        const double n = static_cast<double>(size), tone = std::hypot(sine, cosine) * std::numbers::sqrt2 / n;
        if (tone < out.toneRms) continue;
        out.toneRms = tone, out.mean = sum / n;
        out.rms = std::sqrt(std::max(0.0, squares / n - out.mean * out.mean));
    }
    return out;
}

std::string volts(double v) {
    return format(v, Unit::Volt, 2);
}

} // namespace

LoadLimits loadLimitsOf(const std::vector<Stage>& stages, const TakeRequest& request) {
    const ResistorPart* load = schematic::loadResistor(stages);
    if (!load) return {};
    const double watts = request.setup.loudspeaker ? loudspeakerWatts : load->watts;
    return {load->resistance, request.kind == TakeKind::Square ? watts / 2 : watts};
}

double approachHertz(const TakeRequest& r) {
    return r.kind == TakeKind::Tone && r.hertz >= 200 ? r.hertz : 1000;
}

Expected<std::vector<ApproachStep>> approach(double inputRms, double hertz, const LoadLimits& limits,
                                             const PlayTone& play, const TakeWatch& watch, double from) {
    std::vector<ApproachStep> steps;
    double before = 0;       // RMS of the last step's output
    bool toneAtOnce = false; // the first step's output is the tone, not hum
    for (double level = from > 0 ? from : inputRms * approachFrom; level * smallestStep <= inputRms;) {
        if (watch.approaching) watch.approaching(level);
        const auto capture = play(level);
        if (!capture) return capture.problem();
        if (watch.stop.stop_requested()) return Problem{"", "cancelled"};
        const Heard heard = listen(*capture, hertz);
        ApproachStep step{level, heard.toneRms, 0, heard.mean};
        // The recorder's own offset, a thousandth or two of its full scale, is no DC of the amplifier's.
        if (std::abs(heard.mean) > std::max(limits.dcVolts, 0.005 * capture->fullScale))
            return Problem{
                "",
                fmt::format("{} DC stand across the load with {} at the input, and {} are allowed: not taken louder. "
                            "Find where "
                            "they come from; neither an output transformer nor a sound coupling capacitor passes DC.",
                            volts(heard.mean), volts(level), volts(limits.dcVolts))};
        // How many times louder the next tone may be. An output that compresses does so more and more, so that it grows
        // no faster from here than it grew from the last step.
        const double growth =
            steps.empty() || !(heard.rms > before) || !(before > 0)
                ? 1
                : std::clamp(std::log(heard.rms / before) / std::log(level / steps.back().inputRms), 0.25, 1.0);
        before = heard.rms;
        double further = approachStep;
        std::string limit;
        const auto keep = [&](double outputTimes, const std::string& why) {
            const double times = outputTimes < 1 ? outputTimes : std::pow(outputTimes, 1 / growth);
            if (times < further) further = times, limit = why;
        };
        if (limits.ohms > 0 && heard.rms > 0) {
            step.watts = heard.rms * heard.rms / limits.ohms;
            keep(std::sqrt(limits.watts / step.watts),
                 fmt::format("the load of {} takes {} of the {} that it is made for", format(limits.ohms, Unit::Ohm, 2),
                             format(step.watts, Unit::Watt, 2), format(limits.watts, Unit::Watt, 2)));
        }
        if (capture->fullScale > 0 && heard.crest > 0)
            keep(recorderShare * capture->fullScale / heard.crest,
                 fmt::format("the recorder sees {} of the {} at which it clips", volts(heard.crest),
                             volts(capture->fullScale)));
        if (steps.empty()) toneAtOnce = heard.toneRms > 0.7 * heard.rms && heard.toneRms > audible;
        steps.push_back(step);
        if (level * further >= inputRms)
            further = inputRms / level; // the take itself is next
        else if (further < smallestStep)
            return Problem{"", fmt::format("With {} at the input {}: {} would be too much. Lower the input level{}.",
                                           volts(level), limit, volts(inputRms),
                                           limit.starts_with("the load") ? ", or use a stronger load"
                                                                         : ", or put a divider before the recorder")};
        level *= further;
    }
    // From 40 dB below to less than 10 dB below, a signal that passes has grown by far more than two.
    if (steps.size() > 2 && steps.back().outputRms < std::max(nothing, 2 * steps.front().outputRms)) {
        if (toneAtOnce)
            return Problem{"", fmt::format("The amplifier is overdriven: {} at the input already give {} at the load, "
                                           "{} give {}. Lower the input level.",
                                           volts(steps.front().inputRms), volts(steps.front().outputRms),
                                           volts(steps.back().inputRms), volts(steps.back().outputRms))};
        return Problem{"", fmt::format("{} at the input give {} at the load, {} gave {}: the signal does not arrive, "
                                       "so it is not taken louder. "
                                       "Look at the volume control, the leads, the output's terminals.",
                                       volts(steps.back().inputRms), volts(steps.back().outputRms),
                                       volts(steps.front().inputRms), volts(steps.front().outputRms))};
    }
    return steps;
}

} // namespace ember::bench
