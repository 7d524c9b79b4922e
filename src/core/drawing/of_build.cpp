#include "of_build.h"

#include "symbols.h"

#include "core/build/build_json.h"
#include "core/build/path.h"
#include "core/quantity/letters.h"
#include "core/quantity/quantity.h"
#include "core/schematic/path_schematic.h"

#include <fmt/format.h>

#include <map>

namespace ember::drawing {

using namespace schematic;

namespace {

/// Parts of two ends that a stage has and its present form does not wire. Returns the nets that their ends are on.
std::vector<NetId> addIdle(ChannelSchematic& c, const Channel& channel, std::size_t index) {
    std::vector<NetId> out;
    for (std::size_t k = 0; k < channel.stages.size(); ++k)
        for (std::size_t p = 0; p < channel.stages[k].parts.size(); ++p) {
            const StagePart& part = channel.stages[k].parts[p];
            const auto place = fmt::format("/channels/{}/stages/{}/parts/{}/{}", index, k, p, mainKey(part.part));
            const auto& wired = c.schematic.parts();
            if (std::holds_alternative<AdjusterPart>(part.part) ||
                std::any_of(wired.begin(), wired.end(), [&](const Part& x) { return x.place == place; }))
                continue;
            const NetId net = c.schematic.net(part.at.empty() ? "not in use" : fmt::format("not in use: {}", part.at));
            out.push_back(net);
            Part idle = std::holds_alternative<CapacitorPart>(part.part)
                            ? schematic::capacitor(idOf(part.part), net, net, mainValue(part.part))
                            : schematic::resistor(idOf(part.part), net, net, mainValue(part.part));
            idle.place = place;
            c.stageOf.emplace_back(c.schematic.add(std::move(idle)), k);
        }
    return out;
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

std::string valueOf(const Build& build, const Part& part) {
    if (std::holds_alternative<Bottle>(part.element)) return {};
    const auto place = placeAt(build, part.place);
    return place ? formatExact(place->value, place->unit) : std::string();
}

std::string ChannelSubject::shape() const {
    std::string out = subject.inputName + ";" + subject.outputName;
    for (const Net& net : schematic.nets()) out += ";" + net.name;
    for (std::size_t k = 0; k < schematic.parts().size(); ++k) {
        const Part& p = schematic.parts()[k];
        out += fmt::format(";{} {} {} {}", p.id, subject.names[k], p.element.index(), p.place);
        if (const auto* b = std::get_if<Bottle>(&p.element)) out += b->type;
        if (const auto* c = std::get_if<Capacitance>(&p.element)) out += polarised(*c) ? "+" : "";
        for (const schematic::Pin& pin : p.pins) out += fmt::format(",{}", pin.net.index);
    }
    return out;
}

std::unique_ptr<ChannelSubject> channelSubject(const Build& build, const Catalogue& catalogue, std::size_t channel) {
    auto out = std::make_unique<ChannelSubject>();
    ChannelSchematic c = channelSchematic(build, catalogue, channel);
    const std::vector<NetId> idle = addIdle(c, build.channels[channel], channel);
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
    for (const NetId n : idle) s.flagged[static_cast<std::size_t>(n.index)] = true;
    const Channel& ch = build.channels[channel];
    out->owner.assign(parts.size(), noStage);
    for (const auto& [part, stage] : c.stageOf) out->owner[static_cast<std::size_t>(part.index)] = stage;
    for (const auto& [part, stage] : c.stageOf)
        if (dutyOf(ch.stages[stage]) != Duty::Feedback) s.stageOf[static_cast<std::size_t>(part.index)] = stage;
    s.input = c.input, s.output = c.output;
    s.inputName = inputNet(ch), s.outputName = outputNet(ch);
    // The load, and what a file does not name, go by what they are.
    std::map<std::string, std::string> slots;
    for (const Stage& stage : ch.stages)
        for (const StagePart& p : stage.parts) {
            const std::string& id = idOf(p.part);
            if (id.empty()) slots[fmt::format("{}-{}-{}{}", ch.id, stage.id, p.slot, p.at)] = p.slot;
            if (std::get_if<ResistorPart>(&p.part) == loadResistor(ch.stages)) slots[id] = p.slot;
        }
    for (const Part& p : parts) {
        const auto slot = slots.find(p.id);
        s.names.push_back(slot == slots.end() ? upper(p.id) : slot->second);
    }
    return out;
}

} // namespace ember::drawing
