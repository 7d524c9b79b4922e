#include "weighting.h"

#include <cmath>

namespace ember {

double weightA(double f) {
    const auto raw = [](double x) {
        const double s = x * x;
        return 12194.217 * 12194.217 * s * s /
               ((s + 20.598997 * 20.598997) * std::sqrt((s + 107.65265 * 107.65265) * (s + 737.86223 * 737.86223)) *
                (s + 12194.217 * 12194.217));
    };
    static const double reference = raw(1000);
    return raw(f) / reference;
}

} // namespace ember
