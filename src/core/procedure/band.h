#pragma once
// The band around a prediction: part tolerances and the meter's accuracy. The method is in docs/models.md.

#include "test_points.h"

#include <cmath>
#include <functional>

namespace ember::procedure {

/// One uncertain part at the edge of its tolerance.
struct Spread {
    std::string part;
    std::function<void(Build&, plan::Conditions&)> shift;
};
std::vector<Spread> spreads(const Build& build, const plan::Conditions& conditions);

struct Band {
    double nominal = plan::unknown, low = plan::unknown, high = plan::unknown; ///< high may be infinite
    [[nodiscard]] bool known() const { return std::isfinite(low) && !std::isnan(high); }
};

/// nominal +- (root of the summed squares of each part's effect at its tolerance + the meter's share); of a supply
/// node 1 V more, which is what a meter may show where there is nothing.
std::vector<Band> bands(const Build& build, const Catalogue& catalogue, const plan::Conditions& conditions,
                        const std::vector<TestPoint>& points, const plan::Steady& nominal, const plan::WarmStart& warm,
                        std::stop_token stop = {});

} // namespace ember::procedure
