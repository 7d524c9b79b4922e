#include "steady_part.h"

#include <algorithm>
#include <cmath>
#include <vector>

namespace ember::signal {

std::span<const double> steadyPart(std::span<const double> x, double rate) {
    const auto block = static_cast<std::size_t>(0.1 * rate);
    if (block < 8 || x.size() < 6 * block) return x;
    std::vector<double> rms;
    for (std::size_t at = 0; at + block <= x.size(); at += block) {
        double square = 0;
        for (const double v : x.subspan(at, block)) square += v * v;
        rms.push_back(std::sqrt(square / static_cast<double>(block)));
    }
    std::vector<double> sorted = rms;
    std::sort(sorted.begin(), sorted.end());
    const double loud = sorted[sorted.size() * 4 / 5];
    std::size_t best = 0, bestAt = 0, run = 0;
    for (std::size_t k = 0; k < rms.size(); ++k) {
        run = std::abs(rms[k] - loud) <= 0.05 * loud ? run + 1 : 0;
        if (run > best) best = run, bestAt = k + 1 - run;
    }
    if (best < 4 || best == rms.size()) return x;
    return x.subspan((bestAt + 1) * block, (best - 2) * block);
}

} // namespace ember::signal
