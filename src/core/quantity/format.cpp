#include "quantity.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>

namespace ember {

namespace {

constexpr std::array<std::string_view, 8> prefixByThousand{"p", "n", "µ", "m", "", "k", "M", "G"};

/// Units that people never write with a prefix here.
bool plain(Unit unit) {
    return unit == Unit::None || unit == Unit::Decibel || unit == Unit::Kelvin || unit == Unit::Percent;
}

std::string_view prefixFor(int thousands) {
    return prefixByThousand[static_cast<std::size_t>(thousands + 4)];
}

std::string join(const std::string& number, std::string_view prefix, Unit unit) {
    if (symbol(unit).empty()) return number + std::string(prefix);
    return fmt::format("{} {}{}", number, prefix, symbol(unit));
}

} // namespace

std::string format(double value, Unit unit, int digits) {
    if (!std::isfinite(value)) return "-";
    if (value == 0) return join("0", "", unit);
    int power = static_cast<int>(std::floor(std::log10(std::abs(value))));
    if (std::abs(value) >= std::pow(10.0, power + 1) * (1 - 0.5 * std::pow(10.0, -digits))) ++power; // 999.9 -> 1000
    int thousands = plain(unit) ? 0 : static_cast<int>(std::floor(power / 3.0));
    thousands = std::clamp(thousands, -4, 3);
    const double scaled = value / std::pow(10.0, 3 * thousands);
    const int decimals = std::clamp(digits - 1 - (power - 3 * thousands), 0, 9);
    return join(fmt::format("{:.{}f}", scaled, decimals), prefixFor(thousands), unit);
}

std::string formatExact(double value, Unit unit) {
    if (!std::isfinite(value)) return "-";
    if (value == 0) return join("0", "", unit);
    // Shortest digits that give this double, then only the point is moved: nothing is rounded.
    std::string shortest = fmt::format("{}", value);
    for (int digits = 0; digits <= 17; ++digits) {
        shortest = fmt::format("{:.{}e}", value, digits);
        double read = 0; // std::stod would throw at a subnormal number
        std::from_chars(shortest.data(), shortest.data() + shortest.size(), read);
        if (read == value) break;
    }
    const auto e = shortest.find('e');
    const int power = std::stoi(shortest.substr(e + 1));
    std::string sign = shortest[0] == '-' ? "-" : "";
    std::string digits;
    for (const char c : shortest.substr(0, e))
        if (c >= '0' && c <= '9') digits += c;
    if (plain(unit) && (power < -6 || power > 9)) return join(shortest, "", unit);
    if (power < -12 || power >= 12) return join(shortest, "", unit);
    int thousands = plain(unit) ? 0 : static_cast<int>(std::floor(power / 3.0));
    if (unit == Unit::Farad && thousands == -1) thousands = -2; // 10000 µF: mF is read two ways
    const int point = power - 3 * thousands + 1;                // digits before the point
    if (point <= 0) digits.insert(0, static_cast<std::size_t>(1 - point), '0');
    const auto before = static_cast<std::size_t>(std::max(1, point));
    while (digits.size() < before) digits += '0';
    std::string number = digits.substr(0, before);
    if (digits.size() > before) number += "." + digits.substr(before);
    return join(sign + number, prefixFor(thousands), unit);
}

} // namespace ember
