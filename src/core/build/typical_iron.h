#pragma once
// Iron by class: what a nameplate leaves out, as is usual of such iron.

#include "build.h"

#include <array>
#include <optional>
#include <string_view>

namespace ember {

/// How an output transformer is wound: few sections as in radios; several; many on a large core.
enum class IronClass { Plain, Sectioned, Wide };
inline constexpr std::array<std::string_view, 3> ironClassNames{"few sections, as in radios", "several sections",
                                                                "many sections, a large core"};

/// What stands on the plate stays (watts, lowest frequency, impedances, direct current of the gap, screen tap); a
/// lowest frequency that is not known becomes 40 Hz. The rest is typical of the class, a choice from catalogues of such
/// iron: reactance of the primary over its impedance at the lowest frequency 1, 1.3, 2 (gapped 0.6, 0.7, 1); leakage
/// that takes as much as the load from 25, 55, 110 kHz on; winding capacitance of 100, 140, 250 pF times
/// (watts / 10)^(1/3); copper, half of it in the primary, of 9 % (watts / 15)^(-1/4) of the impedances, 4 to 15 %, the
/// outer half's 8 % more than the inner's; 5, 3, 2 % of the watts lost in the core.
OutputTransformer typicalIron(OutputTransformer nameplate, IronClass of);

/// The class whose typical values these are, all of them; none: it has values of its own.
std::optional<IronClass> typicalOf(const OutputTransformer& transformer);

/// A choke as it begins in a supply: 10 H at 100 mA, copper of 15 ohm a henry.
Section typicalChoke();
/// Whether this one's values are those; whether a power transformer's copper and inductance are a fresh one's.
bool isTypical(const Section& choke);
bool isTypical(const PowerTransformer& transformer);

/// How far real iron of a class is from its typical values (shares): nineteen of twenty are within.
struct IronSpread {
    double inductance = 0.5, leakage = 0.4, capacitance = 0.5, copper = 0.3, loss = 0.5;
};

} // namespace ember
