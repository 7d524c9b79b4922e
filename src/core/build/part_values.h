#pragma once
// The electrical values of a Build, part by part, as a person reads them: what an edit changed of which part.

#include "build.h"

#include <map>

namespace ember {

/// One part: what carries an id, or one of the few objects that are there once ("transformer", "bias").
struct PartValues {
    std::string id;                            ///< its id, or its key in the file
    std::string place;                         ///< JSON pointer, "/supply/sections/0"
    std::map<std::string, std::string> values; ///< by key: "capacitance" is "47 µF"; texts and choices as they are
};

/// Every part of the circuit by its id, without what can be altered with no solder joint opened: names and notes,
/// tolerances, positions of trimmers and controls, what a valve tested as, the meter.
std::map<std::string, PartValues> partValues(const Build& build);

} // namespace ember
