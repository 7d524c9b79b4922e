#include "input_divider.h"

#include "core/quantity/quantity.h"

#include <algorithm>
#include <cmath>

namespace ember::plan {

InputDivider inputDivider(double watts, double load, double inputCrest) {
    InputDivider d;
    d.crestIn = 1.5 * std::sqrt(2 * watts * load);
    d.lower = 1000;
    const double upper = d.lower * std::max(0.0, d.crestIn / inputCrest - 1);
    d.upper = upper > 1 ? nextUp(upper * 0.999, Series::E12) : 0;
    d.crestOut = d.crestIn * d.lower / (d.upper + d.lower);
    const double amps = d.crestIn / (d.upper + d.lower) / std::sqrt(2.0);
    d.upperWatts = amps * amps * d.upper;
    return d;
}

} // namespace ember::plan
