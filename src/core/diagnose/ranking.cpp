#include "ranking.h"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <mutex>
#include <thread>

namespace ember::diagnose {

namespace {

constexpr double mostSigmas = 8;
/// How much likelier it is, before anything was read, that a first power-up finds nothing wrong than any one fault of
/// weight 1.
constexpr double healthyWeight = 50;

double logLikelihood(const std::vector<Evidence>& evidence, const std::vector<double>& reads) {
    double sum = 0;
    for (std::size_t k = 0; k < evidence.size(); ++k) {
        const Evidence& e = evidence[k];
        if (k >= reads.size() || !std::isfinite(reads[k])) {
            sum -= 0.5 * mostSigmas * mostSigmas;
            continue;
        }
        const double sigma = e.spread.at(reads[k]);
        const double away = std::min(mostSigmas, std::abs(e.read - reads[k]) / sigma);
        sum -= 0.5 * away * away + std::log(sigma / e.spread.at(e.read));
    }
    return sum;
}

/// The point at which two predictions are farthest apart, in sigmas, of those that were not read.
int tellerOf(const std::vector<double>& a, const std::vector<double>& b, const std::vector<Spread>& spreads,
             std::size_t from) {
    int best = -1;
    double most = 2; // less would not tell
    for (std::size_t k = from; k < std::min({a.size(), b.size(), spreads.size()}); ++k) {
        const double apart = std::abs(a[k] - b[k]) / std::hypot(spreads[k].at(a[k]), spreads[k].at(b[k]));
        if (std::isfinite(apart) && apart > most) most = apart, best = static_cast<int>(k);
    }
    return best;
}

} // namespace

double Spread::at(double reading) const {
    return std::max(1e-9, std::hypot(share * reading, floor));
}

Ranking rank(const Build& build, const std::vector<Fault>& faults, const std::vector<Evidence>& evidence,
             const std::vector<Spread>& spreads, const Predict& predict, std::stop_token stop) {
    Ranking out;
    std::mutex guard;
    std::atomic<std::size_t> next = 0;
    const auto work = [&] {
        for (std::size_t k = next++; k < faults.size() && !stop.stop_requested(); k = next++) {
            Build faulty = build;
            faults[k].inflict(faulty);
            std::vector<double> reads = predict(faulty, faults[k].wiring);
            if (reads.empty()) continue;
            const double likelihood = logLikelihood(evidence, reads) + std::log(faults[k].weight);
            const std::lock_guard lock(guard);
            out.suspects.push_back({faults[k], likelihood, 0, std::move(reads)});
        }
    };
    std::vector<std::jthread> workers;
    for (unsigned k = 1; k < std::max(1U, std::thread::hardware_concurrency()); ++k) workers.emplace_back(work);
    work();
    workers.clear(); // joins
    const std::vector<double> healthy = predict(build, {});
    const double none = logLikelihood(evidence, healthy) + std::log(healthyWeight);
    std::sort(out.suspects.begin(), out.suspects.end(), [](const Suspect& a, const Suspect& b) {
        return a.logLikelihood != b.logLikelihood ? a.logLikelihood > b.logLikelihood : a.fault.id < b.fault.id;
    });
    double top = none, sum = 0;
    for (const Suspect& s : out.suspects) top = std::max(top, s.logLikelihood);
    for (const Suspect& s : out.suspects) sum += std::exp(s.logLikelihood - top);
    sum += std::exp(none - top);
    for (Suspect& s : out.suspects) s.share = std::exp(s.logLikelihood - top) / sum;
    out.healthyShare = std::exp(none - top) / sum;
    if (out.suspects.size() > 1)
        out.teller = tellerOf(out.suspects[0].reads, out.suspects[1].reads, spreads, evidence.size());
    return out;
}

} // namespace ember::diagnose
