#pragma once
// What the files of this folder share: wiring of what several kinds have.

#include "stage_builder.h"

namespace ember::schematic {

/// One primary from `a` to `b`, one secondary from `c` to `d`, the ends named first rising together. Leakage stands at
/// the primary.
void addTransformer(StageBuilder& b, const StagePart& iron, NetId a, NetId bEnd, NetId c, NetId d, std::string role);

/// The load of a plate: resistor, choke or current source from the supply, or a transformer's primary. Returns the net
/// that the signal leaves by: the plate, or the secondary.
NetId plateLoad(StageBuilder& b, NetId plate, std::string_view slot = "plate");

/// The valves of one side of an output stage, "a" or "b", from their coupling on.
struct OutputSide {
    NetId plate, tap; ///< the tap: none where the transformer has none
};
void addOutputSide(StageBuilder& b, char side, NetId from, const OutputSide& iron, NetId screens, NetId sharedCathode,
                   PartId sharedSelf, int sharing);
/// What the screens of a stage are fed from: its node, or a node of its own behind a dropping resistor, held by zeners.
NetId screenFeed(StageBuilder& b);
/// Number of valves at a side.
int valvesAt(const Stage& stage, char side);

} // namespace ember::schematic
