// Iron along the back, the power transformer at one end, the choke beside it or before it, outermost; each channel in a
// line of its own, one before the other, from the small valves at the far end to the output valves beside the supply.

#include "../families.h"

#include <algorithm>

namespace ember::chassis::arrange {

Block ironAlongBackLines(const PartGroups& groups, const Turns& turns) {
    Block valves = lines(groups, [](const ChannelParts& ch) {
        return row({rowOf(ch.smallValves, 0), columnOf(ch.boards, 90), rowOf(ch.outputValves, 0)});
    });
    std::vector<Block> iron;
    for (const ChannelParts& ch : groups.channels) iron.push_back(rowOf(ch.iron, turns.signalIron));
    iron.push_back(row({turns.chokeBefore ? row({}) : chokesOf(groups, turns), mainsOf(groups, turns)}));
    const Block before = column({row({ofSupply(rowOf(groups.rectifiers, 0)), chokesOf(groups, turns)}),
                                 ofSupply(rowOf(groups.cans, 0)), othersOf(groups)});
    return column({row(std::move(iron)), row({std::move(valves), turns.chokeBefore ? before : supplyOf(groups)})});
}

} // namespace ember::chassis::arrange
