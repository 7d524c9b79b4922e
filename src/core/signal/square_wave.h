#pragma once
// A captured square wave to tilt, rise, overshoot and ringing, and the corners that they mean.

#include "capture.h"

#include "core/base/result.h"

#include <limits>
#include <string>
#include <vector>

namespace ember::signal {

struct SquareAnalysis {
    static constexpr double unknown = std::numeric_limits<double>::quiet_NaN();
    double hertz = 0;
    double tiltPercent = unknown;      ///< of the level behind an edge, over half a period
    double lowCorner = unknown;        ///< [Hz] tilt = 1 - exp(-pi fc / f)
    double riseSeconds = unknown;      ///< 10 to 90 % of the step
    double highCorner = unknown;       ///< [Hz] 0.35 / rise
    double overshootPercent = unknown; ///< of the step
    double ringingHertz = unknown,
           damping = unknown;   ///< of the oscillation behind the edge; damping as a share of critical
    std::vector<double> period; ///< one period from the rising edge's middle on, evenly spaced [V]
    std::vector<std::string> trust;
};

/// `hertz`: of the square where it is known, else 0. All periods are laid over each other, so that a rate that the
/// frequency does not divide shows the edge finer than its samples do.
Expected<SquareAnalysis> analyseSquare(const Capture& capture, double hertz = 0);

} // namespace ember::signal
