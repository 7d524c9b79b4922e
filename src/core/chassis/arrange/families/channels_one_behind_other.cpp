// The supply at one side, the channels one behind the other; each runs from its small valves to its transformer.

#include "../families.h"

namespace ember::chassis::arrange {

Block channelsOneBehindOther(const Cast& cast, const Turns& turns) {
    std::vector<Block> all;
    for (const ChannelParts& ch : cast.channels)
        all.insert(all.begin(), row({columnOf(ch.smallValves, 0), columnOf(ch.boards, 90), columnOf(ch.outputValves, 0),
                                     columnOf(ch.iron, turns.signalIron)}));
    return row({column(std::move(all)), powerOf(cast, turns)});
}

} // namespace ember::chassis::arrange
