// Iron along the back, the supply before it, all valves of the channels in one row along the front.

#include "../families.h"

namespace ember::chassis::arrange {

Block oneRowOfValves(const Cast& cast, const Turns& turns) {
    const auto iron = halves(cast, [&](const ChannelParts& ch) { return rowOf(ch.iron, turns.signalIron); });
    const auto line = halves(cast, [&](const ChannelParts& ch) {
        return row({rowOf(ch.smallValves, 0), rowOf(ch.outputValves, 0)});
    });
    const auto boards = halves(cast, [&](const ChannelParts& ch) { return rowOf(ch.boards, 0); });
    return column({between(iron.first, mainsOf(cast, turns), iron.second),
                   row({ofSupply(rowOf(cast.rectifiers, 0)), ofSupply(rowOf(cast.cans, 0)), chokesOf(cast, turns),
                        ofSupply(rowOf(cast.others, 0))}),
                   between(boards.first, row({}), boards.second), between(line.first, sharedOf(cast), line.second)});
}

} // namespace ember::chassis::arrange
