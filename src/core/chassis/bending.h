#pragma once
// The top as a thin plate, simply supported on its rim, under the weight of its parts.

#include "assembly.h"

namespace ember::chassis {

inline constexpr double gravity = 9.81; ///< [m/s2]

/// A weight spread evenly over a rectangle of the top.
struct PlateLoad {
    Footprint over;
    double newtons = 0;
};

struct Bending {
    int columns = 0, rows = 0;
    std::vector<double> sag;               ///< [m] downward, at points evenly spread with the rim, row by row
    double most = 0, mostX = 0, mostY = 0; ///< largest sag and where [m]
    double stress = 0;                     ///< largest bending stress [Pa]
};

/// Navier's double sine series (Timoshenko and Woinowsky-Krieger 1959, art. 27 to 32), 31 x 31 terms, w in
/// D = E t^3 / 12 (1 - nu^2); stress 6 M / t^2 from the larger principal direction's moment. Small deflections: true
/// while the sag is below the thickness. The plate's own weight is included when `ownWeight`.
Bending bend(const Chassis& chassis, const std::vector<PlateLoad>& loads, double factor = 1, bool ownWeight = true);

} // namespace ember::chassis
