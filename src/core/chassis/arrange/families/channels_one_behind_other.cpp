// The supply at one side, the channels one behind the other; each runs from its small valves to its transformer.

#include "../families.h"

#include <algorithm>

namespace ember::chassis::arrange {

Block channelsOneBehindOther(const PartGroups& groups, const Turns& turns) {
    auto all = copies(groups, [&](const ChannelParts& ch) {
        return row({columnOf(ch.smallValves, 0), columnOf(ch.boards, 90), columnOf(ch.outputValves, 0),
                    columnOf(ch.iron, turns.signalIron)});
    });
    std::reverse(all.begin(), all.end()); // the first channel in front
    return row({column(std::move(all)), powerOf(groups, turns)});
}

} // namespace ember::chassis::arrange
