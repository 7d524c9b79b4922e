#pragma once
// What of First Power has to be proven again when a wire is unsoldered.

#include "first_power.h"

#include "core/wires/harness.h"

namespace ember::procedure {

/// What the log says when a wire is unsoldered after a step was passed: everything is proved again, from insulation and
/// earth on. Empty: nothing was passed.
std::vector<LogEntry> reopenedBy(const Build& build, const wires::Run& run);

} // namespace ember::procedure
