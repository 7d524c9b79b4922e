#pragma once
// A reading against what was expected of it.

#include "band.h"

#include "core/quantity/quantity.h"

#include <optional>

namespace ember::procedure {

struct Expectation {
    TestPoint point;
    Band band;                       ///< not known(): there is no prediction
    std::optional<double> stopAbove; ///< the stage ends beyond it: a rating, or a limit with its source in limits.cpp
    std::optional<double> stopBelow; ///< likewise
    std::string ifStopped;           ///< what to do at once, in words
    struct Cause {
        std::string sentence; ///< the fault
        double value;         ///< what it would read here
    };
    std::vector<Cause> ifLow, ifHigh; ///< from simulating the build with each fault
};

/// What a meter on ohms shows as overload ("OL"): more than its highest range reads [ohm].
inline constexpr double overloadOhms = 1e11;
/// A reading as it is said: "312 V", "OL".
std::string readText(double value, Unit unit, int digits = 3);
/// A typed reading: a number with its unit, or OL where the meter is on ohms. The Problem says what was understood.
Expected<double> parseReading(const Build& build, const TestPoint& point, const std::string& typed);

enum class Verdict { InRange, Low, High, Stop, NotJudged };
/// Stop limits first; then the band. NotJudged where there is no prediction, or no reading.
Verdict judge(const Expectation& expectation, double reading);
std::string_view word(Verdict verdict);
Verdict verdictOf(std::string_view word); ///< of a log entry; NotJudged for another word
/// "in range: 312 V, expected 305 V to 321 V".
std::string sentence(const Expectation& expectation, double reading);
/// "305 V to 321 V", "2.00 MΩ or more", "no prediction".
std::string bandText(const Band& band, Unit unit);

/// How the meter is set for it: "DC volts, 200 V range".
std::string meterSetting(const Expectation& expectation);

/// The log's entry of a reading, with the band and verdict of this moment; its time is left to the log.
LogEntry readingEntry(const Expectation& expectation, int stage, double value, const std::string& source);
/// The same of a reading whose expectation is still being computed: kept at once, judged later.
LogEntry unjudgedEntry(const TestPoint& point, int stage, double value, const std::string& source);
/// Fills in what readingEntry() would have.
void judgeEntry(LogEntry& entry, const Expectation& expectation);
Band bandOf(const LogEntry& reading);
/// The label of a reading's point, or its id where the build has it no more.
std::string nameOf(const std::vector<TestPoint>& points, const LogEntry& reading);
Unit unitOf(const LogEntry& reading);

/// Plausible limits of a reading at a point: beyond them a typing error is likelier than an amplifier. [V or ohm]
Range senseOf(const Build& build, const TestPoint& point);

} // namespace ember::procedure
