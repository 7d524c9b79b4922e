#pragma once
// The staged first power-up: what to do, what to read, what it should be, when to stop.

#include "judgement.h"
#include "progress.h"

#include "core/plan/discharge.h"

#include <optional>

namespace ember::procedure {

struct PowerStage {
    int index = 0;
    std::string name, title, instruction, stopIf;
    std::vector<std::string> cautions; ///< where they bite, with their numbers; the gravest first
    plan::Conditions conditions;
    bool powered = true;
    std::optional<plan::Steady> steady; ///< what the whole amplifier does at this stage, when powered
    std::optional<plan::Steady> cold;   ///< the highest its capacitors can stand at: plan::worstCharged()
    plan::LampFigures lamp;
    plan::LampCurve lampCurve; ///< from switching on; empty without a limiter
    std::vector<Expectation> expectations;
    plan::Discharge discharge;         ///< after switching off at this stage, at worst: what the clock counts
    plan::Curve dischargeHot;          ///< the same with the valves still drawing: the best case
    std::string failure;               ///< a sentence when it could not be computed
    std::vector<std::string> refusals; ///< why it must not be switched on as planned; see refusalsOf()
    bool rough = false;                ///< bands of a first look, from few amplifiers: to be shown, not to be judged by
};

plan::Conditions stageConditions(const Build& build, int stage, double mainsVolts);
/// "dark", "dim red", ... of a filament at `kelvin`.
std::string glow(double kelvin);
std::string_view stageName(int stage);
/// A step by its number or its name, "3" or "small valves"; none: there is no such step.
std::optional<int> stageNamed(std::string_view said);

struct StageOptions {
    bool withFaults = false;     ///< also what wrong values would point to first, and the lamp's curve
    int samples = honestSamples; ///< amplifiers that the bands are drawn from
    std::stop_token stop = {};
};
/// One stage at the mains as measured.
PowerStage firstPowerStage(const Build& build, const Catalogue& catalogue, int stage, double mainsVolts,
                           const StageOptions& options = {});

/// Sets a stage's limits beyond which it ends at once; every limit has its source in limits.cpp.
void setStopLimits(const Build& build, const Catalogue& catalogue, PowerStage& stage);

/// The cautions of a stage; `discharge` and `steady` of it are computed already.
std::vector<std::string> cautionsOf(const Build& build, const Catalogue& catalogue, const PowerStage& stage);

/// The rating that a supply node may not pass, and whose it is: a string at the share of its weakest [V]; infinite
/// where no capacitor stands there.
struct NodeRating {
    double volts = std::numeric_limits<double>::infinity();
    std::string capacitor;
};
NodeRating nodeRating(const Build& build, int node);
/// What is predicted to pass a stop limit of the stage, as sentences that begin with "Do not switch on"; its steady
/// states and limits are there already.
std::vector<std::string> refusalsOf(const Build& build, const PowerStage& stage);

/// Why a step cannot be passed now, as sentences: earlier steps, what it predicts to fail, parts that are changed in
/// the plan alone, stop findings that are open (`stops`: their titles), readings that are missing or wrong. Empty: it
/// can.
std::vector<std::string> obstacles(const Build& build, const PowerStage& stage, Strand strand,
                                   const std::vector<std::string>& stops = {});

} // namespace ember::procedure
