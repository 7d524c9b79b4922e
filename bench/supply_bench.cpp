// Each of ours beside its peer in the same run; the ratios are printed after Google Benchmark's own table.

#include "cvode_supply.h"

#include "core/build/storage.h"
#include "core/plan/solve.h"
#include "core/signal/tone_analysis.h"

#include <benchmark/benchmark.h>
#include <fftw3.h>
#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <fstream>
#include <functional>
#include <numbers>
#include <sstream>

using namespace ember;

namespace {

std::vector<plan::SupplyCase> cases() {
    std::ifstream in(CASES);
    std::ostringstream text;
    text << in.rdbuf();
    return *plan::supplyCasesFromText(text.str());
}

/// Median seconds of `count` runs.
double median(int count, const std::function<void()>& work) {
    std::vector<double> all;
    for (int k = 0; k < count; ++k) {
        const auto start = std::chrono::steady_clock::now();
        work();
        all.push_back(std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count());
    }
    std::sort(all.begin(), all.end());
    return all[all.size() / 2];
}

void ourSupply(benchmark::State& state) {
    const auto all = cases();
    for (auto _ : state) benchmark::DoNotOptimize(plan::solveCase(all[static_cast<std::size_t>(state.range(0))]));
}
BENCHMARK(ourSupply)->DenseRange(0, 5)->Unit(benchmark::kMicrosecond);

void ratios() {
    double logs = 0;
    const auto all = cases();
    fmt::print("\nsupply solve against a general integrator from cold\n");
    for (const auto& c : all) {
        double peerMean = 0, ourMean = 0;
        const double peer = median(3, [&] { peerMean = bench_peer::integrateFromCold(c); });
        const double ours = median(15, [&] { ourMean = plan::solveCase(c)->nodes[0].mean; });
        logs += std::log(peer / ours);
        fmt::print("  {:40} {:8.2f} ms / {:6.3f} ms = {:6.1f}   (means {:.2f} V, {:.2f} V)\n", c.name, 1e3 * peer,
                   1e3 * ours, peer / ours, peerMean, ourMean);
    }
    fmt::print("  geometric mean {:.1f} times faster\n", std::exp(logs / static_cast<double>(all.size())));

    const auto demo = loadBuild(DEMO);
    plan::WarmStart warm;
    plan::solveFigures(*demo, Catalogue::shipped(), {}, &warm);
    std::vector<double> steady, whole;
    for (int k = 0; k < 12; ++k) {
        Build b = *demo;
        b.supply.sections[3].resistance = 3300 + 300 * k;
        plan::Figures f;
        plan::WarmStart start = warm;
        steady.push_back(median(1, [&] { f = plan::solveFigures(b, Catalogue::shipped(), {}, &start); }));
        whole.push_back(steady.back() + median(1, [&] { plan::completeFigures(b, Catalogue::shipped(), f); }));
    }
    std::sort(steady.begin(), steady.end());
    std::sort(whole.begin(), whole.end());
    fmt::print("an edit of the demo to new steady figures: median {:.0f} ms, worst {:.0f} ms; with all curves and "
               "power: median {:.0f} ms, worst {:.0f} ms\n",
               1e3 * steady[6], 1e3 * steady.back(), 1e3 * whole[6], 1e3 * whole.back());

    const auto nominal = plan::solveFigures(*demo, Catalogue::shipped(), {}, &warm).nominal;
    const double on =
        median(5, [&] { benchmark::DoNotOptimize(plan::switchOn(*demo, Catalogue::shipped(), *nominal, 30)); });
    fmt::print("30 s of switch-on, every cycle of it: {:.0f} ms, {:.2f} of the 300 ms allowed\n", 1e3 * on, on / 0.3);

    constexpr std::size_t n = 1 << 20;
    std::vector<double> x(n);
    for (std::size_t k = 0; k < n; ++k) x[k] = std::sin(2 * std::numbers::pi * 997.3 * static_cast<double>(k) / 48000);
    double* in = fftw_alloc_real(n);
    fftw_complex* out = fftw_alloc_complex(n / 2 + 1);
    const fftw_plan plan = fftw_plan_dft_r2c_1d(n, in, out, FFTW_ESTIMATE);
    std::copy(x.begin(), x.end(), in);
    const double transform = median(9, [&] { fftw_execute(plan); });
    const double analysis = median(9, [&] { benchmark::DoNotOptimize(signal::analyseTone(x, 48000, 0)); });
    fmt::print("analysis of 2^20 samples: {:.1f} ms / one transform {:.1f} ms = {:.2f}\n", 1e3 * analysis,
               1e3 * transform, analysis / transform);
    fftw_destroy_plan(plan);
    fftw_free(in);
    fftw_free(out);
}

} // namespace

int main(int argc, char** argv) {
    benchmark::Initialize(&argc, argv);
    benchmark::RunSpecifiedBenchmarks();
    ratios();
    return 0;
}
