#pragma once
// Edits to the shape of a path: stages inserted, exchanged, moved and taken away, their parts and valves, channels that
// follow another. Every edit is undone as one.

#include "stages/stage_kind.h"

#include "core/build/edit.h"
#include "core/catalogue/catalogue.h"

namespace ember::schematic {

/// A stage of this kind with its usual parts, without ids, and these bottles (by id, in the order of the kind's valves;
/// of several at a side, one a side); where there are fewer, without valves.
Stage freshStage(const StageKind& kind, const std::vector<StageValve>& valves);

/// Before stage `at` of a channel; at its end where there is none. Valves come from free sections of bottles that are
/// there, else as new bottles of the type most used in the channel (or EL84 and ECC85). A following channel gets the
/// same.
Edit insertStage(const Build& build, const Catalogue& catalogue, std::size_t channel, std::size_t at,
                 const StageKind& kind);
/// Takes a stage away, with bottles that no other stage uses.
Edit removeStage(const Build& build, std::size_t channel, std::size_t at);
Edit moveStage(const Build& build, std::size_t channel, std::size_t at, int by);
/// Makes it another kind: parts of the same slots and the valves stay, what the new kind has no place for goes.
Edit exchangeStage(const Build& build, const Catalogue& catalogue, std::size_t channel, std::size_t at,
                   const StageKind& kind);

/// A part with usual values in an empty slot.
Edit addPart(const Build& build, std::size_t channel, std::size_t stage, const Slot& slot, const std::string& at,
             Fill fill);
Edit removePart(const Build& build, std::size_t channel, std::size_t stage, std::size_t part);
/// Slots of a stage that are empty, with the places where they may be filled.
struct EmptySlot {
    const Slot* slot;
    std::string at;
};
std::vector<EmptySlot> emptySlots(const Stage& stage);

/// One more valve at each side of an output stage, as its neighbour is wired; or one less.
Edit addOutputValves(const Build& build, std::size_t channel, std::size_t stage);
Edit removeOutputValves(const Build& build, std::size_t channel, std::size_t stage);

/// Another type in a bottle's socket. A place that had a pentode keeps one where the new type has one in another
/// section, and so for triodes.
Edit changeType(const Build& build, const Catalogue& catalogue, const std::string& bottle, const std::string& type);

/// The secondary's further taps of an output transformer, part `part` of a stage, by their loads [ohm].
Edit setTaps(const Build& build, std::size_t channel, std::size_t stage, std::size_t part,
             const std::vector<double>& ohms);

/// A part between two nets by their names.
Edit addLoose(const Build& build, Fill fill, double value, const std::string& from, const std::string& to);

/// The channel itself and those that follow it.
std::vector<std::size_t> familyOf(const Build& build, std::size_t channel);
/// `edit` also done to every channel that follows one that it changes: values, stages and parts; ids, bottles and
/// adjusters stay each channel's own. What was set apart (a stage or part of another shape) is left alone.
Edit followed(const Build& build, const Edit& edit);
/// Lets a channel follow another of the same shape, or stand apart again (`leader` empty).
Edit setFollows(const Build& build, std::size_t channel, const std::string& leader);

} // namespace ember::schematic
