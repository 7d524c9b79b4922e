#pragma once
// A wanted value from what is in hand: resistors, capacitors, zener diodes in series and parallel.

#include "core/base/result.h"

#include <string>
#include <string_view>
#include <vector>

namespace ember {

enum class HandKind { Resistor, Capacitor, Zener };

struct InHand {
    double value = 0;  ///< [ohm, F or V]
    double rating = 0; ///< [W] of a resistor or zener, [V] of a capacitor; 0: not known
    int count = 1;
};

/// "2x 1k5 2W, 4k7 5W, 100k": comma or line between kinds, `NUMBERx` before, a rating after. A Problem says what was
/// not understood.
Expected<std::vector<InHand>> readHand(std::string_view text, HandKind kind);

struct Combination {
    std::string words; ///< "(1.5 kΩ + 1.5 kΩ) || 4.7 kΩ"
    double value = 0;
    double error = 0;  ///< value / wanted - 1
    int count = 0;     ///< parts used
    double stress = 0; ///< the worst part's share of its rating; 0 where none is known
};

/// The best of every arrangement of up to `most` parts, by error in steps of 1 %, then stress beyond one half, then
/// count. `load`: total watts of resistors or zeners [W], total volts of capacitors [V]. In a string of zeners volts
/// add; capacitors in series share volts as their values divide them, which needs balancing resistors.
std::vector<Combination> combine(const std::vector<InHand>& hand, HandKind kind, double wanted, double load,
                                 int most = 4, std::size_t best = 8);

} // namespace ember
