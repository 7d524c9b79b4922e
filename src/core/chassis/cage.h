#pragma once
// The cage over the top's parts: how large it is, and what it weighs.

#include "assembly.h"

#include <optional>

namespace ember::chassis {

inline constexpr double cageMargin = 4e-3; ///< from the top's edges [m]
inline constexpr double cageAbove = 15e-3; ///< over the tallest part: its hot glass keeps clear of the metal [m]
inline constexpr double cagePitch = 9e-3;  ///< of its bars [m]: no finger reaches through (IEC 60529, 12 mm)
inline constexpr double cageBar = 2e-3;    ///< width of a bar [m]

/// Height over the top [m]; 0 where the chassis has none.
double cageHeight(const Chassis& chassis, const Assembly& assembly);
/// The least box over everything on the top that may carry high voltage and over the mains' lugs, with room around for
/// hot glass and hands as far as the top reaches.
struct CoverSize {
    int parts = 0;                           ///< that it covers
    bool mains = false;                      ///< the mains' lugs among them
    double width = 0, depth = 0, height = 0; ///< [m]
};
inline constexpr double coverAround = 25e-3; ///< beyond the outermost of them [m]
/// Empty where nothing does.
std::optional<CoverSize> coverNeeded(const Chassis& chassis, const Assembly& assembly);
/// Steel sheet of 1 mm with the openings between its bars taken out [kg].
double cageMass(const Chassis& chassis, double height);

} // namespace ember::chassis
