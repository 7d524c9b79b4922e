#pragma once
// Two chassis of one size, one above the other: the supply below, the channels above.

#include "assembly.h"

namespace ember::chassis {

/// A tube round a length of M5 studding, from the lower plate up to the upper one, at each corner; both plates have a
/// hole for it.
struct Pillar {
    double x = 0, y = 0; ///< on either plate [m]
};
/// Empty where there is one chassis.
std::vector<Pillar> pillarsOf(const Chassis& chassis);
inline constexpr double pillarDiameter = 10e-3; ///< of the tube [m]
inline constexpr double pillarHole = 5.3e-3;    ///< for M5, ISO 273 fine [m]
double pillarLength(const Chassis& chassis);    ///< of the tube [m]
/// The tube, with what is screwed on above and below.
Solid pillarSolid(const Chassis& chassis, const Pillar& pillar);
/// From the edges of a plate to where a pillar ends [m]: parts at a corner keep from it.
double pillarReach(const Chassis& chassis);

/// Whether this form can have a second chassis below: one with walls, which the plates rest on.
bool canBeTower(const Chassis& chassis);

/// What stands highest on the lower plate with 5 mm over it, or with the room to draw its valve, whichever is more, in
/// steps of 5 mm [m]; 0 where nothing does.
double leastStorey(const Chassis& chassis);

} // namespace ember::chassis
