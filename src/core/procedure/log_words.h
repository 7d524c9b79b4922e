#pragma once
// What was typed into the log line: a reading such as "B+1 312", or a note.

#include "progress.h"

#include "core/build/build.h"

#include <optional>
#include <string>
#include <string_view>

namespace ember::procedure {

struct LogWords {
    std::optional<TestPoint> point; ///< none: a note
    double value = 0;               ///< the reading [V or ohm]
    std::string problem;            ///< why the reading was not understood; empty: it was
    int stage = -1;                 ///< of First Power, whose range it is judged by
};

/// The first word is looked for among the build's test points, in any case of letters; the rest is the value in the
/// point's unit. A reading belongs to the present stage where that reads the point, else to the last one that does.
/// Before every capacitor was read with the plug out it is of a capacitor, or not understood: whileUnplugged().
LogWords understandLogWords(const Build& build, std::string_view typed, Strand strand = Strand::Amplifier);

} // namespace ember::procedure
