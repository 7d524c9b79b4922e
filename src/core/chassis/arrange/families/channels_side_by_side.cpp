// The supply at one side, the channels beside it as copies of each other.

#include "../families.h"

namespace ember::chassis::arrange {

Block channelsSideBySide(const Cast& cast, const Turns& turns) {
    std::vector<Block> all;
    for (const ChannelParts& ch : cast.channels) all.push_back(channelOf(ch, turns));
    all.push_back(powerOf(cast, turns));
    return row(std::move(all));
}

} // namespace ember::chassis::arrange
