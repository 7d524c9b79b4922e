#include "take.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember::bench {

using signal::Stimulus;
using signal::StimulusKind;

const std::array<TakeForm, 7>& takeForms() {
    const auto form = [](StimulusKind kind, double seconds, double from = 20, double to = 20000) {
        return Stimulus{.kind = kind, .from = from, .to = to, .seconds = seconds, .rate = takeRate, .level = 0};
    };
    static const std::array<TakeForm, 7> all{{
        {TakeKind::Tone, "tone", "tone", true, form(StimulusKind::Tone, 1)},
        {TakeKind::Sweep, "sweep", "response by a sweep", false, form(StimulusKind::Sweep, 5)},
        {TakeKind::Square, "square", "square wave", true, form(StimulusKind::Square, 0.5)},
        {TakeKind::Modulation, "modulation", "two tones, 60 Hz and 7 kHz", false,
         form(StimulusKind::Intermodulation, 1, 60, 7000)},
        {TakeKind::Difference, "difference", "two tones, 19 and 20 kHz", false,
         form(StimulusKind::Intermodulation, 1, 19000, 20000)},
        {TakeKind::Noise, "noise", "hum and noise, input shorted", false, form(StimulusKind::Tone, 4)},
        {TakeKind::Burst, "burst", "a burst", true, form(StimulusKind::Burst, 1), false},
    }};
    return all;
}

const TakeForm& formOf(TakeKind kind) {
    return takeForms()[static_cast<std::size_t>(kind)];
}

Expected<std::vector<double>> samplesOf(const TakeRequest& r) {
    const TakeForm& form = formOf(r.kind);
    Stimulus s = form.signal;
    if (form.atFrequency) s.hertz = r.hertz;
    if (r.seconds > 0) s.seconds = r.seconds;
    return signal::samplesOf(s);
}

TakeRequest shortened(TakeRequest r) {
    const double lowest = formOf(r.kind).atFrequency ? r.hertz : formOf(r.kind).signal.from;
    r.seconds = std::min(formOf(r.kind).signal.seconds, std::max(0.2, 10 / lowest));
    return r;
}

Expected<std::vector<double>> voltsOf(const TakeRequest& r) {
    auto samples = samplesOf(r);
    if (!samples) return samples;
    const double crest = r.kind == TakeKind::Noise ? 0 : r.inputRms * std::numbers::sqrt2;
    for (double& v : *samples) v *= crest;
    return samples;
}

} // namespace ember::bench
