// Every fault of every amplifier to begin from, at every step of First Power: how many have no solution, and which.
// faults-bench [START]
#include "core/build/starts.h"
#include "core/diagnose/faults.h"
#include "core/plan/solve.h"
#include "core/procedure/band.h"
#include "core/procedure/first_power.h"

#include <fmt/format.h>

#include <mutex>

using namespace ember;
using namespace ember::procedure;

int main(int argc, char** argv) {
    const Catalogue& catalogue = Catalogue::shipped();
    fmt::print("faults without a solution, by step 1 to {}\n", stageCount - 1);
    int tried = 0, unsolved = 0;
    std::vector<std::string> which;
    for (const Start& start : starts()) {
        if (argc > 1 && start.id != argv[1]) continue;
        const auto faults = diagnose::faultsOf(start.build, catalogue);
        fmt::print("{:<28} {:4} faults:", start.id, faults.size());
        for (int step = 1; step < stageCount; ++step) {
            const plan::Conditions conditions = stageConditions(start.build, step, start.build.mains.volts);
            plan::WarmStart warm;
            if (!plan::solveSteady(start.build, catalogue, conditions, {}, &warm)) {
                fmt::print("     -");
                continue;
            }
            std::mutex lock;
            int here = 0;
            onAllCores(static_cast<int>(faults.size()), {}, [&](int k) {
                const diagnose::Fault& fault = faults[static_cast<std::size_t>(k)];
                Build faulty = start.build;
                fault.inflict(faulty);
                plan::WarmStart own = warm;
                const auto s = plan::solveSteady(faulty, catalogue, conditions,
                                                 {.tolerance = 1e-3, .rough = true, .wiring = fault.wiring}, &own);
                const std::scoped_lock held(lock);
                ++tried;
                if (s) return;
                ++here;
                which.push_back(fmt::format("{} at step {}, {}: {}", start.id, step, fault.id, s.problem().text()));
            });
            unsolved += here;
            fmt::print(" {:5}", here);
        }
        fmt::print("\n");
    }
    for (const std::string& w : which) fmt::print("{}\n", w);
    fmt::print("{} of {} without a solution\n", unsolved, tried);
}
