#include "series.h"

#include "series_run.h"

#include "core/schematic/stages/stage_kind.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>

namespace ember::bench {

const SeriesLine* SeriesResult::line(std::string_view name) const {
    const auto at = std::find_if(lines.begin(), lines.end(), [&](const SeriesLine& l) { return l.name == name; });
    return at == lines.end() ? nullptr : &*at;
}

double SeriesResult::figure(std::string_view name) const {
    const auto at = std::find_if(figures.begin(), figures.end(), [&](const SeriesFigure& f) { return f.name == name; });
    return at == figures.end() ? plan::unknown : at->value;
}

std::span<const SeriesForm> seriesForms() {
    static constexpr SeriesAxis hertz{"hertz", Unit::Hertz, true}, watts{"watts in the load", Unit::Watt, true},
        percent{"% of the fundamental", Unit::Percent, true}, decibels{"dB", Unit::Decibel, false};
    static const std::array<SeriesForm, 9> all{{
        {SeriesKind::Power,
         "power",
         "power against frequency",
         "At each frequency the level rises until the tone is 10 % distorted or 1 dB short.",
         hertz,
         {"watts in the load", Unit::Watt, true},
         false,
         false,
         false,
         runPower},
        {SeriesKind::DistortionByPower, "distortion-by-power", "distortion against power",
         "The level rises in steps of 2 dB; THD and each harmonic at every step.", watts, percent, true, false, false,
         runDistortionByPower},
        {SeriesKind::DistortionByFrequency, "distortion-by-frequency", "distortion against frequency",
         "The same power at each frequency, whatever input it takes.", hertz, percent, false, true, false,
         runDistortionByFrequency},
        {SeriesKind::DriveByControl,
         "drive-by-control",
         "driven by input or by control",
         "The same volts at the load, once by the input and once by the level control.",
         {"harmonic", Unit::None, false},
         percent,
         true,
         true,
         true,
         runDriveByControl},
        {SeriesKind::ControlTracking,
         "control",
         "gain by control position",
         "Each channel at positions of the level control, and how far the channels are apart.",
         {"% of the control's travel", Unit::Percent, false},
         decibels,
         true,
         false,
         true,
         runControlTracking},
        {SeriesKind::ResponseAtSettings, "response-at-setups", "response by control position",
         "Single tones with the level control at a quarter, half and three quarters.", hertz, decibels, false, true,
         true, runResponseAtSettings},
        {SeriesKind::ResponseWithLoudspeaker, "response-with-loudspeaker", "response with a loudspeaker",
         "Single tones into the resistor and into a loudspeaker; their difference.", hertz, decibels, false, true,
         false, runResponseWithLoudspeaker},
        {SeriesKind::OutputImpedance,
         "output-impedance",
         "output impedance by two loads",
         "The same tones into two resistors, never without a load.",
         hertz,
         {"ohms", Unit::Ohm, true},
         false,
         true,
         false,
         runOutputImpedance},
        {SeriesKind::Sag,
         "sag",
         "supply under a burst",
         "A burst of a tone, and what the supply's nodes do meanwhile.",
         {"seconds", Unit::Second, false},
         {"volts", Unit::Volt, false},
         true,
         true,
         false,
         runSag},
    }};
    return all;
}

const SeriesForm& formOf(SeriesKind kind) {
    return seriesForms()[static_cast<std::size_t>(kind)];
}

std::pair<SeriesAxis, SeriesAxis> axesOf(const SeriesForm& form, bool inVolts) {
    const auto axis = [inVolts](const SeriesAxis& a) {
        return inVolts && a.unit == Unit::Watt ? SeriesAxis{"volts at the output", Unit::Volt, a.logarithmic} : a;
    };
    return {axis(form.x), axis(form.y)};
}

namespace {

/// Of a line, V = sqrt(P R): nobody thinks of it in watts.
void giveVolts(SeriesResult& r, const SeriesForm& form, double ohms) {
    const auto volts = [ohms](double& watts) { watts = std::sqrt(watts * ohms); };
    for (SeriesLine& l : r.lines) {
        if (form.x.unit == Unit::Watt) std::for_each(l.x.begin(), l.x.end(), volts);
        if (form.y.unit == Unit::Watt) std::for_each(l.y.begin(), l.y.end(), volts);
    }
    for (SeriesFigure& f : r.figures)
        if (f.unit == Unit::Watt) volts(f.value), f.unit = Unit::Volt;
    r.inVolts = true;
}

} // namespace

SeriesContext seriesContextOf(const Build& build, const plan::Figures& figures) {
    SeriesContext out;
    for (std::size_t k = 0; k < build.channels.size(); ++k) {
        SeriesChannel c;
        c.name = build.channels[k].name;
        if (const ResistorPart* load = schematic::loadResistor(build.channels[k].stages))
            c.loadOhms = load->resistance, c.loadWatts = load->watts;
        if (const auto* control = schematic::levelControl(build.channels[k].stages)) c.control = control->position;
        if (k < figures.power.size()) c.gain = figures.power[k].gain, c.clipWatts = figures.power[k].clipWatts;
        out.channels.push_back(std::move(c));
    }
    if (figures.nominal) out.nodes = static_cast<int>(figures.nominal->nodes.size());
    return out;
}

Expected<SeriesResult> measure(const SeriesRequest& request, const SeriesContext& context, const Taker& take,
                               const TakeWatch& watch) {
    const SeriesForm& form = formOf(request.kind);
    if (request.channel >= context.channels.size()) return Problem{"", "this build has no channel to measure"};
    const SeriesChannel& c = context.channels[request.channel];
    if (form.needsControl && c.control < 0)
        return Problem{"", fmt::format("{} has no level control: \"{}\" needs one", c.name, form.caption)};
    if (!(c.loadOhms > 0)) return Problem{"", fmt::format("{} has no load at its output", c.name)};
    SeriesRun run(request, context, take, watch);
    auto out = form.run(run);
    if (run.cancelled()) return Problem{"", "cancelled"};
    if (out && plan::isLine(c.loadOhms)) giveVolts(*out, form, c.loadOhms);
    run.share(1);
    return out;
}

} // namespace ember::bench
