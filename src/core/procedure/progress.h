#pragma once
// How far First Power has come, as the log shows it. Steps come in order; what was proved falls with what it rests on:
// a step begun again, a step ended by a stop, a part changed in the plan.

#include "test_points.h"

#include <array>
#include <optional>

namespace ember::procedure {

inline constexpr int stageCount = 7;
inline constexpr double dischargedVolts = 10; ///< [V] below it a capacitor counts as discharged

/// Whose log it is: of the amplifier on the bench, or of the practice amplifier. Neither proves anything of the other.
enum class Strand { Amplifier, Practice };
inline constexpr const char* practiceSource = "practice"; ///< LogEntry::source of what the practice amplifier did
Strand strandOf(const LogEntry& entry);

struct Progress {
    struct Step {
        bool passed = false, ended = false; ///< ended: by a reading past a stop limit, and not begun again
        std::size_t begun = 0;              ///< log entries from this one on count
    };
    std::array<Step, stageCount> steps;
    std::size_t unplugged = 0; ///< the log entry after which it was unplugged last
    /// The first step that is not passed; stageCount when all are.
    [[nodiscard]] int current() const;
};
Progress progressOf(const Build& build, Strand strand);

/// progressOf().current().
int currentStage(const Build& build, Strand strand = Strand::Amplifier);
/// Whether a reading past a stop limit ended this stage, and it was not begun again.
bool stageEnded(const Build& build, int stage, Strand strand = Strand::Amplifier);
/// The last reading of a point since the stage was last begun; nullptr: none.
const LogEntry* lastReading(const Build& build, int stage, const std::string& point, Strand strand = Strand::Amplifier);

/// The gate before power: of the capacitors that a meter reads with the plug out, the last reading since it was
/// unplugged; nullptr: none.
const LogEntry* heldReading(const Build& build, const std::string& point, Strand strand);
/// Points of the gate that were not read below dischargedVolts since it was unplugged. Empty: power may come.
std::vector<TestPoint> notYetDischarged(const Build& build, Strand strand);

/// Why a reading of this point cannot be taken at this step now: it is read under power, and not every capacitor was
/// read with the plug out. Empty: it can.
std::string notReadable(const Build& build, const TestPoint& point, int stage, Strand strand);

/// What stands beside a point in a step's table: of a capacitor with the plug out heldReading(), else lastReading().
const LogEntry* shownReading(const Build& build, int stage, const TestPoint& point, Strand strand);

LogEntry stageEntry(int stage, StageEvent event, Strand strand, const std::string& why = {});
/// "Switched off at step "rectifier"": from here on every capacitor is to be read again.
LogEntry switchedOffEntry(int stage, Strand strand);

/// What the log line's reading of a point is filed as while the amplifier is unplugged: of a supply node its capacitor,
/// read before power; other volts are not there. A Problem says so.
Expected<TestPoint> whileUnplugged(const Build& build, const TestPoint& point);

} // namespace ember::procedure
