#pragma once
// Edits to the shape of a build: entries of its lists doubled or taken away.

#include "edit.h"

namespace ember {

/// Doubles the list entry at `entry` ("/supply/sections/2") right behind it, every id in it made new ("c1" to the first
/// free of its letter). A Problem when there is no such entry.
Expected<Edit> duplicateEntry(const Build& build, const std::string& entry);

/// The first id of `like`'s letters that the build does not use: "c7" for "c1".
std::string freshId(const Build& build, const std::string& like);

} // namespace ember
