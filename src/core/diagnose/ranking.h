#pragma once
// Which fault explains all readings so far.

#include "faults.h"

#include "core/plan/conditions.h"

#include <functional>
#include <optional>
#include <stop_token>

namespace ember::diagnose {

/// How far apart equal amplifiers read at a point: one standard deviation as a share of the reading, and what is left
/// of it where nothing is read, in the point's unit.
struct Spread {
    double share = 0.05, floor = 0.05;
    [[nodiscard]] double at(double reading) const;
};

/// What an amplifier would read at every point that is asked for; NaN where nothing can be read; shorter where the last
/// points are not predicted for it. An empty list: this amplifier could not be solved.
using Predict = std::function<std::vector<double>(const Build&, const plan::Miswiring&)>;

/// What an amplifier with a fault would read, as Predict gives it.
struct Forecast {
    Fault fault;
    std::vector<double> reads;
};
/// Of every fault that could be solved, in the order of `faults`. All cores.
std::vector<Forecast> forecasts(const Build& build, const std::vector<Fault>& faults, const Predict& predict,
                                std::stop_token stop = {});

struct Suspect {
    Fault fault;
    double logLikelihood = 0; ///< of all the evidence, with the fault's weight
    double share = 0;         ///< probability, 0 .. 1
    std::vector<double> reads;
};

struct Ranking {
    std::vector<Suspect> suspects; ///< the likeliest first
    double healthyShare = 0;       ///< that nothing is wrong
    double noneShare = 0;          ///< that something is wrong and none of the suspects is it
    int teller = -1;               ///< index of the point whose reading tells the first two apart best; -1: none does
};

/// Every fault against what was `read`, by point. Readings are normally distributed about what the fault predicts, with
/// the spread at the predicted value; at most 8 standard deviations count, so that one wild reading does not decide
/// alone; where a fault predicts nothing, it counts as one standard deviation off. "None of these" reads as a healthy
/// amplifier where that explains the reading, elsewhere three and a half standard deviations off: what explains the
/// readings worse is not believed. The shares of all suspects, of no fault and of none of these make 1.
Ranking rank(const std::vector<Forecast>& faults, const std::vector<double>& healthy,
             const std::vector<std::optional<double>>& read, const std::vector<Spread>& spreads);

} // namespace ember::diagnose
