// Two plates: the channels above as mirror images, the supply below with its iron at the back.

#include "../families.h"

namespace ember::chassis::arrange {

Block towerAbove(const PartGroups& groups, const Turns& turns) {
    const auto channels = halves(groups, [&](const ChannelParts& ch) { return channelOf(ch, turns); });
    return between(channels.first, atFront(column({rowOf(groups.others, 0), sharedOf(groups)})), channels.second);
}

Block towerBelow(const PartGroups& groups, const Turns& turns) {
    Block rest = row({rowOf(groups.rectifiers, 0), rowOf(groups.cans, 0), rowOf(groups.supplyRest, 0)});
    const Block mains = mainsOf(groups, turns), chokes = chokesOf(groups, turns);
    return turns.chokeBefore ? column({mains, row({chokes, rest})}) : column({row({mains, chokes}), rest});
}

} // namespace ember::chassis::arrange
