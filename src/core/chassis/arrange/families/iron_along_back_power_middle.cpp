// Transformers in one row along the back, the power transformer between; valves before their own transformer.

#include "../families.h"

namespace ember::chassis::arrange {

Block ironAlongBackPowerMiddle(const Cast& cast, const Turns& turns) {
    const auto iron = halves(cast, [&](const ChannelParts& ch) { return rowOf(ch.iron, turns.signalIron); });
    const auto valves = halves(cast, [&](const ChannelParts& ch) { return valvesOf(ch); });
    return column(
        {between(iron.first, mainsOf(cast, turns), iron.second),
         between(valves.first, column({chokesOf(cast, turns), supplyOf(cast), sharedOf(cast)}), valves.second)});
}

} // namespace ember::chassis::arrange
