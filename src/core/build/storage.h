#pragma once
// Builds on disk, whole files only. The journal of an open build is in journal.h.

#include "build.h"

#include <filesystem>

namespace ember {

/// Reads and checks a build; every failure is a sentence with the file's name. What a program that was killed while it
/// saved left beside the file is removed, here and by saveText().
Expected<Build> loadBuild(const std::filesystem::path& file);

/// As saveText(); refuses to replace a file by one that this program would not read again. A file of an older version
/// is kept first, once, as NAME.ember.json.v1.
Expected<Done> saveBuild(const Build& build, const std::filesystem::path& file);

/// Writes a temporary file beside `file`, flushes it to the disk and renames it over `file`: there is always one whole
/// file. A link is followed to what it names, permissions stay. A device, a pipe or an open descriptor (/dev/stdout)
/// is written to and never replaced.
Expected<Done> saveText(const std::string& text, const std::filesystem::path& file);

/// write(2) until all of `text` is out, then to the disk. False: see errno.
bool writeAll(int descriptor, std::string_view text);
/// errno as a person would say it.
std::string reasonOfFailure();

} // namespace ember
