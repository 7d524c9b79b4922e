#pragma once
// Parts on the front and the back, set beside what they belong to.

#include "blocks.h"
#include "part_groups.h"

namespace ember::chassis::arrange {

/// Whether a wall part belongs beside the power transformer: inlet, fuse, switch, lamp, earth bolt.
bool isOfMains(const PlacedPart& part);

/// Where along the top a wall part should stand, and where it can: inputs beside their channel's first valve, outputs
/// beside its transformer, mains parts beside the power transformer, volume controls between the channels' first
/// valves, the rest on the middle of its wall. Each keeps its face and its height. Channels come first, pushed apart
/// evenly where they meet; the others take the free place nearest to theirs. Places in the coordinates of each part's
/// own face [m].
std::vector<Spot> wallSpots(const PartGroups& groups, const Chassis& chassis, const std::vector<Spot>& top);

} // namespace ember::chassis::arrange
