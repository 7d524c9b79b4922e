// Everything in one line: valves of the channels, their iron, the supply.

#include "../families.h"

namespace ember::chassis::arrange {

Block longAndNarrow(const Cast& cast, const Turns& turns) {
    auto all = copies(cast, valvesOf);
    for (const ChannelParts& ch : cast.channels) all.push_back(columnOf(ch.iron, turns.signalIron));
    all.push_back(column({ofSupply(rowOf(cast.rectifiers, 0)), chokesOf(cast, turns)}));
    all.push_back(column({ofSupply(rowOf(cast.cans, 0)), ofSupply(rowOf(cast.others, 0))}));
    all.push_back(mainsOf(cast, turns));
    return row(std::move(all));
}

} // namespace ember::chassis::arrange
