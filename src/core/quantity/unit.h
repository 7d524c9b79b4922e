#pragma once
#include <string_view>

namespace ember {

/// What a number is measured in. The numbers themselves are SI everywhere; only text has prefixes.
enum class Unit { None, Volt, Ampere, Ohm, Farad, Henry, Watt, Hertz, Second, Decibel, Kelvin, Percent, Metre };

/// Symbol as printed, such as "Ω"; empty for Unit::None.
std::string_view symbol(Unit unit);
/// The word for a sentence, such as "ohms".
std::string_view word(Unit unit);

} // namespace ember
