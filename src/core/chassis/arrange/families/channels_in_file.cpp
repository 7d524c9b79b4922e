// Each channel in single file along its side, from the input at the front to the transformer at the back.

#include "../families.h"

namespace ember::chassis::arrange {

Block channelsInFile(const PartGroups& groups, const Turns& turns) {
    const auto channels = halves(groups, [&](const ChannelParts& ch) {
        return column({rowOf(ch.iron, turns.signalIron), columnOf(ch.outputValves, 0), columnOf(ch.boards, 0),
                       columnOf({ch.smallValves.rbegin(), ch.smallValves.rend()}, 0)});
    });
    return between(channels.first, powerOf(groups, turns, sharedOf(groups)), channels.second);
}

} // namespace ember::chassis::arrange
