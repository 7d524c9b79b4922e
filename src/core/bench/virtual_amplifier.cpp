#include "virtual_amplifier.h"

#include "core/build/path.h"
#include "core/diagnose/faults.h"
#include "core/plan/as_built.h"
#include "core/procedure/first_power.h"
#include "core/wires/hum.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

namespace ember::bench {

using namespace plan;

Expected<VirtualAmplifier> VirtualAmplifier::make(const Build& build, const Catalogue& catalogue, std::uint64_t seed,
                                                  const std::string& fault) {
    Build b = asBuilt(build, seed);
    Miswiring wiring;
    if (!fault.empty()) {
        const auto all = diagnose::faultsOf(build, catalogue);
        const auto at = std::find_if(all.begin(), all.end(), [&](const diagnose::Fault& f) { return f.id == fault; });
        if (at == all.end())
            return Problem{
                "",
                fmt::format("there is no fault \"{}\"; this build can have {}, such as \"{}\": the command \"faults\" "
                            "lists them",
                            fault, all.size(), all.front().id)};
        at->inflict(b);
        wiring = at->wiring;
    }
    return VirtualAmplifier(std::move(b), catalogue, std::move(wiring), seed + 1);
}

Expected<Done> VirtualAmplifier::power(int stage, double mainsVolts, std::stop_token stop) {
    if (stage < 0 || stage >= procedure::stageCount)
        return Problem{"", fmt::format("stage {} does not exist; First Power has stages 0 to {}", stage,
                                       procedure::stageCount - 1)};
    stageNow = stage;
    if (stage == 0 || solvedAt == std::pair{stage, mainsVolts}) return Done{};
    solvedAt.reset();
    wired.reset();
    auto s = solveSteady(real, *catalogue, procedure::stageConditions(real, stage, mainsVolts),
                         {.cycle = true, .stop = stop, .wiring = wiring}, &warm);
    if (!s) return s.problem();
    steady = std::move(*s);
    solvedAt = {stage, mainsVolts};
    model.emplace(real, *catalogue, steady, warm, wiring);
    return Done{};
}

void VirtualAmplifier::adjust(const Build& positions) {
    solvedAt.reset();
    wired.reset();
    const auto wanted = adjustersOf(positions);
    for (const AdjusterAt& own : adjustersOf(real))
        for (const AdjusterAt& a : wanted)
            if (a.channel == own.channel && a.stage == own.stage && a.part == own.part)
                std::get<AdjusterPart>(real.channels[own.channel].stages[own.stage].parts[own.part].part).position =
                    a.position;
    for (std::size_t k = 0; k < std::min(real.channels.size(), positions.channels.size()); ++k) {
        ResistorPart* load = schematic::loadResistor(real.channels[k].stages);
        const ResistorPart* wantedLoad = schematic::loadResistor(positions.channels[k].stages);
        if (load && wantedLoad) load->resistance = wantedLoad->resistance;
        PotentiometerPart* control = schematic::levelControl(real.channels[k].stages);
        const PotentiometerPart* wantedControl = schematic::levelControl(positions.channels[k].stages);
        if (control && wantedControl) control->position = wantedControl->position;
    }
}

Expected<double> VirtualAmplifier::read(const std::string& id) {
    const auto points = procedure::testPoints(real);
    const auto* point = procedure::findPoint(points, id);
    if (!point) return Problem{"", fmt::format("there is no test point \"{}\"", id)};
    if (stageNow < 0) return Problem{"", "the practice amplifier is not set up: choose a stage first"};
    const bool unplugged = point->mode == procedure::MeterMode::Ohms || point->kind == procedure::PointKind::Held;
    if (!unplugged && stageNow == 0) return Problem{"", "the amplifier is unplugged: there is nothing to read here"};
    if (point->mode == procedure::MeterMode::Ohms && stageNow != 0)
        return Problem{"", "resistance is read with the power off and the plug out"};
    double value = plan::unknown;
    if (stageNow == 0 || point->kind == procedure::PointKind::Held)
        value = procedure::coldReadings(real, *catalogue, {*point}, wiring)[0];
    else if (point->kind == procedure::PointKind::Hum)
        value = procedure::humReadings(real, *catalogue, steady.conditions, {.wiring = wiring})[point->index];
    else
        value = procedure::reading(real, *catalogue, steady, *point);
    if (!std::isfinite(value)) return Problem{"", fmt::format("nothing can be read at {} in this stage", point->label)};
    const double shown = procedure::asShown(real, point->mode, value, chance);
    // A display of four digits.
    if (shown == 0) return 0.0;
    const double digit = std::pow(10.0, std::floor(std::log10(std::abs(shown))) - 3);
    return std::round(shown / digit) * digit;
}

Expected<Done> VirtualAmplifier::ready(std::size_t channel) const {
    if (stageNow < 5 || !model)
        return Problem{"", "a signal needs full mains: pass First Power up to \"full mains\" first"};
    if (channel >= real.channels.size()) return Problem{"", fmt::format("there is no channel {}", channel + 1)};
    return Done{};
}

/// The same for every take of one state: computed with the first that asks.
const wires::HumFigures& VirtualAmplifier::hum() {
    if (!wired) {
        plan::Figures figures;
        figures.nominal = steady;
        wired = std::make_shared<const wires::WireFigures>(wires::wireFigures(real, *catalogue, figures));
    }
    return wired->hum;
}

/// The mains' lines with phases by chance, noise evenly up to half the sample rate, and the converter's ends.
void VirtualAmplifier::addHumAndNoise(std::vector<double>& volts, const signal::Capture& out, std::size_t channel) {
    const wires::HumFigures& humNow = hum();
    std::vector<std::array<double, 3>> lines; // hertz, crest, phase
    double hiss = out.fullScale * 3e-6;       // a good 24-bit converter
    if (channel < humNow.channels.size()) {
        std::uniform_real_distribution<double> phase(0, 2 * std::numbers::pi);
        for (const wires::HumLine& l : humNow.channels[channel].lines)
            lines.push_back({l.hertz, l.rms * std::numbers::sqrt2, phase(chance)});
        const double own = humNow.channels[channel].by[static_cast<std::size_t>(wires::HumSource::Noise)];
        if (std::isfinite(own)) hiss = std::hypot(hiss, own * std::sqrt(0.5 * out.sampleRate / 20e3));
    }
    std::normal_distribution<double> noise(0, hiss);
    for (std::size_t k = 0; k < volts.size(); ++k) {
        const double t = static_cast<double>(k) / out.sampleRate;
        double v = volts[k];
        for (const auto& [hertz, level, phase] : lines) v += level * std::sin(2 * std::numbers::pi * hertz * t + phase);
        volts[k] = std::clamp(v + noise(chance), -out.fullScale, out.fullScale);
    }
}

Expected<signal::Capture> VirtualAmplifier::take(const TakeRequest& request, const TakeWatch& watch) {
    if (auto fit = ready(request.channel); !fit) return fit.problem();
    auto out = model->take(request, watch);
    if (!out) return out;
    out->source = practice;
    const std::size_t next = nextChannel(request.channel, real.channels.size());
    const bool beside = request.setup.second == SecondInput::NextChannel && request.node == 0;
    if (beside && !request.setup.everyChannel)
        for (const wires::SignalReturn& s : hum().driven)
            if (s.channel == request.channel && next < s.reached.size())
                for (std::size_t k = 0; k < out->second.size(); ++k) out->second[k] += s.reached[next] * out->volts[k];
    // A meter's or scope's own noise is nothing beside a supply node's volts.
    if (request.node == 0) addHumAndNoise(out->volts, *out, request.channel);
    if (beside) addHumAndNoise(out->second, *out, next);
    return out;
}

Expected<signal::Capture> VirtualAmplifier::play(std::size_t channel, const std::vector<double>& volts, double rate,
                                                 const TakeWatch& watch) {
    if (auto fit = ready(channel); !fit) return fit.problem();
    auto played = model->play(channel, {}, volts, rate, watch);
    if (!played) return played;
    played->source = practice;
    addHumAndNoise(played->volts, *played, channel);
    return played;
}

} // namespace ember::bench
