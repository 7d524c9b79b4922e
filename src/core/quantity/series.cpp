#include "quantity.h"

#include <algorithm>
#include <cmath>
#include <vector>

namespace ember {

namespace {

/// One decade, 1.0 .. 10. E24 and below are tabled in IEC 60063 (they are not the rounded powers everywhere).
std::vector<double> decade(Series series) {
    static const std::vector<double> e24{1.0, 1.1, 1.2, 1.3, 1.5, 1.6, 1.8, 2.0, 2.2, 2.4, 2.7, 3.0,
                                         3.3, 3.6, 3.9, 4.3, 4.7, 5.1, 5.6, 6.2, 6.8, 7.5, 8.2, 9.1};
    std::vector<double> out;
    if (series == Series::E96) {
        for (int k = 0; k < 96; ++k) out.push_back(std::round(std::pow(10.0, k / 96.0) * 100) / 100);
        return out;
    }
    const auto stride = static_cast<std::size_t>(24 / static_cast<int>(series));
    for (std::size_t k = 0; k < e24.size(); k += stride) out.push_back(e24[k]);
    return out;
}

/// The members around `value`, as printed decimals rather than products that carry rounding.
std::vector<double> neighbourhood(double value, Series series) {
    const int power = static_cast<int>(std::floor(std::log10(value)));
    std::vector<double> out;
    for (int p = power - 1; p <= power + 1; ++p)
        for (const double m : decade(series)) {
            const double hundredths = std::round(m * 100);
            out.push_back(p >= 2 ? hundredths * std::pow(10.0, p - 2) : hundredths / std::pow(10.0, 2 - p));
        }
    return out;
}

constexpr double same = 1e-9; ///< relative

} // namespace

double nearest(double value, Series series) {
    const auto all = neighbourhood(value, series);
    return *std::min_element(all.begin(), all.end(), [&](double a, double b) {
        return std::abs(std::log(a / value)) < std::abs(std::log(b / value));
    });
}

double nextWatts(double used) {
    for (const double rating : {0.25, 0.5, 1.0, 2.0, 3.0, 5.0, 7.0, 10.0, 17.0, 25.0, 50.0})
        if (rating >= 2 * used) return rating;
    return 100;
}

double nextUp(double value, Series series) {
    const auto all = neighbourhood(value, series);
    return *std::find_if(all.begin(), all.end(), [&](double a) { return a > value * (1 + same); });
}

double nextDown(double value, Series series) {
    const auto all = neighbourhood(value, series);
    return *std::find_if(all.rbegin(), all.rend(), [&](double a) { return a < value * (1 - same); });
}

} // namespace ember
