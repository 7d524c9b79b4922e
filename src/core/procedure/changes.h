#pragma once
// What was changed in the plan after it was proved in the amplifier: each such part has to be exchanged there, and the
// steps that it takes part in are proved again.

#include "core/build/build.h"

namespace ember::procedure {

/// Whether an entry of the log reopens steps because a part changed.
bool isChange(const LogEntry& entry);

/// After an edit of the plan (or its undo), `after` still with the log of `before`: adds an entry for each part whose
/// electrical values differ and that a step takes part in which has been read or passed already; strikes the entries
/// that the edit took back, where nobody said that the part was exchanged in between. Whether the log changed.
bool logChanges(const Build& before, Build& after, const std::string& time);

/// A part that differs between the plan and the amplifier, as far as the log knows.
struct OpenChange {
    std::string part;     ///< id
    std::string sentence; ///< "C1: capacitance 47 µF → 100 µF"
    int stage = 0;        ///< the first step that it takes part in
};
std::vector<OpenChange> openChanges(const Build& build);
/// That the part is in the amplifier as the plan has it.
LogEntry exchangedEntry(const Build& build, const std::string& part);

/// The first step of First Power whose readings a part takes part in, by its place in the file ("/supply/sections/0").
int firstStageOf(const Build& build, const std::string& place);

} // namespace ember::procedure
