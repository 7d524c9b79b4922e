// The one table of kinds of stage: to add one is to add its file and its line here.
#include "stage_kind.h"

#include "core/build/typical_iron.h"

#include <algorithm>
#include <array>

namespace ember::schematic {

extern const StageKind inputStage, volumeStage, balanceStage, padStage, switchStage, toneStackStage, toneShelfStage,
    ladderStage, triodeStage, pentodeStage, followerStage, seriesPairStage, cascodeStage, muFollowerStage,
    splitLoadStage, longTailStage, paraphaseStage, splitIronStage, singleEndedStage, pushPullStage, lineOutStage,
    feedbackStage;

std::span<const StageKind* const> stageKinds() {
    static constexpr std::array all{
        &inputStage,       &volumeStage,     &balanceStage,   &padStage,      &switchStage,    &toneStackStage,
        &toneShelfStage,   &ladderStage,     &triodeStage,    &pentodeStage,  &followerStage,  &seriesPairStage,
        &cascodeStage,     &muFollowerStage, &splitLoadStage, &longTailStage, &paraphaseStage, &splitIronStage,
        &singleEndedStage, &pushPullStage,   &lineOutStage,   &feedbackStage};
    return all;
}

const StageKind* stageKind(std::string_view id) {
    for (const StageKind* k : stageKinds())
        if (k->id == id) return k;
    return nullptr;
}

Duty dutyOf(const Stage& stage) {
    const StageKind* k = stageKind(stage.kind);
    return k ? k->duty : Duty::Gain;
}

bool isOutput(const Stage& stage) {
    return dutyOf(stage) == Duty::Output;
}

const ResistorPart* loadResistor(const std::vector<Stage>& stages) {
    for (std::size_t k = stages.size(); k-- > 0;)
        if (const StagePart* p = dutyOf(stages[k]) >= Duty::Output ? stages[k].part("load") : nullptr)
            if (const auto* r = std::get_if<ResistorPart>(&p->part)) return r;
    return nullptr;
}

ResistorPart* loadResistor(std::vector<Stage>& stages) {
    return const_cast<ResistorPart*>(loadResistor(std::as_const(stages)));
}

const PotentiometerPart* levelControl(const std::vector<Stage>& stages) {
    for (const Stage& s : stages)
        if (const StageKind* k = stageKind(s.kind); k == &volumeStage || (k && k->duty == Duty::LineOut))
            if (const StagePart* p = s.part("control"))
                if (const auto* control = std::get_if<PotentiometerPart>(&p->part)) return control;
    return nullptr;
}

PotentiometerPart* levelControl(std::vector<Stage>& stages) {
    return const_cast<PotentiometerPart*>(levelControl(std::as_const(stages)));
}

namespace {
constexpr double leastOutputWatts = 2, mostGapped = 20; // [W], [H]
} // namespace

PartValue freshPart(Fill fill, const Slot& slot) {
    switch (fill) {
    case Fill::Resistor: return ResistorPart{{}, "", slot.value, slot.rating > 0 ? slot.rating : 0.5, 0.05};
    case Fill::Capacitor: return CapacitorPart{{}, "", slot.value, slot.rating > 0 ? slot.rating : 400, 0.1, 0, 0};
    case Fill::Choke: return ChokePart{{}, "", slot.value < 1 || slot.value > 1e3 ? 50 : slot.value, 500, 0.05, 0.2};
    case Fill::Potentiometer: return PotentiometerPart{{}, "", slot.value, Taper::Linear, 0.5, 0.2, 0.2};
    case Fill::Transformer: {
        OutputTransformer t;
        if (slot.value > 0 && slot.value < 1e3) t.primaryInductance = slot.value;
        if (slot.rating > 0) t.watts = slot.rating;
        if (t.watts < leastOutputWatts) return t; // an input's or an interstage one: its ratio is all that is known
        if (slot.value < mostGapped) t.primaryImpedance = 5000, t.dcAmps = 0.05; // of one valve, with a gap
        return typicalIron(t, IronClass::Sectioned);
    }
    case Fill::Source: return CurrentSourcePart{};
    case Fill::Diode: return DiodePart{{}, "", 1.7, 1, 0.02};
    case Fill::Zener: return ZenerPart{{}, "", slot.value > 0 ? slot.value : 100, 50, 5, 0.05};
    case Fill::Adjuster: return AdjusterPart{};
    }
    return ResistorPart{};
}

} // namespace ember::schematic
