#include "path_schematic.h"

#include "core/build/path.h"
#include "core/quantity/letters.h"

#include <fmt/format.h>

#include <algorithm>
#include <set>

namespace ember::schematic {

std::string inputNet(const Channel& ch) {
    return ch.name + " input";
}
std::string outputNet(const Channel& ch) {
    return ch.name + " output";
}
std::string nodeNet(int node) {
    return fmt::format("B+{}", node);
}

namespace {

/// What the kind's table says that a stage lacks.
void checkStage(const Stage& stage, const StageKind& kind, bool two, StageBuilder& b) {
    if (kind.in == Phases::Two && !two)
        b.problem("", fmt::format("a {} needs two phases: put a splitter before it", kind.title));
    if (kind.in == Phases::One && two)
        b.problem("", fmt::format("two phases come in here, and a {} takes one", kind.title));
    for (const Slot& slot : kind.places) {
        const bool there = std::any_of(stage.parts.begin(), stage.parts.end(),
                                       [&](const StagePart& p) { return p.slot == slot.name; });
        if (slot.needed && !there)
            b.problem("/parts", fmt::format("this {} has no \"{}\": it cannot work without", kind.title, slot.name));
    }
    for (std::size_t k = 0; k < stage.parts.size(); ++k)
        if (std::none_of(kind.places.begin(), kind.places.end(),
                         [&](const Slot& s) { return s.name == stage.parts[k].slot; }))
            b.problem(fmt::format("/parts/{}/slot", k),
                      fmt::format("a {} has no place \"{}\"", kind.title, stage.parts[k].slot));
}

void checkValves(const Build& build, const Catalogue& catalogue, const Stage& stage, const StageKind& kind,
                 StageBuilder& b) {
    for (std::size_t k = 0; k < stage.valves.size(); ++k) {
        const StageValve& v = stage.valves[k];
        const auto slot = std::find_if(kind.valves.begin(), kind.valves.end(), [&](const ValveSlot& s) {
            return s.several ? v.at.size() == 2 && v.at.substr(0, 1) == s.at && v.at[1] >= '1' && v.at[1] <= '8'
                             : v.at == s.at;
        });
        const auto place = fmt::format("/valves/{}", k);
        if (slot == kind.valves.end()) {
            b.problem(place + "/at", fmt::format("a {} has no valve \"{}\"", kind.title, v.at));
            continue;
        }
        const Valve* bottle = bottleOf(build, v.bottle);
        const ValveType* type = bottle ? catalogue.valve(bottle->type) : nullptr;
        if (type && slot->takes == Takes::Pentode && !type->section(v.section).pentode)
            b.problem(place + "/bottle",
                      fmt::format("{} is a triode, {}; a pentode belongs here", upper(v.bottle), bottle->type));
    }
}

void wirePath(Path& path) {
    const Channel& ch = path.build->channels[path.channel];
    path.input = path.a = path.schematic->net(inputNet(ch), NetKind::Signal);
    path.before.assign(ch.stages.size(), {});
    path.after = path.before;
    for (std::size_t k = 0; k < ch.stages.size(); ++k) {
        path.before[k] = path.after[k] = path.a;
        const StageKind* kind = stageKind(ch.stages[k].kind);
        if (!kind) {
            path.problems.push_back(
                {fmt::format("/channels/{}/stages/{}/kind", path.channel, k),
                 fmt::format("there is no kind of stage \"{}\"; it is left out", ch.stages[k].kind)});
            continue;
        }
        StageBuilder b(path, k, *kind);
        checkStage(ch.stages[k], *kind, path.b.index >= 0, b);
        checkValves(*path.build, *path.catalogue, ch.stages[k], *kind, b);
        if (kind->in == Phases::Two && path.b.index < 0) continue; // nothing drives its second side
        kind->wire(b);
        path.after[k] = path.a;
    }
    if (path.output.index < 0) path.output = path.a;
}

/// The heaters' pins, behind what the sections brought.
void addHeaterPins(Schematic& s, const Build& build, const Catalogue& catalogue,
                   const std::map<std::size_t, PartId>& bottles) {
    for (const auto& [index, id] : bottles)
        if (const ValveType* type = catalogue.valve(build.bottles[index].type))
            for (const int pin : type->heaterPins) s.edit(id).pins.push_back({"heater", {}, pin});
}

/// Loose parts with both nets in the schematic, one of them a net of its own.
void addLoose(Schematic& s, const Build& build, const Catalogue& catalogue, const Surroundings& around, Path& path) {
    if (build.loose.empty()) return;
    // A loose part is wired as a ladder's part is: by its kind.
    Build carrier;
    carrier.channels.emplace_back();
    carrier.channels[0].id = build.channels[path.channel].id;
    carrier.channels[0].name = build.channels[path.channel].name;
    carrier.channels[0].stages.emplace_back();
    for (std::size_t k = 0; k < build.loose.size(); ++k) {
        const LoosePart& loose = build.loose[k];
        if (s.find(idOf(loose.part))) continue; // another channel of the same schematic has drawn it
        const auto find = [&](const std::string& name) -> std::optional<NetId> {
            if (const auto net = s.findNet(name)) return net;
            if (name.rfind("B+", 0) == 0 && name.size() > 2 &&
                name.find_first_not_of("0123456789", 2) == std::string::npos && name.size() < 5)
                return around.supply(std::stoi(name.substr(2)), false);
            return std::nullopt;
        };
        const auto own = [&](const std::string& name) {
            return name != "ground" && name.rfind("B+", 0) != 0 && s.findNet(name).has_value();
        };
        const bool supplyOnly =
            loose.from.rfind("B+", 0) == 0 && (loose.to.rfind("B+", 0) == 0 || loose.to == "ground");
        if (!own(loose.from) && !own(loose.to) && !(supplyOnly && path.channel == 0)) continue;
        // A name that the path does not know is a net of the loose parts' own.
        const auto named = [&](const std::string& name) { return find(name).value_or(s.net(name, NetKind::Signal)); };
        const std::optional<NetId> from = named(loose.from), to = named(loose.to);
        carrier.channels[0].stages[0].parts = {{{}, "loose", "", loose.note, loose.part}};
        Path carried;
        carried.build = &carrier;
        carried.catalogue = &catalogue;
        carried.schematic = &s;
        carried.around = &around;
        StageBuilder b(carried, 0, *stageKind("ladder"));
        const PartId id = b.place(carrier.channels[0].stages[0].parts[0], *from, *to, "loose part");
        if (id.index >= 0) s.place(id, fmt::format("/loose/{}/{}", k, mainKey(loose.part)));
    }
}

} // namespace

std::vector<Path> wirePaths(Schematic& s, const Build& build, const Catalogue& catalogue, const Surroundings& around,
                            std::size_t from, std::size_t to) {
    std::vector<Path> out;
    std::map<std::size_t, PartId> bottles;
    for (std::size_t k = from; k < to; ++k) {
        Path path;
        path.build = &build;
        path.catalogue = &catalogue;
        path.channel = k;
        path.schematic = &s;
        path.around = &around;
        path.bottles = &bottles;
        wirePath(path);
        out.push_back(std::move(path));
    }
    for (Path& path : out) addLoose(s, build, catalogue, around, path);
    addHeaterPins(s, build, catalogue, bottles);
    return out;
}

ChannelSchematic channelSchematic(const Build& build, const Catalogue& catalogue, std::size_t channel,
                                  const std::vector<double>& emission) {
    ChannelSchematic out;
    Schematic& s = out.schematic;
    out.source = s.add(voltage("input", s.net(inputNet(build.channels[channel])), Schematic::ground, {}));
    Surroundings around;
    around.emission = emission;
    around.supply = [&](int node, bool screens) {
        for (const HeldNode& h : out.nodes)
            if (h.node == node && h.screens == screens) return s[h.source].pins[0].net;
        const std::string name = screens ? nodeNet(node) + " screens" : nodeNet(node);
        const NetId net = s.net(name, NetKind::HighVoltage);
        out.nodes.push_back({node, screens, s.add(voltage(name, net, Schematic::ground, {}))});
        return net;
    };
    around.bias = [&](std::size_t adjuster, const std::string& name) {
        const NetId net = s.net(name, NetKind::Bias);
        for (const HeldLine& l : out.lines)
            if (l.adjuster == adjuster) return net;
        out.lines.push_back({adjuster, s.add(voltage(name, net, Schematic::ground, {}))});
        return net;
    };
    Path path = std::move(wirePaths(s, build, catalogue, around, channel, channel + 1).front());
    out.input = path.input, out.output = path.output, out.load = path.load;
    out.valves = std::move(path.valves);
    out.points = std::move(path.points);
    out.stageOf = std::move(path.stageOf);
    out.before = std::move(path.before), out.after = std::move(path.after);
    out.problems = std::move(path.problems);
    return out;
}

std::vector<Duty> bottleDuties(const Build& build) {
    std::vector<Duty> out(build.bottles.size(), Duty::Gain);
    for (const Channel& ch : build.channels)
        for (const Stage& s : ch.stages) {
            const Duty duty = dutyOf(s);
            for (const StageValve& v : s.valves)
                if (const auto k = bottleIndex(build, v.bottle)) out[*k] = std::max(out[*k], duty);
        }
    return out;
}

std::optional<Variation> resolve(const Schematic& s, const NamedVariation& v) {
    using Kind = NamedVariation::Kind;
    const auto part = s.find(v.part);
    const auto pin = s.pin(v.part, v.pin);
    switch (v.kind) {
    case Kind::Open: return pin ? std::optional<Variation>(Open{*pin}) : std::nullopt;
    case Kind::Leak: {
        const auto net = [&](const std::string& of, const std::string& name) -> std::optional<NetId> {
            if (of.empty()) return s.findNet(name);
            const auto at = s.pin(of, name);
            return at && s.at(*at).index >= 0 ? std::optional(s.at(*at)) : std::nullopt;
        };
        const auto a = net(v.part, v.pin), b = net(v.otherPart, v.otherPin);
        return a && b ? std::optional<Variation>(Leak{*a, *b, v.ohms}) : std::nullopt;
    }
    case Kind::Swapped: {
        const auto other = s.pin(v.otherPart, v.otherPin);
        return pin && other ? std::optional<Variation>(Swapped{*pin, *other}) : std::nullopt;
    }
    case Kind::Moved: {
        const auto net = s.findNet(v.otherPin);
        return pin && net ? std::optional<Variation>(Moved{*pin, *net}) : std::nullopt;
    }
    case Kind::Missing: return part ? std::optional<Variation>(Missing{*part}) : std::nullopt;
    case Kind::Reversed: {
        const auto* w = part ? std::get_if<Windings>(&s[*part].element) : nullptr;
        const std::size_t coil = v.pin.empty() ? 0 : static_cast<std::size_t>(std::stoi(v.pin));
        return w && coil < w->coils.size() ? std::optional<Variation>(Reversed{*part, static_cast<int>(coil)})
                                           : std::nullopt;
    }
    }
    return std::nullopt;
}

std::vector<Problem> pathProblems(const Build& build, const Catalogue& catalogue) {
    std::vector<Problem> out;
    std::set<std::pair<std::string, int>> used;
    std::set<std::string> nets;
    for (std::size_t k = 0; k < build.channels.size(); ++k) {
        const ChannelSchematic c = channelSchematic(build, catalogue, k);
        out.insert(out.end(), c.problems.begin(), c.problems.end());
        for (const Problem& p : c.schematic.defects()) {
            // The part's place where it has one; the net's name otherwise.
            const auto part = c.schematic.find(p.where);
            const std::string place = part ? c.schematic[*part].place : std::string();
            out.push_back(
                {place.empty() ? p.where : place, place.empty() ? p.sentence : upper(p.where) + ": " + p.sentence});
        }
        for (const ValveUse& v : c.valves)
            if (!used.emplace(build.bottles[v.bottle].id, v.section).second)
                out.push_back({fmt::format("/channels/{}/stages/{}", k, v.stage),
                               fmt::format("section {} of {} is at work in another channel too", v.section,
                                           upper(build.bottles[v.bottle].id))});
        for (const Net& n : c.schematic.nets()) nets.insert(n.name);
    }
    for (std::size_t k = 0; k < build.loose.size(); ++k)
        for (const auto& [key, name] : {std::pair{"from", &build.loose[k].from}, std::pair{"to", &build.loose[k].to}})
            if (!nets.contains(*name) && name->rfind("B+", 0) != 0)
                out.push_back({fmt::format("/loose/{}/{}", k, key), fmt::format("there is no net \"{}\"", *name)});
    for (std::size_t k = 0; k < build.bottles.size(); ++k) {
        const Valve& v = build.bottles[k];
        const bool heated = heaterWindingOf(build, v).has_value();
        if (!heated)
            out.push_back({fmt::format("/bottles/{}/heater", k),
                           fmt::format("no heater winding feeds {}{}", upper(v.id),
                                       v.heater.empty() ? ": add one that feeds \"signal\""
                                                        : fmt::format(": there is no \"{}\"", v.heater))});
    }
    return out;
}

} // namespace ember::schematic
