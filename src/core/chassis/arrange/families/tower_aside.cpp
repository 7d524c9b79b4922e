// Two plates: the channels above one behind the other, small valves at one end, the supply below at the other.

#include "../families.h"

namespace ember::chassis::arrange {

Block towerAsideAbove(const PartGroups& groups, const Turns& turns) {
    return row({lines(groups, [&](const ChannelParts& ch) { return lineOf(ch, turns); }), rowOf(groups.others, 0)});
}

Block towerAsideBelow(const PartGroups& groups, const Turns& turns) {
    const Block mains = mainsOf(groups, turns), chokes = chokesOf(groups, turns),
                rectifiers = rowOf(groups.rectifiers, 0), rest = rowOf(groups.supplyRest, 0);
    if (turns.chokeBefore) // capacitors on the side of the channels
        return row({columnOf(groups.cans, 0), column({mains, row({rest, rectifiers, chokes})})});
    return column({row({chokes, mains}), rectifiers, rowOf(groups.cans, 0), rest});
}

} // namespace ember::chassis::arrange
