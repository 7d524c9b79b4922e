#pragma once
// A run through time with local error control on the ladder of steps.

#include "record.h"

#include "core/base/result.h"

#include <functional>
#include <stop_token>

namespace ember::circuit {

/// A step twice as long is tried where the local error is below this share of the tolerance.
inline constexpr double longerBelow = 1.0 / 12;

struct TransientOptions {
    double duration = 1;       ///< [s]
    double largestStep = 1e-3; ///< [s] top of the ladder
    int levels = 12;           ///< the smallest step is largestStep / 2^(levels-1)
    double tolerance = 1e-4;   ///< local error relative to (floor + |state|)
    /// Called after each accepted step; may change emission, temperature or sources. Return false to stop early.
    std::function<bool(Stepper&, const State&, double h)> onStep;
    std::stop_token stop = {};
};

/// Runs from `state` (its y and t; rates are found). A step that fails at the bottom of the ladder is a Problem
/// with the residual and the time.
Expected<Done> runTransient(Stepper& stepper, State& state, const TransientOptions& options);

} // namespace ember::circuit
