#include "grid_current.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember {

namespace {

constexpr double coldWidth = 0.13;                      // [V] of the law's bend: 1.5 kT/e at 1000 K
constexpr double sheetAmps = 3e-7, sheetVolts = -0.664; // where sheets look for it
constexpr double sheetWatts = 0.945;                    // of that cathode: half of 6.3 V 0.3 A
constexpr double logistic = std::numbers::pi / 1.73205; // standard deviation of the law's bend over its width

} // namespace

double cathodeWatts(const ValveType& type, int section) {
    double all = 0;
    bool known = true;
    for (const TypeSection& s : type.halves) {
        all += std::sqrt(s.limits.plateWatts);
        known = known && s.limits.plateWatts > 0;
    }
    const double share =
        known ? std::sqrt(type.section(section).limits.plateWatts) / all : 1.0 / std::max(1, type.sections());
    return type.heater.volts * type.heater.amps * share;
}

double typicalGridPerveance(double gm) {
    return 1.9e-4 * std::sqrt(1e3 * gm);
}

circuit::GridLaw typicalGrid(const ValveType& type, int section, double perveance) {
    if (type.heater.directlyHeated)
        return {perveance, 0, std::hypot(coldWidth, type.heater.volts / std::sqrt(12.0) / logistic)};
    // Far below the onset the law is perveance (width exp((v - onset) / width))^1.5.
    const double atOnset = perveance * std::pow(coldWidth, 1.5);
    return {perveance,
            sheetVolts + coldWidth / 1.5 * std::log(atOnset / sheetAmps * sheetWatts / cathodeWatts(type, section)),
            coldWidth};
}

} // namespace ember
