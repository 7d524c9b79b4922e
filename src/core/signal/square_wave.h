#pragma once
// A captured square wave to tilt, rise, overshoot and ringing, and the corners that they mean.

#include "capture.h"
#include "response.h"

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

/// The capture as it would be with a perfect source: each odd harmonic of its period over the source's own, times that
/// of an ideal square of the same level, as far as the source has more than a hundredth of the ideal one's. Both
/// captures begin anywhere. A Problem where one of them holds no square, or they differ in frequency.
Expected<Capture> withoutSource(const Capture& capture, const Capture& source, double hertz = 0);
/// One period of a square of 1 V crest at `hertz` through a response: points (dB, degrees) by rising frequency;
/// harmonics beyond them are left out. Its level is that of 0 dB.
std::vector<double> squareThrough(const std::vector<ResponsePoint>& response, double hertz, std::size_t count);

/// `hertz`: of the square where it is known, else 0. All periods are laid over each other, so that a rate that the
/// frequency does not divide shows the edge finer than its samples do.
Expected<SquareAnalysis> analyseSquare(const Capture& capture, double hertz = 0);

} // namespace ember::signal
