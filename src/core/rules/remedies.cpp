#include "remedies.h"

#include "core/build/structure.h"
#include "core/quantity/quantity.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace ember::rules {

double limitingVolts(double watts) {
    return watts < 0.4 ? 250 : watts < 0.9 ? 350 : 500;
}

std::optional<double> nextVolts(double most) {
    for (const double rating : {16.0, 25.0, 50.0, 63.0, 100.0, 160.0, 250.0, 350.0, 400.0, 450.0, 500.0, 600.0})
        if (rating >= most / 0.9) return rating;
    return std::nullopt;
}

Edit addBleeder(const Build& b, double ohms, double volts, int node) {
    constexpr double body = 500; // [V] of resistors of a watt and more
    Bleeder bleeder;
    bleeder.node = node;
    bleeder.inSeries = std::clamp(static_cast<int>(std::ceil(volts / body)), 1, 8);
    ResistorPart& r = bleeder.resistor;
    r.id = freshId(b, "rb1");
    r.resistance = nextDown(ohms / bleeder.inSeries, Series::E12);
    const double each = volts / bleeder.inSeries;
    r.watts = std::max(1.0, nextWatts(each * each / r.resistance));
    const std::string one = fmt::format("{}, {}", formatExact(r.resistance, Unit::Ohm), format(r.watts, Unit::Watt));
    return insertAt(bleeder.inSeries == 1 ? "add a bleeder of " + one
                                          : fmt::format("add a bleeder of {} times {}", bleeder.inSeries, one),
                    "/supply/bleeders/-", bleeder);
}

} // namespace ember::rules
