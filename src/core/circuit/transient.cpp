#include "transient.h"

#include <fmt/format.h>

#include <cstdint>

namespace ember::circuit {

Expected<Done> runTransient(Stepper& stepper, State& state, const TransientOptions& o) {
    const int bottom = stepper.levels() - 1;
    const double tick = stepper.stepAt(bottom);
    const double origin = state.t;
    const auto total = static_cast<std::int64_t>(o.duration / tick + 0.5);
    std::int64_t at = 0; // in ticks, so that the grid never drifts
    int level = bottom;
    if (!stepper.begin(state))
        return Problem{"", fmt::format("the start at {:.4g} s was not solved (off by {:.3g} V)", state.t,
                                       stepper.portSolver().residual())};
    State before = state;
    while (at < total) {
        if (o.stop.stop_requested()) return Problem{"", "cancelled"};
        const std::int64_t length = std::int64_t{1} << (bottom - level);
        before = state;
        const bool solved = stepper.step(state, level);
        if (!solved || (stepper.localError() > o.tolerance && level < bottom)) {
            if (level == bottom)
                return Problem{"", fmt::format("the step at {:.6g} s was not solved (off by {:.3g} V)", before.t,
                                               stepper.portSolver().residual())};
            state = before;
            if (solved) stepper.takeBack();
            ++level;
            continue;
        }
        at += length;
        state.t = origin + static_cast<double>(at) * tick;
        if (o.onStep && !o.onStep(stepper, state, static_cast<double>(length) * tick)) break;
        if (stepper.takeJump()) {
            if (!stepper.begin(state))
                return Problem{"", fmt::format("the jump at {:.6g} s was not solved (off by {:.3g} V)", state.t,
                                               stepper.portSolver().residual())};
            level = bottom;
            continue;
        }
        // A step twice as long where the error allows it and the time is a multiple of it.
        if (level > 0 && stepper.localError() < o.tolerance * longerBelow && at % (length * 2) == 0) --level;
        while (level < bottom && at + (std::int64_t{1} << (bottom - level)) > total) ++level;
    }
    return Done{};
}

} // namespace ember::circuit
