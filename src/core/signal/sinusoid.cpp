#include "sinusoid.h"

#include <cmath>
#include <numbers>

namespace ember::signal {

std::complex<double> sinusoidIn(std::span<const double> samples, double rate, double hertz) {
    constexpr double turn = 2 * std::numbers::pi;
    const auto n = static_cast<double>(samples.size());
    std::complex<double> sum = 0;
    double weight = 0;
    for (std::size_t k = 0; k < samples.size(); ++k) {
        const double at = static_cast<double>(k), w = 0.5 - 0.5 * std::cos(turn * (at + 0.5) / n);
        sum += w * samples[k] * std::polar(1.0, -turn * std::fmod(hertz * at / rate, 1.0));
        weight += w;
    }
    return weight > 0 ? 2.0 / weight * sum : 0;
}

} // namespace ember::signal
