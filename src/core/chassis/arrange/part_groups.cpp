#include "part_groups.h"

#include "core/base/contains.h"
#include "core/build/path.h"
#include "core/chassis/layout_figures.h"
#include "core/schematic/channel_parts.h"

#include <algorithm>

namespace ember::chassis::arrange {

std::size_t firstEarth(const Chassis& c) {
    return static_cast<std::size_t>(
        std::find_if(c.parts.begin(), c.parts.end(), [](const PlacedPart& p) { return p.kind == "earth"; }) -
        c.parts.begin());
}

PartGroups groupParts(const Build& b) {
    const std::vector<PlacedPart>& parts = b.chassis.parts;
    const Hum hum = humOf(b, {}); // which parts, not how much
    PartGroups groups;
    std::vector<bool> done(parts.size());
    const auto take = [&](const std::string& of, std::vector<std::size_t>& into) {
        for (std::size_t k = 0; k < parts.size(); ++k)
            if (!done[k] && parts[k].of == of) {
                into.push_back(k);
                done[k] = true;
            }
    };
    for (std::size_t k = 0; k < parts.size(); ++k) {
        const Face wall = upperOf(parts[k].face);
        done[k] = parts[k].locked || wall == Face::Left || wall == Face::Right;
    }
    std::vector<std::vector<std::string>> bottles;
    for (const Channel& ch : b.channels) bottles.push_back(bottlesOf(ch));
    for (std::size_t c = 0; c < b.channels.size(); ++c) {
        ChannelParts& own = groups.channels.emplace_back();
        take("input-" + b.channels[c].id, own.inputs);
        take("output-" + b.channels[c].id, own.outputs);
        for (const std::string& id : bottles[c]) {
            const auto users =
                std::count_if(bottles.begin(), bottles.end(), [&](const auto& x) { return contains(x, id); });
            take(id, users > 1 ? groups.shared : contains(hum.smallValves, id) ? own.smallValves : own.outputValves);
        }
        for (const std::string& iron : schematic::signalIron(b.channels[c])) take(iron, own.iron);
    }
    std::vector<std::size_t> boards;
    const std::size_t earth = firstEarth(b.chassis);
    for (std::size_t k = 0; k < parts.size(); ++k) {
        if (done[k]) continue;
        const PlacedPart& p = parts[k];
        auto& into = !isPlate(p.face)                                               ? groups.wall
                     : p.kind == "transformer"                                      ? groups.mains
                     : p.kind == "choke"                                            ? groups.chokes
                     : p.kind == "can"                                              ? groups.cans
                     : p.kind == "board"                                            ? boards
                     : p.kind == "socket" && !p.of.empty() && p.of == hum.rectifier ? groups.rectifiers
                     : p.kind == "supply-board" || k == earth || isLower(p.face)    ? groups.supplyRest
                                                                                    : groups.others;
        into.push_back(k);
    }
    const std::size_t each = groups.channels.empty() ? 0 : boards.size() / groups.channels.size();
    for (std::size_t k = 0; k < boards.size(); ++k)
        (each > 0 && k < each * groups.channels.size() ? groups.channels[k / each].boards : groups.others)
            .push_back(boards[k]);
    return groups;
}

} // namespace ember::chassis::arrange
