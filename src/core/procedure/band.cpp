#include "band.h"

#include "core/plan/as_built.h"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <map>
#include <random>
#include <thread>

namespace ember::procedure {

using namespace plan;

void onAllCores(int count, const std::stop_token& stop, const std::function<void(int)>& work) {
    std::atomic<int> next = 0;
    const auto some = [&] {
        for (int k = next++; k < count && !stop.stop_requested(); k = next++) work(k);
    };
    std::vector<std::jthread> workers;
    for (unsigned k = 1; k < std::max(1U, std::thread::hardware_concurrency()); ++k) workers.emplace_back(some);
    some();
}

namespace {

double quantile(const std::vector<double>& sorted, double share) {
    const double at = share * static_cast<double>(sorted.size() - 1);
    const auto k = static_cast<std::size_t>(at);
    if (k + 1 >= sorted.size()) return sorted.back();
    return sorted[k] + (at - static_cast<double>(k)) * (sorted[k + 1] - sorted[k]);
}

/// Of one point: the middle, and how far the amplifiers lie below and above it.
struct Column {
    double middle = 0, below = 0, above = 0;
    /// How many of those reaches `value` is away.
    [[nodiscard]] double away(double value) const {
        const double reach = value < middle ? below : above;
        return std::abs(value - middle) / std::max(reach, 1e-9 * (1 + std::abs(middle)));
    }
};

} // namespace

std::vector<Band> bands(const Build& b, const Catalogue& catalogue, const Conditions& conditions,
                        const std::vector<TestPoint>& points, const Steady& nominal, const WarmStart& warm,
                        const BandOptions& o) {
    std::vector<Band> out(points.size());
    const std::vector<double> expected = readings(b, catalogue, nominal, points);
    // What the meter's own resistance takes away hardly changes from one amplifier to the next.
    const std::vector<double> real = trueReadings(b, nominal, points);
    for (std::size_t k = 0; k < points.size(); ++k) out[k].nominal = expected[k];
    std::vector<std::vector<double>> read(static_cast<std::size_t>(o.samples));
    SteadyOptions rough;
    rough.tolerance = 1e-3;
    rough.stop = o.stop;
    rough.rough = true;
    std::map<std::string, double> modelError;
    for (const Valve& v : b.bottles)
        if (const ValveType* type = catalogue.valve(v.type)) modelError[v.type] = catalogue.predictionError(*type);
    onAllCores(o.samples, o.stop, [&](int k) {
        const std::uint64_t seed = o.seed * 1'000'003 + static_cast<std::uint64_t>(k) + 1;
        Build x = asBuiltOnRealMains(b, seed);
        std::mt19937_64 chance(seed ^ 0x9e3779b97f4a7c15ULL);
        // The model's own error is common to all valves of a type.
        for (const auto& [type, error] : modelError) {
            const double factor = std::exp(error * std::clamp(std::normal_distribution<double>()(chance), -2.0, 2.0));
            for (Valve& v : x.bottles)
                if (v.type == type) v.emission *= factor;
        }
        Conditions c = conditions; // mains as the meter read it
        c.mainsVolts *= 1 + std::uniform_real_distribution<double>(-1, 1)(chance) * b.meter.ac;
        WarmStart own = warm;
        if (const auto s = solveSteady(x, catalogue, c, rough, &own)) {
            std::vector<double> shown = trueReadings(x, *s, points);
            for (std::size_t p = 0; p < points.size(); ++p) shown[p] = asShown(b, points[p].mode, shown[p], chance);
            read[static_cast<std::size_t>(k)] = std::move(shown);
        }
    });
    if (o.stop.stop_requested()) return out;
    std::erase_if(read, [](const std::vector<double>& r) { return r.empty(); });
    if (read.size() < 8) return out; // of so few nothing is known
    std::vector<Column> columns(points.size());
    for (std::size_t p = 0; p < points.size(); ++p) {
        if (!std::isfinite(real[p])) continue;
        std::vector<double> values;
        for (const auto& r : read)
            if (std::isfinite(r[p])) values.push_back(r[p]);
        if (values.empty()) continue;
        std::sort(values.begin(), values.end());
        Column& c = columns[p];
        c.middle = quantile(values, 0.5);
        c.below = c.middle - quantile(values, 0.05);
        c.above = quantile(values, 0.95) - c.middle;
    }
    std::vector<double> farthest;
    for (const auto& r : read) {
        double away = 1;
        for (std::size_t p = 0; p < points.size(); ++p)
            if (std::isfinite(real[p]) && std::isfinite(r[p])) away = std::max(away, columns[p].away(r[p]));
        farthest.push_back(away);
    }
    std::sort(farthest.begin(), farthest.end());
    const double stretch = quantile(farthest, 0.96);
    for (std::size_t p = 0; p < points.size(); ++p) {
        if (!std::isfinite(real[p])) continue;
        const double loaded = std::abs(real[p]) > 1e-12 ? expected[p] / real[p] : 1;
        out[p].low = (columns[p].middle - stretch * columns[p].below) * loaded;
        out[p].high = (columns[p].middle + stretch * columns[p].above) * loaded;
        if (points[p].kind == PointKind::Node) { // what a meter may show where there is nothing
            out[p].low = std::min(out[p].low, expected[p] - 1);
            out[p].high = std::max(out[p].high, expected[p] + 1);
        }
        if (!std::isfinite(out[p].low) || !std::isfinite(out[p].high)) out[p].low = out[p].high = unknown;
    }
    return out;
}

} // namespace ember::procedure
