// Ranges of First Power: how many healthy amplifiers lie inside with every reading of a step, by start and step. They
// are drawn from other models than the ranges are: valves whose laws have another exponent, real mains, warm copper, a
// meter with its errors. ranges-bench [SAMPLES [AMPLIFIERS]]
#include "../tests/support/other_laws.h"

#include "core/build/starts.h"
#include "core/plan/as_built.h"
#include "core/plan/solve.h"
#include "core/procedure/band.h"
#include "core/procedure/first_power.h"
#include "core/procedure/judgement.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <atomic>
#include <cmath>
#include <cstdlib>
#include <random>

using namespace ember;
using namespace ember::procedure;
using ember::tests::otherLaws;

int main(int argc, char** argv) {
    const int samples = argc > 1 ? std::atoi(argv[1]) : honestSamples, amplifiers = argc > 2 ? std::atoi(argv[2]) : 200;
    const std::array<double, 3> exponents{0.97, 1.0, 1.03};
    const std::array<Catalogue, 3> others{otherLaws(exponents[0]), otherLaws(exponents[1]), otherLaws(exponents[2])};
    const Catalogue& own = Catalogue::shipped();
    fmt::print("{} amplifiers each, {} samples a range; inside with every reading [of 100]; 95 to 99 wanted\n",
               amplifiers, samples);
    int total = 0, inAll = 0;
    for (const Start& start : starts()) {
        const Build& b = start.build;
        fmt::print("{:<28}", start.id);
        for (int step = 1; step < stageCount; ++step) {
            const plan::Conditions c = stageConditions(b, step, b.mains.volts);
            const auto points = pointsOfStage(b, step);
            plan::WarmStart warm;
            const auto nominal = plan::solveSteady(b, own, c, {}, &warm);
            if (!nominal) {
                fmt::print("      -");
                continue;
            }
            const auto all = bands(b, own, c, points, *nominal, warm, {samples, 1, {}});
            std::atomic<int> inside = 0, solved = 0;
            onAllCores(amplifiers, {}, [&](int k) {
                std::mt19937_64 chance(static_cast<std::uint64_t>(77 + k));
                const Build x = plan::asBuiltOnRealMains(b, 900'000 + static_cast<std::uint64_t>(k));
                const Catalogue& law = others[static_cast<std::size_t>(k) % others.size()];
                plan::WarmStart from = warm;
                const auto s = plan::solveSteady(x, law, c, {.tolerance = 1e-3, .rough = true}, &from);
                if (!s) return;
                ++solved;
                const auto read = readings(x, law, *s, points);
                bool in = true;
                for (std::size_t p = 0; p < points.size(); ++p) {
                    const double shown = asShown(b, points[p].mode, read[p], chance);
                    in = in &&
                         (!all[p].known() || !std::isfinite(shown) || (shown >= all[p].low && shown <= all[p].high));
                }
                inside += in;
            });
            total += solved, inAll += inside;
            fmt::print(" {:6.1f}", 100.0 * inside / std::max(1, solved.load()));
            std::fflush(stdout);
        }
        fmt::print("\n");
    }
    fmt::print("all: {:.1f}\n", 100.0 * inAll / std::max(1, total));
}
