// Start to first paint and peak memory of the program with its demo, beside an empty Qt window, turn about.
#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cstdlib>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>
#include <vector>

namespace {

struct Run {
    double seconds = 0, megabytes = 0;
};

Run timed(const std::vector<const char*>& command) {
    const auto from = std::chrono::steady_clock::now();
    int ends[2];
    if (::pipe(ends) != 0) std::exit(1);
    const pid_t child = ::fork();
    if (child == 0) {
        ::dup2(ends[1], STDOUT_FILENO);
        std::vector<char*> words;
        for (const char* w : command) words.push_back(const_cast<char*>(w));
        words.push_back(nullptr);
        ::execv(words[0], words.data());
        std::_Exit(127);
    }
    ::close(ends[1]);
    char first = 0;
    const bool painted = ::read(ends[0], &first, 1) == 1; // it says so when it has
    const std::chrono::duration<double> took = std::chrono::steady_clock::now() - from;
    int status = 0;
    rusage used{};
    ::wait4(child, &status, 0, &used);
    ::close(ends[0]);
    if (!painted || !WIFEXITED(status) || WEXITSTATUS(status) != 0) {
        fmt::print(stderr, "{} ended badly\n", command[0]);
        std::exit(1);
    }
    return {took.count(), static_cast<double>(used.ru_maxrss) / 1024};
}

double median(std::vector<double> v) {
    std::nth_element(v.begin(), v.begin() + static_cast<std::ptrdiff_t>(v.size() / 2), v.end());
    return v[v.size() / 2];
}

} // namespace

int main() {
    ::setenv("QT_QPA_PLATFORM", "offscreen", 0);
    std::vector<double> ours, empty, ourMemory, emptyMemory, slower, larger;
    constexpr int runs = 11;
    for (int k = -1; k < runs; ++k) {
        const Run a = timed({PROGRAM, "--quit-after-paint"}), b = timed({PEER});
        if (k < 0) continue; // the first warms the disk's cache
        ours.push_back(a.seconds);
        empty.push_back(b.seconds);
        ourMemory.push_back(a.megabytes);
        emptyMemory.push_back(b.megabytes);
        slower.push_back(a.seconds / b.seconds);
        larger.push_back(a.megabytes / b.megabytes);
    }
    fmt::print("start to first paint: {:.0f} ms, empty window {:.0f} ms, ratio {:.2f} (2 at most)\n",
               1e3 * median(ours), 1e3 * median(empty), median(slower));
    fmt::print("peak memory: {:.0f} MB, empty window {:.0f} MB, ratio {:.2f} (2.5 at most)\n", median(ourMemory),
               median(emptyMemory), median(larger));
}
