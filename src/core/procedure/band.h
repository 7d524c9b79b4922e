#pragma once
// The band around a prediction, from many amplifiers drawn within their tolerances. The method is in docs/models.md.

#include "test_points.h"

#include <cmath>
#include <functional>

namespace ember::procedure {

struct Band {
    double nominal = plan::unknown, low = plan::unknown, high = plan::unknown; ///< high may be infinite
    [[nodiscard]] bool known() const { return std::isfinite(low) && !std::isnan(high); }
};

/// Amplifiers that a band is drawn from: the honest number, and a rough one that is there at once.
inline constexpr int honestSamples = 500, roughSamples = 40;

struct BandOptions {
    int samples = honestSamples;
    std::uint64_t seed = 1;
    std::stop_token stop = {};
};

/// At each point the band in which all readings of a stage lie together in 95 of 100 healthy amplifiers: the 5 and 95 %
/// quantiles of `samples` amplifiers on real mains, read with the errors of such a meter, stretched from the median
/// until 96 of 100 of those amplifiers have every point inside (one more for what a sample does not show); of a supply
/// node not less than 1 V to either side, which is what a meter may show where there is nothing. All cores.
std::vector<Band> bands(const Build& build, const Catalogue& catalogue, const plan::Conditions& conditions,
                        const std::vector<TestPoint>& points, const plan::Steady& nominal, const plan::WarmStart& warm,
                        const BandOptions& options);

/// Runs `work(k)` for k = 0 .. count - 1 on all cores until `stop`.
void onAllCores(int count, const std::stop_token& stop, const std::function<void(int)>& work);

} // namespace ember::procedure
