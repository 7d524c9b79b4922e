#include "of_build.h"

#include "core/base/overloaded.h"
#include "core/build/path.h"
#include "core/quantity/letters.h"
#include "core/quantity/quantity.h"
#include "core/schematic/path_schematic.h"

#include <fmt/format.h>

#include <map>

namespace ember::drawing {

using namespace schematic;

namespace {

std::string valueText(const PartValue& part) {
    return std::visit(Overloaded{[](const ResistorPart& p) { return formatExact(p.resistance, Unit::Ohm); },
                                 [](const CapacitorPart& p) { return formatExact(p.capacitance, Unit::Farad); },
                                 [](const ChokePart& p) { return formatExact(p.inductance, Unit::Henry); },
                                 [](const PotentiometerPart& p) { return formatExact(p.resistance, Unit::Ohm); },
                                 [](const OutputTransformer& p) { return formatExact(p.primaryImpedance, Unit::Ohm); },
                                 [](const CurrentSourcePart& p) { return formatExact(p.amps, Unit::Ampere); },
                                 [](const DiodePart& p) { return formatExact(p.drop, Unit::Volt); },
                                 [](const ZenerPart& p) { return formatExact(p.volts, Unit::Volt); },
                                 [](const AdjusterPart&) { return std::string(); }},
                      part);
}

} // namespace

std::unique_ptr<ChannelSubject> channelSubject(const Build& build, const Catalogue& catalogue, std::size_t channel) {
    auto out = std::make_unique<ChannelSubject>();
    ChannelSchematic c = channelSchematic(build, catalogue, channel);
    out->schematic = std::move(c.schematic);
    Subject& s = out->subject;
    s.schematic = &out->schematic;
    const auto& parts = out->schematic.parts();
    s.hidden.assign(parts.size(), false);
    s.flagged.assign(out->schematic.nets().size(), false);
    s.stageOf.assign(parts.size(), noStage);
    const auto hold = [&](PartId source) {
        s.hidden[static_cast<std::size_t>(source.index)] = true;
        s.flagged[static_cast<std::size_t>(parts[static_cast<std::size_t>(source.index)].pins[0].net.index)] = true;
    };
    s.hidden[static_cast<std::size_t>(c.source.index)] = true;
    for (const HeldNode& n : c.nodes) {
        hold(n.source);
        s.flagName[parts[static_cast<std::size_t>(n.source.index)].pins[0].net.index] = nodeNet(n.node);
    }
    for (const HeldLine& l : c.lines) hold(l.source);
    const Channel& ch = build.channels[channel];
    for (const auto& [part, stage] : c.stageOf)
        if (dutyOf(ch.stages[stage]) != Duty::Feedback) s.stageOf[static_cast<std::size_t>(part.index)] = stage;
    s.input = c.input, s.output = c.output;
    s.inputName = inputNet(ch), s.outputName = outputNet(ch);
    std::map<std::string, std::string> values, slots;
    for (const Stage& stage : ch.stages)
        for (const StagePart& p : stage.parts) {
            const std::string id =
                idOf(p.part).empty() ? fmt::format("{}-{}-{}{}", ch.id, stage.id, p.slot, p.at) : idOf(p.part);
            values[id] = valueText(p.part);
            if (std::get_if<ResistorPart>(&p.part) == loadResistor(ch.stages) || idOf(p.part).empty())
                slots[id] = p.slot;
        }
    for (const LoosePart& p : build.loose) values[idOf(p.part)] = valueText(p.part);
    out->value = [values = std::move(values)](const Part& p) {
        const auto at = values.find(p.id);
        return at == values.end() ? std::string() : at->second;
    };
    for (const Part& p : parts) {
        const auto slot = slots.find(p.id);
        s.names.push_back(slot == slots.end() ? upper(p.id) : slot->second);
        out->places.push_back(p.place);
    }
    return out;
}

} // namespace ember::drawing
