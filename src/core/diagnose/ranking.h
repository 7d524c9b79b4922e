#pragma once
// Which fault explains all readings so far, and which reading would tell the first two apart.

#include "faults.h"

#include "core/plan/conditions.h"

#include <functional>
#include <stop_token>

namespace ember::diagnose {

/// How far apart equal amplifiers read at a point: one standard deviation as a share of the reading, and what is left
/// of it where nothing is read, in the point's unit.
struct Spread {
    double share = 0.05, floor = 0.05;
    [[nodiscard]] double at(double reading) const;
};

/// A reading as it enters, and the spread at its point.
struct Evidence {
    double read = 0;
    Spread spread;
};

/// What an amplifier would read at every point that is asked for, the evidence's first; NaN where nothing can be read.
/// An empty list: this amplifier could not be solved.
using Predict = std::function<std::vector<double>(const Build&, const plan::Miswiring&)>;

struct Suspect {
    Fault fault;
    double logLikelihood = 0; ///< of all the evidence, with the fault's weight
    double share = 0;         ///< of the likelihood of all suspects and of no fault, 0 .. 1
    std::vector<double> reads;
};

struct Ranking {
    std::vector<Suspect> suspects; ///< the likeliest first
    double healthyShare = 0;       ///< that nothing is wrong
    int teller = -1;               ///< index of the point whose reading tells the first two apart best; -1: none does
};

/// Every fault of the build against the evidence. Readings are normally distributed about what the fault predicts, with
/// the spread at the predicted value; at most 8 standard deviations count, so that one wild reading does not decide
/// alone. `spreads`: of every point.
Ranking rank(const Build& build, const std::vector<Fault>& faults, const std::vector<Evidence>& evidence,
             const std::vector<Spread>& spreads, const Predict& predict, std::stop_token stop = {});

} // namespace ember::diagnose
