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

constexpr const char* idleNet = "not in use";

/// Parts of two ends that a stage has and its present form does not wire.
void addIdle(ChannelSchematic& c, const Channel& channel, std::size_t index) {
    for (std::size_t k = 0; k < channel.stages.size(); ++k)
        for (std::size_t p = 0; p < channel.stages[k].parts.size(); ++p) {
            const StagePart& part = channel.stages[k].parts[p];
            const auto place = fmt::format("/channels/{}/stages/{}/parts/{}/{}", index, k, p, mainKey(part.part));
            const auto& wired = c.schematic.parts();
            if (std::holds_alternative<AdjusterPart>(part.part) ||
                std::any_of(wired.begin(), wired.end(), [&](const Part& x) { return x.place == place; }))
                continue;
            const NetId net = c.schematic.net(part.at.empty() ? idleNet : fmt::format("{}: {}", idleNet, part.at));
            Part idle = std::holds_alternative<CapacitorPart>(part.part)
                            ? schematic::capacitor(idOf(part.part), net, net, mainValue(part.part))
                            : schematic::resistor(idOf(part.part), net, net, mainValue(part.part));
            idle.place = place;
            c.stageOf.emplace_back(c.schematic.add(std::move(idle)), k);
        }
}

} // namespace

std::size_t ChannelSubject::stageOf(const Body& body) const {
    if (const ValveUse* v = valveOf(body)) return v->stage;
    return body.part.index < 0 ? body.stage : owner[static_cast<std::size_t>(body.part.index)];
}

const ValveUse* ChannelSubject::valveOf(const Body& body) const {
    for (const ValveUse& v : valves)
        if (v.part == body.part && v.system == body.section) return &v;
    return nullptr;
}

std::string ChannelSubject::shape() const {
    std::string out;
    for (std::size_t k = 0; k < schematic.parts().size(); ++k) {
        const Part& p = schematic.parts()[k];
        out += fmt::format(";{} {} {} {}", p.id, subject.names[k], p.element.index(), p.place);
        if (const auto* b = std::get_if<Bottle>(&p.element)) out += b->type;
        for (const schematic::Pin& pin : p.pins) out += fmt::format(",{}", pin.net.index);
    }
    return out;
}

std::unique_ptr<ChannelSubject> channelSubject(const Build& build, const Catalogue& catalogue, std::size_t channel) {
    auto out = std::make_unique<ChannelSubject>();
    ChannelSchematic c = channelSchematic(build, catalogue, channel);
    addIdle(c, build.channels[channel], channel);
    out->schematic = std::move(c.schematic);
    out->valves = std::move(c.valves);
    out->nodes = c.nodes;
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
    for (std::size_t k = 0; k < s.flagged.size(); ++k)
        if (out->schematic.nets()[k].name.rfind(idleNet, 0) == 0) s.flagged[k] = true;
    const Channel& ch = build.channels[channel];
    out->owner.assign(parts.size(), noStage);
    for (const auto& [part, stage] : c.stageOf) out->owner[static_cast<std::size_t>(part.index)] = stage;
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
    }
    return out;
}

} // namespace ember::drawing
