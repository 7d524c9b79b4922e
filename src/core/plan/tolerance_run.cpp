#include "tolerance_run.h"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <mutex>
#include <random>
#include <thread>

namespace ember::plan {

namespace {

double quantile(std::vector<double>& values, double share) {
    if (values.empty()) return unknown;
    const double at = share * static_cast<double>(values.size() - 1);
    const auto low = static_cast<std::size_t>(at);
    std::nth_element(values.begin(), values.begin() + static_cast<std::ptrdiff_t>(low), values.end());
    const double a = values[low];
    if (low + 1 >= values.size()) return a;
    const double z = *std::min_element(values.begin() + static_cast<std::ptrdiff_t>(low) + 1, values.end());
    return a + (at - static_cast<double>(low)) * (z - a);
}

} // namespace

Expected<ToleranceRun> toleranceRun(const Build& b, const Catalogue& catalogue, const DrawnBuild& draw,
                                    const ToleranceOptions& o) {
    Conditions nominal;
    nominal.mainsVolts = b.mains.volts;
    WarmStart start;
    const auto plan = solveSteady(b, catalogue, nominal, {.stop = o.stop}, &start);
    if (!plan) return plan.problem();
    const auto figures = namedFigures(b, *plan);

    SteadyOptions rough;
    rough.tolerance = o.tolerance;
    rough.stop = o.stop;
    rough.rough = true;

    std::vector<std::vector<double>> samples(figures.size());
    std::mutex guard;
    std::atomic<int> next = 0, done = 0, failed = 0;
    const auto work = [&] {
        for (int k = next++; k < o.builds && !o.stop.stop_requested(); k = next++) {
            const std::uint64_t seed = o.seed * 1'000'003 + static_cast<std::uint64_t>(k) + 1;
            const Build x = draw(b, seed);
            std::mt19937_64 chance(seed ^ 0xda3e39cb94b95bdbULL);
            Conditions c;
            c.mainsVolts = std::uniform_real_distribution<double>(b.mains.low, b.mains.high)(chance);
            WarmStart own = start;
            const auto s = solveSteady(x, catalogue, c, rough, &own);
            if (s) {
                const auto values = namedFigures(x, *s);
                const std::lock_guard lock(guard);
                for (std::size_t n = 0; n < values.size() && n < samples.size(); ++n)
                    if (std::isfinite(values[n].value)) samples[n].push_back(values[n].value);
            } else {
                ++failed;
            }
            if (++done % 16 == 0 && o.progress) o.progress(double(done) / o.builds);
        }
    };
    std::vector<std::jthread> workers;
    for (unsigned k = 1; k < std::max(1U, std::thread::hardware_concurrency()); ++k) workers.emplace_back(work);
    work();
    workers.clear(); // joins
    if (o.stop.stop_requested()) return Problem{"", "cancelled"};
    ToleranceRun run;
    run.builds = o.builds - failed;
    run.failed = failed;
    for (std::size_t n = 0; n < figures.size(); ++n)
        run.figures.push_back(
            {figures[n], quantile(samples[n], 0.05), quantile(samples[n], 0.5), quantile(samples[n], 0.95)});
    if (o.progress) o.progress(1);
    return run;
}

} // namespace ember::plan
