#include "storage.h"

#include "build_json.h"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <fstream>
#include <sstream>
#include <sys/stat.h>
#include <unistd.h>

namespace ember {

namespace {

/// write(2) until all of it is out, then to the disk.
bool writeAll(int fd, std::string_view text) {
    while (!text.empty()) {
        const auto n = ::write(fd, text.data(), text.size());
        if (n < 0 && errno == EINTR) continue;
        if (n <= 0) return false;
        text.remove_prefix(static_cast<std::size_t>(n));
    }
    return ::fsync(fd) == 0;
}

std::string reason() {
    switch (errno) {
    case ENOSPC: return "the disk is full";
    case EROFS: return "the disk is read-only";
    case EACCES:
    case EPERM: return "writing there is not permitted";
    case ENOENT: return "the folder does not exist";
    default: return std::strerror(errno);
    }
}

} // namespace

Expected<Build> loadBuild(const std::filesystem::path& file) {
    std::error_code error;
    if (!std::filesystem::is_regular_file(file, error)) return Problem{file.string(), "there is no such file"};
    const auto size = std::filesystem::file_size(file, error);
    if (!error && size > largestFile)
        return Problem{file.string(),
                       fmt::format("the file has {} MB; a build is at most {} MB", size >> 20, largestFile >> 20)};
    std::ifstream in(file, std::ios::binary);
    std::ostringstream text;
    text << in.rdbuf();
    if (!in) return Problem{file.string(), "the file could not be read"};
    auto build = fromText(text.str());
    if (!build) return Problem{file.filename().string() + " " + build.problem().where, build.problem().sentence};
    return build;
}

Expected<Done> saveText(const std::string& text, const std::filesystem::path& file) {
    const auto folder = file.has_parent_path() ? file.parent_path() : std::filesystem::path(".");
    std::string temporary = (folder / ("." + file.filename().string() + ".XXXXXX")).string();
    const int fd = ::mkstemp(temporary.data());
    if (fd < 0) return Problem{file.string(), "not saved: " + reason()};
    ::fchmod(fd, 0644);
    const bool written = writeAll(fd, text);
    const std::string why = written ? "" : reason();
    ::close(fd);
    if (!written) {
        ::unlink(temporary.c_str());
        return Problem{file.string(), "not saved: " + why + "; the file is as it was"};
    }
    if (::rename(temporary.c_str(), file.c_str()) != 0) {
        const std::string last = reason();
        ::unlink(temporary.c_str());
        return Problem{file.string(), "not saved: " + last + "; the file is as it was"};
    }
    if (const int dir = ::open(folder.c_str(), O_RDONLY | O_DIRECTORY); dir >= 0) {
        ::fsync(dir);
        ::close(dir);
    }
    return Done{};
}

Expected<Done> saveBuild(const Build& build, const std::filesystem::path& file) {
    return saveText(toText(build), file);
}

Journal::Journal(Journal&& other) noexcept : fd(other.fd), path(std::move(other.path)), last(std::move(other.last)) {
    other.fd = -1;
}

Journal& Journal::operator=(Journal&& other) noexcept {
    if (this != &other) {
        if (fd >= 0) ::close(fd);
        fd = other.fd;
        path = std::move(other.path);
        last = std::move(other.last);
        other.fd = -1;
    }
    return *this;
}

Journal::~Journal() {
    if (fd >= 0) ::close(fd);
}

Expected<Journal> Journal::start(const std::filesystem::path& file, const Build& build, const std::string& buildFile) {
    std::error_code error;
    std::filesystem::create_directories(file.parent_path(), error);
    Json state = toJson(build);
    const Json head = {{"format", "dim-ember/journal"}, {"version", 1}, {"file", buildFile}, {"base", state}};
    // A whole new journal or the old one, never half of either.
    if (auto done = saveText(head.dump() + "\n", file); !done) return done.problem();
    const int fd = ::open(file.c_str(), O_WRONLY | O_APPEND | O_CLOEXEC);
    if (fd < 0) return Problem{file.string(), "the recovery journal could not be opened: " + reason()};
    return Journal(fd, file, std::make_shared<const Json>(std::move(state)));
}

Expected<Done> Journal::append(const std::string& name, const Build& next) {
    Json state = toJson(next);
    const Json line = {{"edit", name}, {"patch", Json::diff(*last, state)}};
    if (!writeAll(fd, line.dump(-1, ' ', false, Json::error_handler_t::replace) + "\n"))
        return Problem{path.string(), "the recovery journal could not be written: " + reason()};
    last = std::make_shared<const Json>(std::move(state));
    return Done{};
}

void Journal::discard() {
    if (fd >= 0) ::close(fd);
    fd = -1;
    std::error_code error;
    std::filesystem::remove(path, error);
}

std::optional<Recovered> recover(const std::filesystem::path& journal) {
    std::ifstream in(journal, std::ios::binary);
    std::string line;
    if (!in || !std::getline(in, line)) return std::nullopt;
    try {
        const Json head = Json::parse(line);
        Json state = head.at("base");
        Recovered out;
        out.buildFile = head.at("file").get<std::string>();
        while (std::getline(in, line)) {
            if (in.eof()) break; // no newline: the write was cut off
            const Json change = Json::parse(line, nullptr, false);
            if (change.is_discarded()) break;
            state = state.patch(change.at("patch"));
            out.lastEdit = change.at("edit").get<std::string>();
            ++out.edits;
        }
        auto build = fromJson(state);
        if (!build || out.edits == 0) return std::nullopt;
        out.build = std::move(*build);
        return out;
    } catch (const Json::exception&) {
        return std::nullopt;
    }
}

} // namespace ember
