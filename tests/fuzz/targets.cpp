#include "targets.h"

#include "core/base/embedded.h"
#include "core/build/build_json.h"
#include "core/build/journal.h"
#include "core/catalogue/points_text.h"
#include "core/chassis/dxf.h"
#include "core/procedure/log_words.h"
#include "core/signal/sound_file.h"
#include "core/signal/table_file.h"

#include <algorithm>
#include <array>
#include <cstdlib>
#include <filesystem>

#include <sys/mman.h>
#include <unistd.h>

namespace ember::fuzz {

namespace {

std::string_view textOf(Bytes input) {
    return {reinterpret_cast<const char*>(input.data()), input.size()};
}

/// A file in memory that holds `input`, with a name that ends as wanted.
class MemoryFile {
  public:
    MemoryFile(Bytes input, const std::string& ending) {
        fd = ::memfd_create("input", 0);
        if (fd < 0 || ::write(fd, input.data(), input.size()) != static_cast<ssize_t>(input.size())) std::abort();
        link = std::filesystem::temp_directory_path() / ("fuzz-" + std::to_string(::getpid()) + ending);
        ::unlink(link.c_str());
        if (::symlink(("/proc/self/fd/" + std::to_string(fd)).c_str(), link.c_str()) != 0) std::abort();
    }
    ~MemoryFile() {
        ::unlink(link.c_str());
        ::close(fd);
    }
    MemoryFile(const MemoryFile&) = delete;
    MemoryFile& operator=(const MemoryFile&) = delete;
    [[nodiscard]] const std::filesystem::path& path() const { return link; }

  private:
    int fd = -1;
    std::filesystem::path link;
};

/// What was read as a build is written, and read again as the same.
void readBuild(Bytes input) {
    const auto build = fromText(textOf(input));
    if (!build) return;
    const std::string written = toText(*build);
    const auto again = fromText(written);
    if (!again || toText(*again) != written) std::abort();
    (void)settingsOf(*build);
}

void readJournal(Bytes input) {
    const MemoryFile file(input, ".jsonl");
    (void)recover(file.path());
}

void readPoints(Bytes input) {
    (void)pointsFromText(textOf(input));
}

void readCapture(Bytes input) {
    const MemoryFile file(input, ".csv");
    (void)signal::readTable(file.path(), 1);
    (void)signal::readTable(file.path(), 2, 48000);
}

void readSound(Bytes input) {
    const MemoryFile file(input, ".wav");
    (void)signal::readSound(file.path(), 1, 20);
}

void readDrawing(Bytes input) {
    const MemoryFile file(input, ".dxf");
    (void)chassis::readDxf(file.path());
}

void readLogLine(Bytes input) {
    static const Build demo = *fromText(embedded::text("larkfield.ember.json"));
    (void)procedure::understandLogWords(demo, textOf(input));
}

constexpr std::array all{Target{"build", readBuild},     Target{"journal", readJournal}, Target{"points", readPoints},
                         Target{"capture", readCapture}, Target{"sound", readSound},     Target{"dxf", readDrawing},
                         Target{"log", readLogLine}};

} // namespace

std::span<const Target> targets() {
    return all;
}

const Target* findTarget(std::string_view name) {
    const auto at = std::find_if(all.begin(), all.end(), [&](const Target& t) { return t.name == name; });
    return at == all.end() ? nullptr : &*at;
}

} // namespace ember::fuzz
