#include "storage.h"

#include "build_json.h"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <fstream>
#include <sstream>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

namespace ember {

namespace fs = std::filesystem;

bool writeAll(int fd, std::string_view text) {
    while (!text.empty()) {
        const auto n = ::write(fd, text.data(), text.size());
        if (n < 0 && errno == EINTR) continue;
        if (n <= 0) return false;
        text.remove_prefix(static_cast<std::size_t>(n));
    }
    return ::fsync(fd) == 0 || errno == EINVAL || errno == EROFS || errno == ENOTSUP; // a pipe has no disk
}

std::string reasonOfFailure() {
    switch (errno) {
    case ENOSPC: return "the disk is full";
    case EROFS: return "the disk is read-only";
    case EACCES:
    case EPERM: return "writing there is not permitted";
    case ENOENT: return "the folder does not exist";
    case EISDIR: return "a folder has that name";
    default: return std::strerror(errno);
    }
}

namespace {

Problem notSaved(const fs::path& file, const std::string& why) {
    return {file.string(), "not saved: " + why};
}

/// What is not a regular file, and what another process holds open under /dev or /proc, keeps its place.
bool writtenInPlace(const fs::path& file, const fs::path& target) {
    std::error_code error;
    const auto status = fs::status(file, error);
    if (!fs::exists(status)) return false;
    if (!fs::is_regular_file(status)) return true;
    const std::string named = fs::absolute(file, error).string(), real = target.string();
    const auto within = [&](const char* folder) { return named.rfind(folder, 0) == 0 && real.rfind(folder, 0) != 0; };
    return within("/dev/") || within("/proc/");
}

Expected<Done> writeInPlace(const std::string& text, const fs::path& file) {
    const int fd = ::open(file.c_str(), O_WRONLY | O_CLOEXEC);
    if (fd < 0) return notSaved(file, reasonOfFailure());
    const bool written = writeAll(fd, text);
    const std::string why = written ? "" : reasonOfFailure();
    ::close(fd);
    if (!written) return notSaved(file, why);
    return Done{};
}

/// Mode and owner of the file that is replaced, or those of a new one.
void takeOver(int fd, const fs::path& target) {
    struct stat old {};
    if (::stat(target.c_str(), &old) == 0) {
        if (::fchown(fd, old.st_uid, old.st_gid) != 0) ::fchmod(fd, old.st_mode & 0777); // set-id bits need the owner
        ::fchmod(fd, old.st_mode & 07777);
        return;
    }
    const mode_t mask = ::umask(0);
    ::umask(mask);
    ::fchmod(fd, 0666 & ~mask);
}

/// Beginning of the names of what is written before it takes the place of `target`; six letters follow.
std::string temporaryBegins(const fs::path& target) {
    return "." + target.filename().string() + ".";
}

fs::path folderOf(const fs::path& target) {
    return target.has_parent_path() ? target.parent_path() : fs::path(".");
}

/// A new file beside `target`, open and locked for as long as it is being written; its name is put into `name`.
/// -1: see errno.
int openTemporary(const fs::path& target, std::string& name) {
    for (int tries = 0; tries < 100; ++tries) {
        name = (folderOf(target) / (temporaryBegins(target) + "XXXXXX")).string();
        const int fd = ::mkstemp(name.data());
        if (fd < 0) return fd;
        struct stat made {};
        // Another program that looks for what was left behind may have been faster than the lock.
        if (::flock(fd, LOCK_EX | LOCK_NB) == 0 && ::fstat(fd, &made) == 0 && made.st_nlink > 0) return fd;
        ::close(fd);
        ::unlink(name.c_str());
    }
    errno = EBUSY;
    return -1;
}

/// Removes what programs that were killed while they wrote `target` left beside it: the files that nobody has locked.
void removeLeftBehind(const fs::path& target) {
    const std::string begins = temporaryBegins(target);
    std::error_code error;
    for (const auto& entry : fs::directory_iterator(folderOf(target), error)) {
        const std::string name = entry.path().filename().string();
        if (name.size() != begins.size() + 6 || name.rfind(begins, 0) != 0) continue;
        if (!entry.is_regular_file(error) || entry.is_symlink(error)) continue;
        const int fd = ::open(entry.path().c_str(), O_RDONLY | O_CLOEXEC | O_NOFOLLOW);
        if (fd < 0) continue;
        if (::flock(fd, LOCK_EX | LOCK_NB) == 0) ::unlink(entry.path().c_str());
        ::close(fd);
    }
}

} // namespace

Expected<Build> loadBuild(const fs::path& file) {
    std::error_code error;
    if (!fs::is_regular_file(file, error)) return Problem{file.string(), "there is no such file"};
    const auto size = fs::file_size(file, error);
    if (!error && size > largestFile)
        return Problem{file.string(),
                       fmt::format("the file has {} MB; a build is at most {} MB", size >> 20, largestFile >> 20)};
    if (const fs::path target = fs::weakly_canonical(file, error); !error) removeLeftBehind(target);
    std::ifstream in(file, std::ios::binary);
    std::ostringstream text;
    text << in.rdbuf();
    if (!in) return Problem{file.string(), "the file could not be read"};
    auto build = fromText(text.str());
    if (!build) return Problem{file.filename().string() + " " + build.problem().where, build.problem().sentence};
    return build;
}

Expected<Done> saveText(const std::string& text, const fs::path& file) {
    std::error_code error;
    fs::path target = fs::weakly_canonical(file, error); // through links, to a file that need not exist
    if (error || target.empty()) target = file;
    if (writtenInPlace(file, target)) return writeInPlace(text, file);
    removeLeftBehind(target);
    std::string temporary;
    const int fd = openTemporary(target, temporary);
    if (fd < 0) return notSaved(file, reasonOfFailure());
    takeOver(fd, target);
    const bool written = writeAll(fd, text);
    if (!written || ::rename(temporary.c_str(), target.c_str()) != 0) {
        const std::string why = reasonOfFailure();
        ::unlink(temporary.c_str());
        ::close(fd);
        return notSaved(file, why + "; the file is as it was");
    }
    ::close(fd); // and with it the lock
    if (const int dir = ::open(folderOf(target).c_str(), O_RDONLY | O_DIRECTORY); dir >= 0) {
        ::fsync(dir);
        ::close(dir);
    }
    return Done{};
}

namespace {

/// A file of an older version is kept beside the new one, once: NAME.ember.json.v1.
Expected<Done> keepOlder(const fs::path& file) {
    std::error_code error;
    if (!fs::is_regular_file(file, error) || fs::file_size(file, error) > largestFile) return Done{};
    std::ifstream in(file, std::ios::binary);
    const Json old = Json::parse(in, nullptr, false);
    const auto version = old.is_object() ? old.find("version") : old.end();
    if (!old.is_object() || version == old.end() || !version->is_number_integer()) return Done{};
    const auto number = version->get<std::int64_t>();
    if (number < 1 || number >= formatVersion || old.value("format", Json()) != "dim-ember/build") return Done{};
    const fs::path kept = file.string() + fmt::format(".v{}", number);
    if (fs::exists(kept, error)) return Done{};
    fs::copy_file(file, kept, error);
    if (error)
        return notSaved(file, fmt::format("the file as it was could not be kept as {}", kept.filename().string()));
    return Done{};
}

} // namespace

Expected<Done> saveBuild(const Build& build, const fs::path& file) {
    const std::string text = toText(build);
    if (auto again = fromText(text); !again)
        return Problem{file.string(),
                       fmt::format("not saved, since it could not be opened again: {}; the file is as it "
                                   "was. Mend this place, or undo",
                                   again.problem().text())};
    if (auto kept = keepOlder(file); !kept) return kept;
    return saveText(text, file);
}

} // namespace ember
