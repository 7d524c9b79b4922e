#include "delay.h"

#include "transform.h"

#include <algorithm>
#include <cmath>

namespace ember::signal {

std::size_t delayOf(std::span<const double> capture, std::span<const double> played) {
    if (capture.empty() || played.empty()) return 0;
    const std::size_t length = smoothLengthFrom(capture.size() + played.size());
    auto bins = transformOf(capture, length);
    const auto other = transformOf(played, length);
    for (std::size_t k = 0; k < bins.size(); ++k) bins[k] *= std::conj(other[k]);
    const auto correlation = recordOf(std::move(bins), length);
    const auto end = correlation.begin() + static_cast<std::ptrdiff_t>(capture.size());
    const auto most =
        std::max_element(correlation.begin(), end, [](double a, double b) { return std::abs(a) < std::abs(b); });
    return static_cast<std::size_t>(most - correlation.begin());
}

} // namespace ember::signal
