#include "cast.h"

#include "core/build/path.h"
#include "core/chassis/layout_figures.h"
#include "core/schematic/channel_parts.h"

#include <algorithm>

namespace ember::chassis::arrange {

namespace {

bool holds(const std::vector<std::string>& all, const std::string& id) {
    return std::find(all.begin(), all.end(), id) != all.end();
}

} // namespace

Cast castOf(const Build& b) {
    const std::vector<PlacedPart>& parts = b.chassis.parts;
    const Hum hum = humOf(b);
    Cast cast;
    std::vector<bool> done(parts.size());
    const auto take = [&](const std::string& of, std::vector<std::size_t>& into) {
        for (std::size_t k = 0; k < parts.size(); ++k)
            if (!done[k] && parts[k].of == of) {
                into.push_back(k);
                done[k] = true;
            }
    };
    for (std::size_t k = 0; k < parts.size(); ++k) {
        done[k] = parts[k].locked || parts[k].face == Face::Left || parts[k].face == Face::Right;
    }
    std::vector<std::vector<std::string>> bottles;
    for (const Channel& ch : b.channels) bottles.push_back(bottlesOf(ch));
    for (std::size_t c = 0; c < b.channels.size(); ++c) {
        ChannelParts& own = cast.channels.emplace_back();
        take("input-" + b.channels[c].id, own.inputs);
        take("output-" + b.channels[c].id, own.outputs);
        for (const std::string& id : bottles[c]) {
            const auto users =
                std::count_if(bottles.begin(), bottles.end(), [&](const auto& x) { return holds(x, id); });
            take(id, users > 1 ? cast.shared : holds(hum.smallValves, id) ? own.smallValves : own.outputValves);
        }
        for (const std::string& iron : schematic::signalIron(b.channels[c])) take(iron, own.iron);
    }
    std::vector<std::size_t> boards;
    for (std::size_t k = 0; k < parts.size(); ++k) {
        if (done[k]) continue;
        const PlacedPart& p = parts[k];
        auto& into = p.face != Face::Top                                            ? cast.wall
                     : p.kind == "transformer"                                      ? cast.mains
                     : p.kind == "choke"                                            ? cast.chokes
                     : p.kind == "can"                                              ? cast.cans
                     : p.kind == "board"                                            ? boards
                     : p.kind == "socket" && !p.of.empty() && p.of == hum.rectifier ? cast.rectifiers
                                                                                    : cast.others;
        into.push_back(k);
    }
    const std::size_t each = cast.channels.empty() ? 0 : boards.size() / cast.channels.size();
    for (std::size_t k = 0; k < boards.size(); ++k)
        (each > 0 && k < each * cast.channels.size() ? cast.channels[k / each].boards : cast.others)
            .push_back(boards[k]);
    return cast;
}

} // namespace ember::chassis::arrange
