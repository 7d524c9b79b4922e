#pragma once
// What an open build went through since it was saved, so that a killed program loses nothing.

#include "build.h"

#include <filesystem>
#include <optional>
#include <vector>

namespace ember {

/// Every change of an open build, a line each, on the disk before the call returns. The file is locked while the
/// journal lives: another program can tell that it is in use.
class Journal {
  public:
    /// Starts a journal for `build`, which lives at `buildFile` (may be empty: never saved). Replaces an old one.
    static Expected<Journal> start(const std::filesystem::path& file, const Build& build, const std::string& buildFile);
    /// The same under a name in `folder` that no other journal has.
    static Expected<Journal> startIn(const std::filesystem::path& folder, const Build& build,
                                     const std::string& buildFile);
    Journal(Journal&& other) noexcept;
    Journal& operator=(Journal&& other) noexcept;
    ~Journal();

    Expected<Done> append(const std::string& name, const Build& next);
    /// The build was saved or closed on purpose: nothing is left to recover.
    void discard();
    [[nodiscard]] const std::filesystem::path& file() const { return path; }

  private:
    Journal(int handle, std::filesystem::path at, std::shared_ptr<const Json> state)
        : fd(handle),
          path(std::move(at)),
          last(std::move(state)) {}
    void close();
    int fd = -1;
    std::filesystem::path path;
    std::shared_ptr<const Json> last;
    bool torn = false; ///< the last line may be half written
};

struct Recovered {
    Build build;
    std::string buildFile;
    std::string lastEdit; ///< name of the newest change; empty when there was none
    int edits = 0;
    int unread = 0;                ///< lines that were torn and are not in `build`
    std::filesystem::path journal; ///< where it was read
};
/// What a journal holds; a torn line is left out, those after it are read. Nothing when there is no journal or no
/// change in it; a Problem when it cannot be used at all.
Expected<std::optional<Recovered>> recover(const std::filesystem::path& journal);

/// Journals in `folder` that no running program holds, the newest first.
std::vector<std::filesystem::path> journalsLeft(const std::filesystem::path& folder);

/// Takes a journal out of the way without deleting it; returns its new name, or the old one when that failed.
std::filesystem::path keepAside(const std::filesystem::path& journal);

} // namespace ember
