#pragma once
// A change to a Build, by name: a JSON Patch (RFC 6902) on its file form, so that whatever an edit does is checked as a
// file is.

#include "fields.h"

namespace ember {

struct Edit {
    std::string name;                  ///< for undo: "R2 to 15 kΩ"
    std::shared_ptr<const Json> patch; ///< RFC 6902 operations
};

/// One value at a pointer.
Edit setValue(std::string name, const std::string& pointer, double value);
Edit setWhole(std::string name, const std::string& pointer, int value);
Edit setFlag(std::string name, const std::string& pointer, bool value);
Edit setText(std::string name, const std::string& pointer, const std::string& value);
/// Takes the object or list entry at a pointer away.
Edit removeAt(std::string name, const std::string& pointer);
/// Adds `value` at a pointer: a key that was absent, or an entry of a list, where `-` is its end.
Edit insertAt(std::string name, const std::string& pointer, const fields::Object& value);
template <typename T>
Edit insertAt(std::string name, const std::string& pointer, T value) {
    return insertAt(std::move(name), pointer, fields::objectOf(value));
}
/// Several as one, in this order: undone together.
Edit together(std::string name, const std::vector<Edit>& parts);

/// The same edit, refused where what it changes is no longer what `build` holds there (RFC 6902 `test` before it).
Edit guarded(const Build& build, const Edit& edit);

/// The Build after `edit`, or why it was refused; `build` is not changed.
Expected<Build> apply(const Build& build, const Edit& edit);

} // namespace ember
