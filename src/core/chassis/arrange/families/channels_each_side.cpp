// Everything of the supply in the middle from back to front, a channel on each side.

#include "../families.h"

namespace ember::chassis::arrange {

Block channelsEachSide(const PartGroups& groups, const Turns& turns) {
    const auto channels = halves(groups, [&](const ChannelParts& ch) { return channelOf(ch, turns); });
    return between(channels.first, powerOf(groups, turns, sharedOf(groups)), channels.second);
}

} // namespace ember::chassis::arrange
