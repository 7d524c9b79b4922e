#pragma once
// Changes to the supply's chain that keep everything that hangs on its nodes where it hung.

#include "edit.h"

namespace ember {

/// A fresh section of `kind` before section `at` (or at the end), like its fellows in the chain. A series part splits
/// its node: what draws there stays with the capacitor behind the new part, or before it when there is none; at the end
/// of the chain it brings a capacitor with it.
Edit insertSection(const Build& build, std::size_t at, SectionKind kind);
/// Without section `at`; a series part's two nodes become one.
Edit removeSection(const Build& build, std::size_t at);
/// Section `at` one place towards the rectifier (`by` -1) or away from it (+1). A Problem at the ends.
Expected<Edit> shiftSection(const Build& build, std::size_t at, int by);

/// A bleeder of usual size, or a constant current, from node `node` to ground.
Edit hangBleeder(const Build& build, int node);
Edit hangLoad(const Build& build, int node);

/// "capacitor", "resistor" ...
const char* kindWord(SectionKind kind);

} // namespace ember
