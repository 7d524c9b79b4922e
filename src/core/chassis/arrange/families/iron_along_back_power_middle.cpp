// Transformers in one row along the back, the power transformer between; valves before their own transformer.

#include "../families.h"

namespace ember::chassis::arrange {

Block ironAlongBackPowerMiddle(const PartGroups& groups, const Turns& turns) {
    const auto iron = halves(groups, [&](const ChannelParts& ch) { return rowOf(ch.iron, turns.signalIron); });
    const auto valves = halves(groups, [&](const ChannelParts& ch) { return valvesOf(ch); });
    return column(
        {between(iron.first, mainsOf(groups, turns), iron.second),
         between(valves.first, column({chokesOf(groups, turns), supplyOf(groups), sharedOf(groups)}), valves.second)});
}

} // namespace ember::chassis::arrange
