#include "resample.h"

#include "transform.h"

#include <algorithm>

namespace ember::signal {

std::vector<double> resampled(std::span<const double> x, std::size_t up, std::size_t down) {
    if (x.empty() || up == down) return {x.begin(), x.end()};
    // A length that `down` divides, with room for what rings around the ends.
    const std::size_t length = smoothLengthFrom((x.size() + 512) / (2 * down) + 1) * 2 * down;
    const std::size_t made = length / down * up;
    auto bins = transformOf(x, length);
    bins.resize(std::min(length, made) / 2 + 1);
    if (made < length) bins.back() = 0; // half the new rate itself belongs to neither side
    auto out = recordOf(std::move(bins), made);
    for (double& v : out) v *= static_cast<double>(made) / static_cast<double>(length);
    out.resize(std::min(out.size(), x.size() * up / down));
    return out;
}

} // namespace ember::signal
