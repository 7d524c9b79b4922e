#pragma once
// Where each part of a path stands: columns from left to right, rows from above to below, by where its current flows.

#include "symbols.h"

#include <map>

namespace ember::drawing {

/// Where a string of loose parts stands: beside the net that it begins at, or beneath the path.
enum class Beside { Right, Left, Beneath };

/// What a reader accepts either way: the drawing with fewer crossings is taken.
struct Form {
    bool turnPairs = true;        ///< the lower valve of a pair stands on its head
    std::map<int, Beside> beside; ///< by index of a part that belongs to no stage; else right
};

/// Every part of the subject as an element with its column and row: numbers that only order them.
///
/// - A valve stands on the line of its current: what leads up from its plate above it, what leads down from its cathode
///   below it. Which way is up follows from the potentials of a net of equal resistors.
/// - What comes to a grid stands left of it, parts to a flag hang where they are joined, parts in parallel stand beside
///   what they bypass.
/// - The two valves of a pair stand one above the other; with
///   `turnPairs` the lower one is turned, and their cathodes meet between them.
/// - Feedback and loose parts stand beneath the path.
std::vector<Element> place(const Subject& subject, const SymbolMaker& symbols, const Form& form);

} // namespace ember::drawing
