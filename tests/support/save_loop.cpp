// Edits and saves a build over and over until it is killed; says each edit that the journal has taken.
// Usage: save-loop BUILD JOURNAL

#include "core/build/build_json.h"
#include "core/build/journal.h"
#include "core/build/storage.h"

#include <cstdio>

int main(int, char** argv) {
    auto build = ember::loadBuild(argv[1]);
    if (!build) return 2;
    auto journal = ember::Journal::start(argv[2], *build, argv[1]);
    if (!journal) return 3;
    for (int k = 1;; ++k) {
        build->notes = "edit " + std::to_string(k) + std::string(2000, 'x');
        if (!journal->append("edit " + std::to_string(k), *build)) return 4;
        std::printf("%d\n", k);
        std::fflush(stdout);
        if (k % 3 == 0 && !ember::saveBuild(*build, argv[1])) return 5;
    }
}
