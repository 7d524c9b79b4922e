// Transformers in one row along the back, the power transformer in its corner with rectifier and capacitors before it.

#include "../families.h"

namespace ember::chassis::arrange {

Block ironAlongBackPowerAside(const Cast& cast, const Turns& turns) {
    auto valves = copies(cast, valvesOf);
    std::vector<Block> iron;
    for (const ChannelParts& ch : cast.channels) iron.push_back(rowOf(ch.iron, turns.signalIron));
    iron.push_back(row({chokesOf(cast, turns), mainsOf(cast, turns)}));
    valves.push_back(supplyOf(cast));
    return column({row(std::move(iron)), row(std::move(valves))});
}

} // namespace ember::chassis::arrange
