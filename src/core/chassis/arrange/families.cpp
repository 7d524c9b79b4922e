#include "families.h"

#include <array>

namespace ember::chassis::arrange {

Block channelsEachSide(const PartGroups&, const Turns&);
Block channelsInFile(const PartGroups&, const Turns&);
Block channelsOneBehindOther(const PartGroups&, const Turns&);
Block channelsSideBySide(const PartGroups&, const Turns&);
Block ironAlongBackLines(const PartGroups&, const Turns&);
Block ironAlongBackPowerAside(const PartGroups&, const Turns&);
Block ironAlongBackPowerMiddle(const PartGroups&, const Turns&);
Block ironInTheMiddle(const PartGroups&, const Turns&);
Block longAndNarrow(const PartGroups&, const Turns&);
Block oneRowOfValves(const PartGroups&, const Turns&);
Block towerAbove(const PartGroups&, const Turns&);
Block towerBelow(const PartGroups&, const Turns&);
Block towerAsideAbove(const PartGroups&, const Turns&);
Block towerAsideBelow(const PartGroups&, const Turns&);

std::span<const Family> families() {
    using enum Repeat;
    static constexpr std::array all{
        Family{"iron-back-middle", "iron along the back, power in the middle", MirrorImage, ironAlongBackPowerMiddle},
        Family{"iron-back-side", "iron along the back, power at one side", ShiftedCopy, ironAlongBackPowerAside},
        Family{"iron-back-lines", "iron along the back, a line of valves for each channel", ShiftedCopy,
               ironAlongBackLines, true},
        Family{"each-side", "power in the middle, a channel each side", MirrorImage, channelsEachSide, true},
        Family{"side-by-side", "power at one side, channels side by side", ShiftedCopy, channelsSideBySide, true},
        Family{"one-behind-other", "power at one side, one channel behind the other", ShiftedCopy,
               channelsOneBehindOther, true},
        Family{"iron-middle", "iron in the middle, valves at both ends", MirrorImage, ironInTheMiddle, true},
        Family{"one-row", "all valves in one row along the front", MirrorImage, oneRowOfValves},
        Family{"in-file", "channels in file along the sides", MirrorImage, channelsInFile, true},
        Family{"long", "long and narrow", ShiftedCopy, longAndNarrow},
        Family{"tower", "a tower, the supply below and behind", MirrorImage, towerAbove, true, towerBelow},
        Family{"tower-aside", "a tower, the supply below at the other side", ShiftedCopy, towerAsideAbove, true,
               towerAsideBelow}};
    return all;
}

Block valvesOf(const ChannelParts& ch) {
    return column({rowOf(ch.outputValves, 0), columnOf(ch.boards, 0), rowOf(ch.smallValves, 0)});
}

Block channelOf(const ChannelParts& ch, const Turns& turns) {
    return column({rowOf(ch.iron, turns.signalIron), valvesOf(ch)});
}

Block lineOf(const ChannelParts& ch, const Turns& turns) {
    return row({columnOf(ch.smallValves, 0), columnOf(ch.boards, 90), columnOf(ch.outputValves, 0),
                columnOf(ch.iron, turns.signalIron)});
}

Block mainsOf(const PartGroups& groups, const Turns& turns) {
    return ofSupply(rowOf(groups.mains, turns.mains));
}

Block chokesOf(const PartGroups& groups, const Turns& turns) {
    return ofSupply(rowOf(groups.chokes, turns.choke));
}

Block supplyOf(const PartGroups& groups) {
    return column({ofSupply(rowOf(groups.rectifiers, 0)), ofSupply(rowOf(groups.cans, 0)), othersOf(groups)});
}

Block othersOf(const PartGroups& groups) {
    return ofSupply(row({rowOf(groups.supplyRest, 0), rowOf(groups.others, 0)}));
}

Block sharedOf(const PartGroups& groups) {
    return rowOf(groups.shared, 0);
}

Block powerOf(const PartGroups& groups, const Turns& turns, Block front) {
    const Block mains = mainsOf(groups, turns), chokes = chokesOf(groups, turns);
    return column(
        {turns.chokeBefore ? column({mains, chokes}) : row({chokes, mains}), supplyOf(groups), std::move(front)});
}

Block between(std::vector<Block> left, Block middle, std::vector<Block> right) {
    left.push_back(std::move(middle));
    for (Block& b : right) left.push_back(std::move(b));
    return row(std::move(left));
}

} // namespace ember::chassis::arrange
