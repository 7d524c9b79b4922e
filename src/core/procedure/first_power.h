#pragma once
// The staged first power-up: what to do, what to read, what it should be, when to stop.

#include "judgement.h"

#include "core/plan/discharge.h"

#include <optional>

namespace ember::procedure {

inline constexpr int stageCount = 7;
inline constexpr double dischargedVolts = 10; ///< [V] below it a capacitor counts as discharged

struct PowerStage {
    int index = 0;
    std::string name, title, instruction, stopIf;
    std::vector<std::string> cautions; ///< where they bite, with their numbers; the gravest first
    plan::Conditions conditions;
    bool powered = true;
    std::optional<plan::Steady> steady; ///< what the whole amplifier does at this stage, when powered
    plan::LampFigures lamp;
    plan::LampCurve lampCurve; ///< from switching on; empty without a limiter
    std::vector<Expectation> expectations;
    plan::Discharge discharge; ///< after switching off at this stage, at worst: what the clock counts
    plan::Curve dischargeHot;  ///< the same with the valves still drawing: the best case
    std::string failure;       ///< a sentence when it could not be computed
    bool rough = false;        ///< bands of a first look, from few amplifiers: to be shown, not to be judged by
};

plan::Conditions stageConditions(const Build& build, int stage, double mainsVolts);
/// "dark", "dim red", ... of a filament at `kelvin`.
std::string glow(double kelvin);
std::string_view stageName(int stage);

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

/// First stage that the log does not show as passed; stageCount when all are.
int currentStage(const Build& build);
/// Whether a reading past a stop limit ended this stage, and it was not begun again.
bool stageEnded(const Build& build, int stage);
/// The last reading of a point since the stage was last begun; nullptr: none.
const LogEntry* lastReading(const Build& build, int stage, const std::string& point);
/// Whether every reading is in range, or out of it and explained in words; one past a stop limit never is.
bool mayPass(const Build& build, const PowerStage& stage);
LogEntry stageEntry(int stage, StageEvent event, const std::string& why = {});

/// Volts read while the plan says "unplugged": a warning of its own; empty where there is nothing to warn of.
std::string unpluggedWarning(const Build& build, const TestPoint& point, double value);

} // namespace ember::procedure
