#pragma once
// Numbers as builders write them: 4k7, 4.7 kΩ, 33u, 0.1 µF, 2M2, 6.3V, 6V3, 1e-6, 1/2 W; point or comma.

#include "core/base/result.h"
#include "unit.h"

#include <string>
#include <string_view>

namespace ember {

/// Reads `text` as a number in `unit`. Case matters only where it must (m and M). What could mean two things is
/// refused with a sentence that says which two: "1,000", "10 mF".
Expected<double> parseQuantity(std::string_view text, Unit unit);

/// Inclusive plausible limits, and a name for the sentence.
struct Range {
    double least, most;
};

/// parseQuantity, and a sentence when the value is outside `range`.
Expected<double> parseWithin(std::string_view text, Unit unit, Range range);
Expected<double> checkWithin(double value, Unit unit, Range range);

/// For reading: `digits` significant figures and a prefix, "4.70 kΩ", "313 V", "0.330 A" as "330 mA". Not a number:
/// "-".
std::string format(double value, Unit unit, int digits = 3);
/// For fields and files read by people: the shortest text that parses back to exactly this value, "4.7 kΩ".
std::string formatExact(double value, Unit unit);

/// The least usual rating of a resistor that carries `used` [W] at half of it, as inside a chassis; 100 W at most.
double nextWatts(double used);

/// Preferred values of IEC 60063.
enum class Series { E6 = 6, E12 = 12, E24 = 24, E96 = 96 };
/// Nearest by ratio; `value` > 0.
double nearest(double value, Series series);
/// The smallest member above `value` / the largest below (a member's own neighbour, not itself).
double nextUp(double value, Series series);
double nextDown(double value, Series series);

} // namespace ember
