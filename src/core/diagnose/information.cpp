#include "information.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace ember::diagnose {

namespace {

/// Gauss-Hermite, five nodes, of the standard normal distribution (Abramowitz and Stegun, table 25.10).
constexpr std::array<std::pair<double, double>, 5> nodes{{{-2.856970013872806, 0.011257411327721},
                                                          {-1.355626179974266, 0.222075922005613},
                                                          {0, 0.533333333333333},
                                                          {1.355626179974266, 0.222075922005613},
                                                          {2.856970013872806, 0.011257411327721}}};

struct Cause {
    int suspect = -1; ///< -1: nothing is wrong
    double share = 0, reads = 0, sigma = 1;
};

/// Without the factor that all have in common.
double density(const Cause& c, double y) {
    const double away = (y - c.reads) / c.sigma;
    return std::exp(-0.5 * away * away) / c.sigma;
}

Telling tellingOf(std::vector<Cause> causes) {
    Telling out;
    double sum = 0;
    for (const Cause& c : causes) sum += c.share;
    if (!(sum > 0)) return out;
    for (const Cause& c : causes)
        for (const auto& [node, weight] : nodes) {
            const double y = c.reads + node * c.sigma;
            double all = 0;
            for (const Cause& x : causes) all += x.share / sum * density(x, y);
            if (all > 0) out.bits += c.share / sum * weight * std::log2(density(c, y) / all);
        }
    out.bits = std::max(0.0, out.bits);
    std::stable_sort(causes.begin(), causes.end(), [](const Cause& a, const Cause& b) { return a.share > b.share; });
    out.one = out.other = causes[0].suspect;
    for (const Cause& c : causes)
        if (std::abs(c.reads - causes[0].reads) > 3 * std::max(c.sigma, causes[0].sigma)) {
            out.other = c.suspect;
            break;
        }
    return out;
}

} // namespace

std::vector<Telling> tellings(const Ranking& ranking, const std::vector<double>& healthy,
                              const std::vector<std::optional<double>>& read, const std::vector<Spread>& spreads) {
    constexpr double least = 1e-3; // of a cause that counts
    std::vector<Telling> out(spreads.size());
    for (std::size_t k = 0; k < spreads.size(); ++k) {
        if (read[k] || k >= healthy.size() || !std::isfinite(healthy[k])) continue;
        std::vector<Cause> causes{{-1, ranking.healthyShare, healthy[k], spreads[k].at(healthy[k])}};
        for (std::size_t n = 0; n < ranking.suspects.size() && ranking.suspects[n].share > least; ++n) {
            const Suspect& s = ranking.suspects[n];
            if (k < s.reads.size() && std::isfinite(s.reads[k]))
                causes.push_back({static_cast<int>(n), s.share, s.reads[k], spreads[k].at(s.reads[k])});
        }
        if (causes.size() > 1) out[k] = tellingOf(std::move(causes));
    }
    return out;
}

} // namespace ember::diagnose
