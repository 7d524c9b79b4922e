// Everything of the supply in the middle from back to front, a channel on each side.

#include "../families.h"

namespace ember::chassis::arrange {

Block channelsEachSide(const Cast& cast, const Turns& turns) {
    const auto channels = halves(cast, [&](const ChannelParts& ch) { return channelOf(ch, turns); });
    return between(channels.first, powerOf(cast, turns, sharedOf(cast)), channels.second);
}

} // namespace ember::chassis::arrange
