// Everything in one line: valves of the channels, their iron, the supply.

#include "../families.h"

namespace ember::chassis::arrange {

Block longAndNarrow(const Cast& cast, const Turns& turns) {
    std::vector<Block> all;
    for (const ChannelParts& ch : cast.channels) all.push_back(valvesOf(ch));
    for (const ChannelParts& ch : cast.channels) all.push_back(columnOf(ch.iron, turns.signalIron));
    all.push_back(column({rowOf(cast.rectifiers, 0), rowOf(cast.chokes, turns.choke)}));
    all.push_back(column({rowOf(cast.cans, 0), rowOf(cast.others, 0)}));
    all.push_back(rowOf(cast.mains, turns.mains));
    return row(std::move(all));
}

} // namespace ember::chassis::arrange
