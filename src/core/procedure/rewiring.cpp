#include "rewiring.h"

#include <fmt/format.h>

namespace ember::procedure {

std::vector<LogEntry> reopenedBy(const Build& b, const wires::Run& r) {
    if (currentStage(b) == 0) return {};
    return {stageEntry(0, StageEvent::Begun, Strand::Amplifier,
                       fmt::format("{} to {} was unsoldered", wires::spoken(r.wire.from), wires::spoken(r.wire.to)))};
}

} // namespace ember::procedure
