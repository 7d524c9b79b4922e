#pragma once
// The band around a prediction: part tolerances and the meter's accuracy. The method is in docs/models.md.

#include "test_points.h"

#include <functional>

namespace ember::procedure {

/// One uncertain part at the edge of its tolerance.
struct Spread {
    std::string part;
    std::function<void(Build&, plan::Conditions&)> shift;
};
std::vector<Spread> spreads(const Build& build, const plan::Conditions& conditions);

struct Band {
    double nominal = plan::unknown, low = plan::unknown, high = plan::unknown;
};

/// nominal +- (root of the summed squares of each part's effect at its tolerance + the meter's share).
std::vector<Band> bands(const Build& build, const Catalogue& catalogue, const plan::Conditions& conditions,
                        const std::vector<TestPoint>& points, const plan::Steady& nominal, const plan::WarmStart& warm,
                        std::stop_token stop = {});

} // namespace ember::procedure
