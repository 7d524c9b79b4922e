// Iron along the back, the power transformer at one end; before it each channel in a line of its own, one before the
// other, from the small valves at the far end to the output valves beside the supply.

#include "../families.h"

#include <algorithm>

namespace ember::chassis::arrange {

Block ironAlongBackLines(const PartGroups& groups, const Turns& turns) {
    auto lines = copies(groups, [](const ChannelParts& ch) {
        return row({rowOf(ch.smallValves, 0), columnOf(ch.boards, 90), rowOf(ch.outputValves, 0)});
    });
    std::reverse(lines.begin(), lines.end()); // the first channel in front
    std::vector<Block> iron;
    for (const ChannelParts& ch : groups.channels) iron.push_back(rowOf(ch.iron, turns.signalIron));
    iron.push_back(row({chokesOf(groups, turns), mainsOf(groups, turns)}));
    return column({row(std::move(iron)), row({column(std::move(lines)), supplyOf(groups)})});
}

} // namespace ember::chassis::arrange
