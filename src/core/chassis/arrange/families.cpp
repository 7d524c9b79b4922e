#include "families.h"

#include <array>

namespace ember::chassis::arrange {

Block channelsEachSide(const Cast&, const Turns&);
Block channelsInFile(const Cast&, const Turns&);
Block channelsOneBehindOther(const Cast&, const Turns&);
Block channelsSideBySide(const Cast&, const Turns&);
Block ironAlongBackPowerAside(const Cast&, const Turns&);
Block ironAlongBackPowerMiddle(const Cast&, const Turns&);
Block ironInTheMiddle(const Cast&, const Turns&);
Block longAndNarrow(const Cast&, const Turns&);
Block oneRowOfValves(const Cast&, const Turns&);

std::span<const Family> families() {
    using enum Repeat;
    static constexpr std::array all{
        Family{"iron-back-middle", "iron along the back, power in the middle", MirrorImage, ironAlongBackPowerMiddle},
        Family{"iron-back-side", "iron along the back, power at one side", ShiftedCopy, ironAlongBackPowerAside},
        Family{"each-side", "power in the middle, a channel each side", MirrorImage, channelsEachSide},
        Family{"side-by-side", "power at one side, channels side by side", ShiftedCopy, channelsSideBySide},
        Family{"one-behind-other", "power at one side, one channel behind the other", ShiftedCopy,
               channelsOneBehindOther},
        Family{"iron-middle", "iron in the middle, valves at both ends", MirrorImage, ironInTheMiddle},
        Family{"one-row", "all valves in one row along the front", MirrorImage, oneRowOfValves},
        Family{"in-file", "channels in file along the sides", MirrorImage, channelsInFile},
        Family{"long", "long and narrow", ShiftedCopy, longAndNarrow}};
    return all;
}

Block valvesOf(const ChannelParts& ch) {
    return column({rowOf(ch.outputValves, 0), columnOf(ch.boards, 0), rowOf(ch.smallValves, 0)});
}

Block channelOf(const ChannelParts& ch, const Turns& turns) {
    return column({rowOf(ch.iron, turns.signalIron), valvesOf(ch)});
}

Block mainsOf(const Cast& cast, const Turns& turns) {
    return ofSupply(rowOf(cast.mains, turns.mains));
}

Block chokesOf(const Cast& cast, const Turns& turns) {
    return ofSupply(rowOf(cast.chokes, turns.choke));
}

Block supplyOf(const Cast& cast) {
    return column(
        {ofSupply(rowOf(cast.rectifiers, 0)), ofSupply(rowOf(cast.cans, 0)), ofSupply(rowOf(cast.others, 0))});
}

Block sharedOf(const Cast& cast) {
    return rowOf(cast.shared, 0);
}

Block powerOf(const Cast& cast, const Turns& turns, Block front) {
    return column({mainsOf(cast, turns), chokesOf(cast, turns), supplyOf(cast), std::move(front)});
}

Block between(std::vector<Block> left, Block middle, std::vector<Block> right) {
    left.push_back(std::move(middle));
    for (Block& b : right) left.push_back(std::move(b));
    return row(std::move(left));
}

} // namespace ember::chassis::arrange
