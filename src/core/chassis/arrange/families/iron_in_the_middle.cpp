// All iron in the middle of the plate, the valves of a channel at each end.

#include "../families.h"

namespace ember::chassis::arrange {

Block ironInTheMiddle(const Cast& cast, const Turns& turns) {
    const auto channels = halves(cast, [&](const ChannelParts& ch) {
        return row({valvesOf(ch), columnOf(ch.iron, turns.signalIron)});
    });
    return between(channels.first, powerOf(cast, turns, sharedOf(cast)), channels.second);
}

} // namespace ember::chassis::arrange
