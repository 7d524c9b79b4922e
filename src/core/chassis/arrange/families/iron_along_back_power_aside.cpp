// Transformers in one row along the back, the power transformer in its corner with rectifier and capacitors before it.

#include "../families.h"

namespace ember::chassis::arrange {

Block ironAlongBackPowerAside(const PartGroups& groups, const Turns& turns) {
    auto valves = copies(groups, valvesOf);
    std::vector<Block> iron;
    for (const ChannelParts& ch : groups.channels) iron.push_back(rowOf(ch.iron, turns.signalIron));
    iron.push_back(row({chokesOf(groups, turns), mainsOf(groups, turns)}));
    valves.push_back(supplyOf(groups));
    return column({row(std::move(iron)), row(std::move(valves))});
}

} // namespace ember::chassis::arrange
