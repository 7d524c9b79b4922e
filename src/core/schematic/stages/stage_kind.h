#pragma once
// What a kind of stage is: its valves, its parts, its forms, and how they are wired. One kind is one file in this
// folder and one line of the table in stage_kinds.cpp; docs/stages.md says how to add one.

#include "core/build/stage.h"

#include <span>
#include <string_view>
#include <vector>

namespace ember::schematic {

class StageBuilder;

/// How many signals a stage takes or gives: none of its own, one, or two of opposite phase.
enum class Phases { None, One, Two };

/// What a stage is for: rules, procedures and lists ask this and not which kind it is.
enum class Duty { Input, Control, Gain, Splitter, Output, LineOut, Feedback };

/// Of how many there is one: the stage, its first side alone, each side, each valve.
enum class Each { Stage, First, Side, Valve };

/// Kinds of part that may fill a slot, by the alternatives of PartValue.
enum class Fill { Resistor, Capacitor, Choke, Potentiometer, Transformer, Source, Diode, Zener, Adjuster };

struct Slot {
    std::string_view name;   ///< as StagePart::slot
    std::vector<Fill> fills; ///< the first is the usual one
    double value = 0;        ///< usual main value, SI
    double rating = 0;       ///< usual watts, volts or amps
    bool needed = false;     ///< without it the stage cannot be computed
    bool usual = true;       ///< a new stage of this kind has it
    Each each = Each::Stage;
};

enum class Takes { Triode, Pentode, Any };
struct ValveSlot {
    std::string_view at; ///< as StageValve::at; of an output stage the side: "a", "b"
    Takes takes = Takes::Triode;
    bool several = false; ///< one to eight in parallel: "a1" .. "a8"
};

struct Form {
    std::string_view name;                 ///< as StageOption::name
    std::vector<std::string_view> choices; ///< the first is the usual one
};

struct StageKind {
    std::string_view id;    ///< as Stage::kind
    std::string_view title; ///< for lists
    std::string_view about; ///< one sentence: what it is for
    Duty duty = Duty::Gain;
    Phases in = Phases::One, out = Phases::One;
    std::vector<ValveSlot> valves;
    std::vector<Slot> places;
    std::vector<Form> forms;
    void (*wire)(StageBuilder&) = nullptr;
};

/// Every kind, in the order of a path.
std::span<const StageKind* const> stageKinds();
/// By its id, or nullptr.
const StageKind* stageKind(std::string_view id);
/// Duty::Gain for a kind that is not known.
Duty dutyOf(const Stage& stage);
bool isOutput(const Stage& stage);
/// What stands for the loudspeaker, or the next amplifier, at the end of a path; none: nullptr.
const ResistorPart* loadResistor(const std::vector<Stage>& stages);
ResistorPart* loadResistor(std::vector<Stage>& stages);
/// What the listener sets the level with: the volume control, or a line output's; none: nullptr.
const PotentiometerPart* levelControl(const std::vector<Stage>& stages);
PotentiometerPart* levelControl(std::vector<Stage>& stages);

/// A part of a kind with usual values, its id empty.
PartValue freshPart(Fill fill, const Slot& slot);

} // namespace ember::schematic
