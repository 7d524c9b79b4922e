// Wires, hum and measures: times against what they must keep, each beside a peer of the same run.
//   wire-bench [ROUNDS]

#include "median.h"

#include "core/build/storage.h"
#include "core/plan/solve.h"
#include "core/signal/response.h"
#include "core/signal/stimulus.h"
#include "core/signal/transform.h"
#include "core/wires/hum.h"

#include <fmt/format.h>

#include <algorithm>
#include <cstdlib>

using namespace ember;

int main(int argc, char** argv) {
    const int rounds = argc > 1 ? std::max(3, std::atoi(argv[1])) : 21;
    const auto build = loadBuild(DEMO);
    if (!build) return fmt::print(stderr, "{}\n", build.problem().text()), 1;
    const Catalogue& catalogue = Catalogue::shipped();
    const plan::Figures f = plan::solveFigures(*build, catalogue);
    const wires::Harness harness = wires::harnessOf(*build, catalogue);
    const wires::HeaterFigures heaters = wires::heaterFigures(*build, catalogue, harness, f);
    wires::HumSolver kept;
    (void)kept.solve(*build, catalogue, harness, heaters, f);
    const double steady = medianOf(rounds, [&] { (void)plan::solveFigures(*build, catalogue); });
    const auto line = [&](const char* what, double ms, const char* limit) {
        fmt::print("{:44} {:8.2f} ms   {:5.2f} of a steady solve   {}\n", what, ms, ms / steady, limit);
    };
    line("steady figures at three mains (the peer)", steady, "");
    line("all wires proposed", medianOf(rounds, [&] { (void)wires::harnessOf(*build, catalogue); }), "at most 300 ms");
    line("hum after a move or another wire",
         medianOf(rounds, [&] { (void)kept.solve(*build, catalogue, harness, heaters, f); }), "at most 16 ms");
    line("wires, heaters and hum after any edit",
         medianOf(rounds, [&] { (void)wires::wireFigures(*build, catalogue, f); }), "at most 16 ms");

    signal::Stimulus s;
    s.seconds = static_cast<double>(1 << 20) / s.rate - signal::silence;
    const auto samples = signal::samplesOf(s);
    if (!samples) return fmt::print(stderr, "{}\n", samples.problem().text()), 1;
    const signal::Capture sweep{*samples, s.rate, 0, "sweep"};
    const std::size_t padded = std::size_t(1) << 21;
    const double transform = medianOf(5, [&] { (void)signal::transformOf(sweep.volts, padded); });
    const double analysed = medianOf(5, [&] { (void)signal::sweepResponse(sweep, sweep); });
    fmt::print("sweep of 2^20 samples analysed               {:8.1f} ms   {:5.2f} transforms of 2^21\n", analysed,
               analysed / transform);
}
