#pragma once
// A part selected on test: a value tried, what was read with it, and which value to try next.

#include "core/plan/figures.h"
#include "core/quantity/quantity.h"

#include <vector>

namespace ember::bench {

struct Tried {
    double value = 0;   ///< of the part, above 0
    double reading = 0; ///< with it, above 0
};

struct NextTry {
    double wanted = plan::unknown;   ///< value that the fit says
    double standard = plan::unknown; ///< the preferred value that comes nearest to the target by the fit
    double expected = plan::unknown; ///< reading with that one
    double error = plan::unknown;    ///< of it against the target, as a share
    double slope = plan::unknown;    ///< of the reading's logarithm against the value's, about the target
    std::string doubt;               ///< why the fit should not be trusted; empty: it may
};
/// By a power law through the two tries nearest to the target, bent through a third where there is one; after one try,
/// in proportion: reading times value constant (`falling`) or over it. Problem: nothing was tried, or the reading does
/// not follow the value.
Expected<NextTry> nextTry(const std::vector<Tried>& tries, double target, Series series, bool falling = true);

/// By how much two readings of the same differ, as a share of their mean.
inline double disagreement(double a, double b) {
    return 2 * (a - b) / (a + b);
}

} // namespace ember::bench
