#include "journal.h"

#include "build_json.h"
#include "storage.h"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <fcntl.h>
#include <fstream>
#include <sys/file.h>
#include <unistd.h>

namespace ember {

namespace fs = std::filesystem;

namespace {

std::string line(const Json& json) {
    return json.dump(-1, ' ', false, Json::error_handler_t::replace) + "\n";
}

} // namespace

Journal::Journal(Journal&& other) noexcept
    : fd(std::exchange(other.fd, -1)),
      path(std::move(other.path)),
      last(std::move(other.last)),
      torn(other.torn) {}

Journal& Journal::operator=(Journal&& other) noexcept {
    if (this != &other) {
        close();
        fd = std::exchange(other.fd, -1);
        path = std::move(other.path);
        last = std::move(other.last);
        torn = other.torn;
    }
    return *this;
}

Journal::~Journal() {
    close();
}

void Journal::close() {
    if (fd >= 0) ::close(fd);
    fd = -1;
}

Expected<Journal> Journal::start(const fs::path& file, const Build& build, const std::string& buildFile) {
    std::error_code error;
    fs::create_directories(file.parent_path(), error);
    Json state = toJson(build);
    const Json head = {{"format", "dim-ember/journal"}, {"version", 1}, {"file", buildFile}, {"base", state}};
    // A whole new journal or the old one, never half of either.
    if (auto done = saveText(line(head), file); !done) return done.problem();
    const int fd = ::open(file.c_str(), O_WRONLY | O_APPEND | O_CLOEXEC);
    if (fd < 0) return Problem{file.string(), "the recovery journal could not be opened: " + reasonOfFailure()};
    (void)::flock(fd, LOCK_EX | LOCK_NB); // given up by the system when the program ends, however it ends
    return Journal(fd, file, std::make_shared<const Json>(std::move(state)));
}

Expected<Journal> Journal::startIn(const fs::path& folder, const Build& build, const std::string& buildFile) {
    static int count = 0;
    for (;;) {
        const fs::path file = folder / fmt::format("journal-{}-{}.jsonl", ::getpid(), ++count);
        if (!fs::exists(file)) return start(file, build, buildFile);
    }
}

Expected<Done> Journal::append(const std::string& name, const Build& next) {
    Json state = toJson(next);
    const Json change = {{"edit", name}, {"patch", Json::diff(*last, state)}};
    if (!writeAll(fd, (torn ? "\n" : "") + line(change))) {
        torn = true; // the next line begins on a new one
        return Problem{path.string(), "the recovery journal could not be written: " + reasonOfFailure()};
    }
    torn = false;
    last = std::make_shared<const Json>(std::move(state));
    return Done{};
}

void Journal::discard() {
    std::error_code error;
    fs::remove(path, error);
    close();
}

Expected<std::optional<Recovered>> recover(const fs::path& journal) {
    const auto unusable = [&](const std::string& why) {
        return Problem{journal.string(), "this recovery journal cannot be used: " + why};
    };
    std::ifstream in(journal, std::ios::binary);
    std::string text;
    if (!in || !std::getline(in, text)) return std::optional<Recovered>{};
    try {
        const Json head = Json::parse(text);
        Json state = head.at("base");
        Recovered out;
        out.journal = journal;
        out.buildFile = head.at("file").get<std::string>();
        while (std::getline(in, text)) {
            if (text.empty()) continue;
            const Json change = Json::parse(text, nullptr, false);
            try {
                state = state.patch(change.at("patch"));
                out.lastEdit = change.at("edit").get<std::string>();
                ++out.edits;
            } catch (const Json::exception&) { // torn, or it builds on one that was
                ++out.unread;
            }
        }
        auto build = fromJson(state);
        if (!build) return unusable(build.problem().text());
        if (out.edits == 0) return std::optional<Recovered>{};
        out.build = std::move(*build);
        return std::optional(std::move(out));
    } catch (const Json::exception& e) {
        return unusable(fmt::format("it is not a journal of this program ({})", e.what()));
    }
}

std::vector<fs::path> journalsLeft(const fs::path& folder) {
    std::vector<std::pair<fs::file_time_type, fs::path>> found;
    std::error_code error;
    for (const auto& entry : fs::directory_iterator(folder, error)) {
        const std::string name = entry.path().filename().string();
        if (name.rfind("journal", 0) != 0 || entry.path().extension() != ".jsonl") continue;
        const int fd = ::open(entry.path().c_str(), O_RDONLY | O_CLOEXEC);
        if (fd < 0) continue;
        const bool unused = ::flock(fd, LOCK_EX | LOCK_NB) == 0;
        ::close(fd);
        if (unused) found.emplace_back(entry.last_write_time(error), entry.path());
    }
    std::sort(found.begin(), found.end(), [](const auto& a, const auto& b) { return a.first > b.first; });
    std::vector<fs::path> out;
    for (auto& [when, path] : found) out.push_back(std::move(path));
    return out;
}

fs::path keepAside(const fs::path& journal) {
    for (int k = 1;; ++k) {
        fs::path aside = journal;
        aside.replace_extension(fmt::format("kept-{}", k));
        std::error_code error;
        if (fs::exists(aside, error)) continue;
        fs::rename(journal, aside, error);
        return error ? journal : aside;
    }
}

} // namespace ember
