// The supply at one side, the channels one behind the other; each runs from its small valves to its transformer.

#include "../families.h"

#include <algorithm>

namespace ember::chassis::arrange {

Block channelsOneBehindOther(const PartGroups& groups, const Turns& turns) {
    return row({lines(groups, [&](const ChannelParts& ch) { return lineOf(ch, turns); }), powerOf(groups, turns)});
}

} // namespace ember::chassis::arrange
