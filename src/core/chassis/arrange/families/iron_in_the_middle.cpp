// All iron in the middle of the plate, the valves of a channel at each end.

#include "../families.h"

namespace ember::chassis::arrange {

Block ironInTheMiddle(const PartGroups& groups, const Turns& turns) {
    const auto channels = halves(groups, [&](const ChannelParts& ch) {
        return row({valvesOf(ch), columnOf(ch.iron, turns.signalIron)});
    });
    return between(channels.first, powerOf(groups, turns, sharedOf(groups)), channels.second);
}

} // namespace ember::chassis::arrange
