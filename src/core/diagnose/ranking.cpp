#include "ranking.h"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <thread>

namespace ember::diagnose {

namespace {

constexpr double mostSigmas = 8;
/// How much likelier it is, before anything was read, that a first power-up finds nothing wrong than any one fault of
/// weight 1; and that what is wrong is no fault of the list.
constexpr double healthyWeight = 50, noneWeight = 2;
constexpr double noneSigmas = 3.5;      ///< off at a reading that a healthy amplifier does not give
constexpr double unpredictedSigmas = 1; ///< off where a fault predicts nothing

double sigmas(double read, double predicted, const Spread& spread) {
    return std::min(mostSigmas, std::abs(read - predicted) / spread.at(predicted));
}

double logLikelihood(const std::vector<std::optional<double>>& read, const std::vector<double>& reads,
                     const std::vector<Spread>& spreads) {
    double sum = 0;
    for (std::size_t k = 0; k < read.size(); ++k) {
        if (!read[k]) continue;
        if (k >= reads.size()) {
            sum -= 0.5 * unpredictedSigmas * unpredictedSigmas;
        } else if (!std::isfinite(reads[k])) {
            sum -= 0.5 * mostSigmas * mostSigmas;
        } else {
            const double away = sigmas(*read[k], reads[k], spreads[k]);
            sum -= 0.5 * away * away + std::log(spreads[k].at(reads[k]) / spreads[k].at(*read[k]));
        }
    }
    return sum;
}

double logLikelihoodOfNone(const std::vector<std::optional<double>>& read, const std::vector<double>& healthy,
                           const std::vector<Spread>& spreads) {
    double sum = 0;
    for (std::size_t k = 0; k < read.size(); ++k) {
        if (!read[k] || k >= healthy.size()) continue;
        const double away =
            std::isfinite(healthy[k]) ? std::min(noneSigmas, sigmas(*read[k], healthy[k], spreads[k])) : noneSigmas;
        sum -= 0.5 * away * away;
    }
    return sum;
}

/// The point at which two predictions are farthest apart, in sigmas, of those that were not read.
int tellerOf(const std::vector<double>& a, const std::vector<double>& b, const std::vector<Spread>& spreads,
             const std::vector<std::optional<double>>& read) {
    int best = -1;
    double most = 2; // less would not tell
    for (std::size_t k = 0; k < std::min({a.size(), b.size(), spreads.size()}); ++k) {
        if (read[k]) continue;
        const double apart = std::abs(a[k] - b[k]) / std::hypot(spreads[k].at(a[k]), spreads[k].at(b[k]));
        if (std::isfinite(apart) && apart > most) most = apart, best = static_cast<int>(k);
    }
    return best;
}

} // namespace

double Spread::at(double reading) const {
    return std::max(1e-9, std::hypot(share * reading, floor));
}

std::vector<Forecast> forecasts(const Build& build, const std::vector<Fault>& faults, const Predict& predict,
                                std::stop_token stop) {
    std::vector<Forecast> out(faults.size());
    std::atomic<std::size_t> next = 0;
    const auto work = [&] {
        for (std::size_t k = next++; k < faults.size() && !stop.stop_requested(); k = next++) {
            Build faulty = build;
            faults[k].inflict(faulty);
            out[k] = {faults[k], predict(faulty, faults[k].wiring)};
        }
    };
    std::vector<std::jthread> workers;
    for (unsigned k = 1; k < std::max(1U, std::thread::hardware_concurrency()); ++k) workers.emplace_back(work);
    work();
    workers.clear(); // joins
    std::erase_if(out, [](const Forecast& f) { return f.reads.empty(); });
    return out;
}

Ranking rank(const std::vector<Forecast>& faults, const std::vector<double>& healthy,
             const std::vector<std::optional<double>>& read, const std::vector<Spread>& spreads) {
    Ranking out;
    for (const Forecast& f : faults)
        out.suspects.push_back({f.fault, logLikelihood(read, f.reads, spreads) + std::log(f.fault.weight), 0, f.reads});
    std::sort(out.suspects.begin(), out.suspects.end(), [](const Suspect& a, const Suspect& b) {
        return a.logLikelihood != b.logLikelihood ? a.logLikelihood > b.logLikelihood : a.fault.id < b.fault.id;
    });
    const double nothing = logLikelihood(read, healthy, spreads) + std::log(healthyWeight),
                 none = logLikelihoodOfNone(read, healthy, spreads) + std::log(noneWeight);
    double top = std::max(nothing, none), sum = 0;
    for (const Suspect& s : out.suspects) top = std::max(top, s.logLikelihood);
    for (const Suspect& s : out.suspects) sum += std::exp(s.logLikelihood - top);
    sum += std::exp(nothing - top) + std::exp(none - top);
    for (Suspect& s : out.suspects) s.share = std::exp(s.logLikelihood - top) / sum;
    out.healthyShare = std::exp(nothing - top) / sum;
    out.noneShare = std::exp(none - top) / sum;
    if (out.suspects.size() > 1) out.teller = tellerOf(out.suspects[0].reads, out.suspects[1].reads, spreads, read);
    return out;
}

} // namespace ember::diagnose
