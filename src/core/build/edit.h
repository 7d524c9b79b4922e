#pragma once
// A change to a Build, by name: a JSON Patch (RFC 6902) on its file form, so that whatever an edit does is checked as a
// file is.

#include "build.h"

namespace ember {

struct Edit {
    std::string name; ///< for undo: "R2 to 15 kΩ"
    Json patch;       ///< RFC 6902 operations
};

/// One value at a pointer.
Edit setValue(std::string name, const std::string& pointer, Json value);

/// The Build after `edit`, or why it was refused; `build` is not changed.
Expected<Build> apply(const Build& build, const Edit& edit);

} // namespace ember
