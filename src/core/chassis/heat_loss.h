#pragma once
// What a chassis gives to the room: its plate above and below, the air shut in below it, iron's own surface.

#include "core/build/chassis.h"

namespace ember::chassis {

/// Emissivities, of typical tables: bare aluminium or copper as handled 0.1, bare steel 0.25, paint of any colour, wood
/// and varnish 0.9.
double emissivity(const Chassis& chassis);

/// Conductances per area and whole. Still air by McAdams (1954), laminar: Nu = 0.54 Ra^1/4 on a plate's upper face,
/// 0.27 on its lower one, 0.59 on an upright one, at 20 K of difference. Radiation 4 sigma T^3 times the emissivity,
/// outside alone: faces inside a box look at one another.
struct HeatLoss {
    double above = 0, below = 0; ///< of the plate to the air on that side [W/m2K]
    /// From the air shut in below to the room [W/K]; 0: it is open below. By a bottom of sheet, and by a frame's walls;
    /// a folded box's walls are as warm as its air.
    double box = 0;
    /// A folded box's walls as fins of the plate, cooled on their outer face [W/K for each metre of rim].
    double rim = 0;
    /// Equal where two chassis lose heat alike.
    bool operator==(const HeatLoss&) const = default;
    [[nodiscard]] double perArea(const Chassis& chassis) const; ///< of a plate that is evenly warm, to the room [W/m2K]
};
HeatLoss heatLossOf(const Chassis& chassis);

/// Of iron that stands free [W/m2K]: at 30 K, its warm neighbours taking half of what it radiates.
double ironFilm(IronFinish finish, const Chassis& chassis);

} // namespace ember::chassis
