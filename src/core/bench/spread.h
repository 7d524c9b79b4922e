#pragma once
// What a few samples say about where 95 of 100 more would lie.

#include "core/plan/figures.h"

#include <cmath>
#include <utility>

namespace ember::bench {

class Spread {
  public:
    /// One that is no number is left out.
    void add(double v) {
        if (!std::isfinite(v)) return;
        sum += v, squares += v * v, ++taken;
    }
    [[nodiscard]] int count() const { return taken; }
    /// Least and most, by mean and standard deviation with Student's factor for so few. NaN for fewer than three.
    [[nodiscard]] std::pair<double, double> range() const {
        if (taken < 3) return {plan::unknown, plan::unknown};
        const double n = taken, mean = sum / n,
                     deviation = std::sqrt(std::max(0.0, squares / n - mean * mean) * n / (n - 1)),
                     factor = (1.96 + 2.8 / (n - 1)) * std::sqrt(1 + 1 / n);
        return {mean - factor * deviation, mean + factor * deviation};
    }

  private:
    double sum = 0, squares = 0;
    int taken = 0;
};

} // namespace ember::bench
