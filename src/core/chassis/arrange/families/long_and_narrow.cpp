// Everything in one line: valves of the channels, their iron, the supply.

#include "../families.h"

namespace ember::chassis::arrange {

Block longAndNarrow(const PartGroups& groups, const Turns& turns) {
    auto all = copies(groups, valvesOf);
    for (const ChannelParts& ch : groups.channels) all.push_back(columnOf(ch.iron, turns.signalIron));
    all.push_back(column({ofSupply(rowOf(groups.cans, 0)), othersOf(groups)}));
    all.push_back(column({ofSupply(rowOf(groups.rectifiers, 0)), chokesOf(groups, turns)}));
    all.push_back(mainsOf(groups, turns));
    return row(std::move(all));
}

} // namespace ember::chassis::arrange
