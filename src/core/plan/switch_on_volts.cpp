#include "switch_on_volts.h"

#include "core/schematic/channel_parts.h"
#include "core/schematic/stages/stage_kind.h"

#include <algorithm>
#include <cmath>

namespace ember::plan {

namespace {

/// Crest of what a capacitor with `tau` [s] passes of a rise, over time.
double passed(const std::vector<double>& seconds, const std::vector<double>& volts, double tau) {
    double out = 0, most = 0;
    for (std::size_t k = 1; k < volts.size(); ++k) {
        const double dt = seconds[k] - seconds[k - 1];
        out = (out + volts[k] - volts[k - 1]) * std::exp(-dt / tau);
        most = std::max(most, std::abs(out));
    }
    return most;
}

double behindCoupling(const Build& b, const Figures& f, std::size_t channel) {
    const Channel& ch = b.channels[channel];
    const auto out = std::find_if(ch.stages.begin(), ch.stages.end(),
                                  [](const Stage& s) { return schematic::dutyOf(s) == schematic::Duty::LineOut; });
    const StagePart* coupling = out == ch.stages.end() ? nullptr : out->part("coupling");
    const ResistorPart* load = schematic::loadResistor(ch.stages);
    if (!coupling || !load || out == ch.stages.begin()) return unknown;
    const Stage& before = *std::prev(out);
    const auto node = static_cast<std::size_t>(before.node - 1);
    if (node >= f.switchOn.nodes.size()) return unknown;
    const StagePart* plate = before.part("plate");
    const auto* source = plate ? std::get_if<ResistorPart>(&plate->part) : nullptr;
    const double series = source ? source->resistance : 0, all = series + load->resistance;
    return passed(f.switchOn.seconds, f.switchOn.nodes[node], all * mainValue(coupling->part)) * load->resistance / all;
}

double behindIron(const Build& b, const Figures& f, std::size_t channel) {
    const Stage* stage = schematic::outputStage(b.channels[channel]);
    const StagePart* iron = stage ? stage->part("transformer") : nullptr;
    const auto* t = iron ? std::get_if<OutputTransformer>(&iron->part) : nullptr;
    if (!t || !f.nominal || channel >= f.nominal->channels.size()) return unknown;
    const double turns = std::sqrt(t->loadImpedance / t->primaryImpedance); // of the secondary, over the primary's
    const bool standby = std::any_of(b.supply.sections.begin(), b.supply.sections.end(),
                                     [](const Section& s) { return s.kind == SectionKind::Switch; });
    const auto node = static_cast<std::size_t>(stage->node - 1);
    const bool pair = schematic::stageKind(stage->kind)->in == schematic::Phases::Two;
    if (standby && f.cold && node < f.cold->nodes.size()) return f.cold->nodes[node].most * turns * (pair ? 2 : 1);
    constexpr double warming = 2; // [s] in which most of the current comes, of cathodes that take 10 s and more
    double a = 0, c = 0;
    for (const ValvePoint& v : f.nominal->channels[channel].valves)
        if (v.duty == schematic::Duty::Output) (!v.at.empty() && v.at[0] == 'b' ? c : a) += v.plateAmps;
    const double henries = t->primaryInductance / (pair ? 2 : 1); // one half drives the whole: turns 1/2, of L
    return std::max(a, c) * henries / warming * turns;
}

} // namespace

double switchOnVolts(const Build& b, const Figures& f, std::size_t channel) {
    if (channel >= b.channels.size()) return unknown;
    const double line = behindCoupling(b, f, channel);
    return std::isfinite(line) ? line : behindIron(b, f, channel);
}

} // namespace ember::plan
