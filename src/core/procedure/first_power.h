#pragma once
// The staged first power-up: what to do, what to read, what it should be, when to stop.

#include "band.h"

#include <optional>

namespace ember::procedure {

inline constexpr int stageCount = 7;

struct Expectation {
    TestPoint point;
    Band band;                       ///< high may be infinite
    std::optional<double> stopAbove; ///< switch off beyond it
    struct Cause {
        std::string sentence; ///< the fault
        double value;         ///< what it would read here
    };
    std::vector<Cause> ifLow, ifHigh; ///< from simulating the build with each fault
};

struct Stage {
    int index = 0;
    std::string name, title, instruction, stopIf, caution;
    plan::Conditions conditions;
    bool powered = true;
    std::optional<plan::Steady> steady; ///< what the whole amplifier does at this stage, when powered
    plan::LampFigures lamp;
    plan::LampCurve lampCurve; ///< from switching on; empty without a limiter
    std::vector<Expectation> expectations;
    plan::Curve discharge; ///< after switching off at this stage
    std::string failure;   ///< a sentence when it could not be computed
};

plan::Conditions stageConditions(const Build& build, int stage, double mainsVolts);
/// "dark", "deep red", ... of a filament at `kelvin`.
std::string glow(double kelvin);
std::string_view stageName(int stage);

/// One stage at the mains as measured. `withFaults`: also what wrong values would point to.
Stage firstPowerStage(const Build& build, const Catalogue& catalogue, int stage, double mainsVolts, bool withFaults,
                      std::stop_token stop = {});

enum class Verdict { InRange, Low, High, Stop };
Verdict judge(const Expectation& expectation, double reading);
std::string_view word(Verdict verdict);
/// "in range: 312 V, expected 305 V to 321 V".
std::string sentence(const Expectation& expectation, double reading);

/// The log's entry of a reading, with the band and verdict of this moment; its time is left to the log.
LogEntry readingEntry(const Expectation& expectation, int stage, double value, const std::string& source);

/// First stage that the log does not show as passed; stageCount when all are.
int currentStage(const Build& build);

} // namespace ember::procedure
