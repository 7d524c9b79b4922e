#pragma once
// Builds on disk: whole files only, and an append-only journal of every change.

#include "build.h"

#include <filesystem>
#include <optional>

namespace ember {

/// Reads and checks a build; every failure is a sentence with the file's name.
Expected<Build> loadBuild(const std::filesystem::path& file);

/// Writes a temporary file beside it, flushes it to the disk and renames it over `file`: there is always one whole
/// file.
Expected<Done> saveBuild(const Build& build, const std::filesystem::path& file);
/// The same for any text.
Expected<Done> saveText(const std::string& text, const std::filesystem::path& file);

/// Every change of an open build, a line each, on the disk before the call returns.
class Journal {
  public:
    /// Starts a journal for `build`, which lives at `buildFile` (may be empty: never saved). Replaces an old one.
    static Expected<Journal> start(const std::filesystem::path& file, const Build& build, const std::string& buildFile);
    Journal(Journal&& other) noexcept;
    Journal& operator=(Journal&& other) noexcept;
    ~Journal();

    Expected<Done> append(const std::string& name, const Build& next);
    /// The build was saved or closed on purpose: nothing is left to recover.
    void discard();

  private:
    Journal(int handle, std::filesystem::path at, std::shared_ptr<const Json> state)
        : fd(handle),
          path(std::move(at)),
          last(std::move(state)) {}
    int fd = -1;
    std::filesystem::path path;
    std::shared_ptr<const Json> last;
};

struct Recovered {
    Build build;
    std::string buildFile;
    std::string lastEdit; ///< name of the newest change; empty when there was none
    int edits = 0;
};
/// What a journal holds; a cut-off last line is left out. Nothing when there is no journal or no change in it.
std::optional<Recovered> recover(const std::filesystem::path& journal);

} // namespace ember
