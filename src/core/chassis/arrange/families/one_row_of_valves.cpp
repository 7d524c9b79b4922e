// Iron along the back, the supply before it, all valves of the channels in one row along the front.

#include "../families.h"

namespace ember::chassis::arrange {

Block oneRowOfValves(const PartGroups& groups, const Turns& turns) {
    const auto iron = halves(groups, [&](const ChannelParts& ch) { return rowOf(ch.iron, turns.signalIron); });
    const auto line = halves(groups, [&](const ChannelParts& ch) {
        return row({rowOf(ch.smallValves, 0), rowOf(ch.outputValves, 0)});
    });
    const auto boards = halves(groups, [&](const ChannelParts& ch) { return rowOf(ch.boards, 0); });
    const Block cans = ofSupply(rowOf(groups.cans, 0)), rectifiers = ofSupply(rowOf(groups.rectifiers, 0)),
                chokes = chokesOf(groups, turns), others = othersOf(groups);
    // Rectifiers before the power transformer: in the middle, or at the right of one channel.
    Block supply =
        iron.second.empty() ? row({cans, chokes, others, rectifiers}) : row({cans, rectifiers, chokes, others});
    return column({between(iron.first, mainsOf(groups, turns), iron.second), std::move(supply),
                   between(boards.first, row({}), boards.second), between(line.first, sharedOf(groups), line.second)});
}

} // namespace ember::chassis::arrange
