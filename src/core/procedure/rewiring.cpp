#include "rewiring.h"

#include <fmt/format.h>

namespace ember::procedure {

int firstStageOf(wires::RunKind kind) {
    using wires::RunKind;
    switch (kind) {
    case RunKind::Mains:
    case RunKind::Earth:
    case RunKind::Winding: return 0; // insulation and earth are proven there
    case RunKind::Heater:
    case RunKind::Bias: return 1;
    case RunKind::Ground:
    case RunKind::HighVoltage: return 2;
    case RunKind::Signal: return 3;
    case RunKind::Output: return 4;
    }
    return 0;
}

std::vector<LogEntry> reopenedBy(const Build& b, const wires::Run& r) {
    std::vector<LogEntry> out;
    const int reached = currentStage(b);
    for (int stage = firstStageOf(r.kind); stage < reached; ++stage)
        out.push_back(
            stageEntry(stage, StageEvent::Begun,
                       fmt::format("{} to {} was unsoldered", wires::spoken(r.wire.from), wires::spoken(r.wire.to))));
    return out;
}

} // namespace ember::procedure
