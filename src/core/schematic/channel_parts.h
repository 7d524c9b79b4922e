#pragma once
// Which parts of a channel do what, for lists, layout and rules that need no nets.

#include "stages/stage_kind.h"

#include "core/build/build.h"

namespace ember::schematic {

/// Ids of the bottles of a channel's output stages, and of its other stages, in the path's order, each once.
std::vector<std::string> outputBottles(const Channel& channel);
std::vector<std::string> smallBottles(const Channel& channel);
/// Ids of the transformers of its stages, in the path's order.
std::vector<std::string> signalIron(const Channel& channel);
/// Index of the first stage of a duty; the number of stages where there is none.
std::size_t firstOf(const Channel& channel, Duty duty);
/// The stage whose valve sees the input first, or nullptr.
const Stage* firstGain(const Channel& channel);
const Stage* outputStage(const Channel& channel);

} // namespace ember::schematic
