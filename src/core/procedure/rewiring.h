#pragma once
// What of First Power has to be proven again when a wire is unsoldered.

#include "first_power.h"

#include "core/wires/harness.h"

namespace ember::procedure {

/// The first stage whose readings go through such a wire.
int firstStageOf(wires::RunKind kind);
/// Entries that begin every stage again that has been passed and that the wire touches: from its first on. Empty: none
/// has.
std::vector<LogEntry> reopenedBy(const Build& build, const wires::Run& run);

} // namespace ember::procedure
