// The supply at one side, the channels beside it as copies of each other.

#include "../families.h"

namespace ember::chassis::arrange {

Block channelsSideBySide(const PartGroups& groups, const Turns& turns) {
    auto all = copies(groups, [&](const ChannelParts& ch) { return channelOf(ch, turns); });
    all.push_back(powerOf(groups, turns));
    return row(std::move(all));
}

} // namespace ember::chassis::arrange
