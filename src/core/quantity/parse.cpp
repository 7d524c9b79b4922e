#include "quantity.h"

#include <fmt/format.h>

#include <array>
#include <cctype>
#include <charconv>
#include <cmath>
#include <optional>
#include <vector>

namespace ember {

namespace {

struct UnitText {
    Unit unit;
    std::string_view symbol, word;
    std::vector<std::string_view> spellings; ///< accepted after a number, longest first
};

const std::vector<UnitText>& unitTexts() {
    static const std::vector<UnitText> all{
        {Unit::None, "", "a plain number", {}},
        {Unit::Volt, "V", "volts", {"volts", "volt", "V", "v"}},
        {Unit::Ampere, "A", "amperes", {"amps", "amp", "A"}},
        {Unit::Ohm, "Ω", "ohms", {"ohms", "ohm", "Ohm", "Ω", "\u2126", "R", "r"}},
        {Unit::Farad, "F", "farads", {"farad", "F"}},
        {Unit::Henry, "H", "henries", {"henry", "H"}},
        {Unit::Watt, "W", "watts", {"watts", "watt", "W", "w"}},
        {Unit::Hertz, "Hz", "hertz", {"Hz", "hz", "HZ"}},
        {Unit::Second, "s", "seconds", {"seconds", "sec", "s"}},
        {Unit::Decibel, "dB", "decibels", {"dB", "db"}},
        {Unit::Kelvin, "K", "kelvin", {"K"}},
        {Unit::Percent, "%", "percent", {"%"}},
        {Unit::Metre, "m", "metres", {"m"}},
    };
    return all;
}

const UnitText& textOf(Unit unit) {
    return unitTexts()[static_cast<std::size_t>(unit)];
}

struct Prefix {
    std::string_view text;
    int exponent;
};
constexpr std::array<Prefix, 10> prefixes{
    {{"p", -12}, {"n", -9}, {"u", -6}, {"µ", -6}, {"\u03bc", -6}, {"m", -3}, {"k", 3}, {"K", 3}, {"M", 6}, {"G", 9}}};

bool isDigit(char c) {
    return c >= '0' && c <= '9';
}

std::string_view trim(std::string_view s) {
    while (!s.empty() && std::isspace(static_cast<unsigned char>(s.front()))) s.remove_prefix(1);
    while (!s.empty() && std::isspace(static_cast<unsigned char>(s.back()))) s.remove_suffix(1);
    return s;
}

std::string_view takeDigits(std::string_view& s) {
    std::size_t n = 0;
    while (n < s.size() && isDigit(s[n])) ++n;
    const auto digits = s.substr(0, n);
    s.remove_prefix(n);
    return digits;
}

bool take(std::string_view& s, std::string_view what) {
    if (what.empty() || s.substr(0, what.size()) != what) return false;
    s.remove_prefix(what.size());
    return true;
}

std::optional<int> takePrefix(std::string_view& s, Unit unit) {
    for (const Prefix& p : prefixes) {
        auto rest = s;
        if (!take(rest, p.text)) continue;
        // "m" alone after a length, "K" after a temperature: the unit itself, no prefix.
        if (unit == Unit::Metre && p.text == "m" && rest.empty()) return std::nullopt;
        if (unit == Unit::Kelvin && p.text == "K") return std::nullopt;
        if (unit == Unit::None && p.text == "K") continue;
        s = rest;
        return p.exponent;
    }
    return std::nullopt;
}

bool takeUnit(std::string_view& s, Unit unit) {
    for (const auto spelling : textOf(unit).spellings)
        if (take(s, spelling)) return true;
    return false;
}

std::optional<double> toDouble(const std::string& digits) {
    double value = 0;
    const auto [end, error] = std::from_chars(digits.data(), digits.data() + digits.size(), value);
    if (error != std::errc() || end != digits.data() + digits.size() || !std::isfinite(value)) return std::nullopt;
    return value;
}

/// Reads one number and keeps its decimal text, so that a prefix becomes an exponent and nothing is rounded twice.
class Reader {
  public:
    Reader(std::string_view text, Unit wanted) : whole(trim(text)), rest(whole), unit(wanted) {}

    Expected<double> read() {
        if (whole.empty()) return fail("nothing is written here");
        if (whole.size() > 64) return Problem{"", "this is too long for a number"};
        if (take(rest, "-") || take(rest, "\u2212"))
            sign = "-";
        else
            take(rest, "+");
        rest = trim(rest);
        const auto integer = takeDigits(rest);
        if (!rest.empty() && rest[0] == '/' && !integer.empty()) return fraction(integer);
        std::string decimals;
        bool point = false;
        if (!rest.empty() && (rest[0] == '.' || rest[0] == ',')) {
            const char mark = rest[0];
            rest.remove_prefix(1);
            decimals = takeDigits(rest);
            point = true;
            if (!rest.empty() && (rest[0] == '.' || rest[0] == ','))
                return Problem{"",
                               fmt::format("\"{}\" has more than one point or comma; write one, as in 1234.5", whole)};
            if (mark == ',' && decimals.size() == 3 && !integer.empty() && integer != "0")
                return Problem{"",
                               fmt::format("\"{}\" could be {}.{} or {}{}; write it with a point, or without the comma",
                                           whole, integer, decimals, integer, decimals)};
        }
        if (integer.empty() && decimals.empty()) return fail("no digits were found");
        mantissa = sign + (integer.empty() ? "0" : std::string(integer)) + "." + (decimals.empty() ? "0" : decimals);
        if (!rest.empty() && (rest[0] == 'e' || rest[0] == 'E')) {
            auto after = rest.substr(1);
            std::string power = take(after, "-") ? "-" : (take(after, "+") ? "" : "");
            const auto digits = takeDigits(after);
            if (!digits.empty() && digits.size() <= 3) {
                exponent = std::stoi(power + std::string(digits));
                rest = after;
            }
        }
        if (!point && exponent == 0 && !integer.empty())
            if (auto infix = readInfix(integer)) return *infix;
        return suffix();
    }

  private:
    [[nodiscard]] Problem fail(std::string_view why) const {
        static constexpr std::array<std::string_view, 13> examples{"12",
                                                                   "6.3 V or 6V3",
                                                                   "330 mA",
                                                                   "4k7 or 4.7 kΩ",
                                                                   "33u or 0.1 µF",
                                                                   "8 H or 350 mH",
                                                                   "1/2 W or 2.5 W",
                                                                   "50 Hz or 1k",
                                                                   "20 s or 50 ms",
                                                                   "-3 dB",
                                                                   "2700 K",
                                                                   "5 %",
                                                                   "120 mm"};
        return Problem{"", fmt::format("\"{}\" was not understood as {}: {}; write it like {}", whole.substr(0, 24),
                                       word(unit), why, examples[static_cast<std::size_t>(unit)])};
    }

    /// 4k7, 2M2, 4R7, 6V3: a prefix or a unit in the place of the point.
    std::optional<Expected<double>> readInfix(std::string_view integer) {
        auto s = rest;
        int power = 0;
        if (const auto p = takePrefix(s, unit))
            power = *p;
        else if (!takeUnit(s, unit))
            return std::nullopt;
        const auto decimals = takeDigits(s);
        if (decimals.empty()) return std::nullopt;
        s = trim(s);
        takeUnit(s, unit);
        if (!s.empty()) return Expected<double>(fail(fmt::format("\"{}\" was left over", s)));
        if (auto p = oldMilli(power)) return Expected<double>(*p);
        return finish(sign + std::string(integer) + "." + std::string(decimals), power);
    }

    Expected<double> suffix() {
        rest = trim(rest);
        int power = exponent;
        if (const auto p = takePrefix(rest, unit)) {
            if (auto problem = oldMilli(*p)) return *problem;
            power += *p;
            rest = trim(rest);
        }
        takeUnit(rest, unit);
        if (!trim(rest).empty()) return fail(fmt::format("\"{}\" was left over", trim(rest)));
        return finish(mantissa, power);
    }

    Expected<double> fraction(std::string_view numerator) {
        rest.remove_prefix(1);
        const auto denominator = takeDigits(rest);
        const auto a = toDouble(sign + std::string(numerator)), b = toDouble(std::string(denominator));
        rest = trim(rest);
        takeUnit(rest, unit);
        if (!a || !b || *b == 0 || !trim(rest).empty()) return fail("the fraction is not whole");
        return *a / *b;
    }

    /// Old drawings write mF for microfarad.
    std::optional<Problem> oldMilli(int power) const {
        if (unit != Unit::Farad || power != -3) return std::nullopt;
        return Problem{
            "", fmt::format(
                    "\"{}\" could be microfarads in old writing or thousandths of a farad; write it with u, as in 47u",
                    whole)};
    }

    [[nodiscard]] Expected<double> finish(const std::string& decimal, int power) const {
        const auto value = toDouble(fmt::format("{}e{}", decimal, power));
        if (!value) return fail("it is larger than any number used here");
        return *value;
    }

    std::string_view whole, rest;
    Unit unit;
    std::string sign, mantissa;
    int exponent = 0;
};

} // namespace

std::string_view symbol(Unit unit) {
    return textOf(unit).symbol;
}
std::string_view word(Unit unit) {
    return textOf(unit).word;
}

Expected<double> parseQuantity(std::string_view text, Unit unit) {
    return Reader(text, unit).read();
}

Expected<double> checkWithin(double value, Unit unit, Range range) {
    if (!std::isfinite(value)) return Problem{"", "this is not a number"};
    if (value < range.least || value > range.most)
        return Problem{"", fmt::format("{} is outside what makes sense here, {} to {}", formatExact(value, unit),
                                       formatExact(range.least, unit), formatExact(range.most, unit))};
    return value;
}

Expected<double> parseWithin(std::string_view text, Unit unit, Range range) {
    auto value = parseQuantity(text, unit);
    return value ? checkWithin(*value, unit, range) : value;
}

} // namespace ember
