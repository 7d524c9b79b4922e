#pragma once
// The points of the return network: pins of the net "ground" that are one lug, because they stand together.

#include "terminals.h"

#include "core/build/wiring.h"

namespace ember::wires {

/// What returns there.
enum class Returns { Winding, Reservoir, Stage, Jack, Output, Bias, BiasWinding, HeaterReference };

struct GroundPoint {
    std::string name; ///< of its first terminal: "c1.-"
    Returns what = Returns::Stage;
    std::vector<schematic::PinId> pins;
    std::size_t spot = 0;
    Vector at = Vector::Zero();
    int node = 0;        ///< supply node of what returns there; 0: none
    std::string channel; ///< that it serves; empty: the supply
    int joined = 0;      ///< of a board that is laid out: Terminal::joined
};
/// A placed part's pins are points of their own; small parts on a board or at a socket that hang on the same supply
/// node and channel share one. What stands at a supply capacitor joins its point.
std::vector<GroundPoint> groundPoints(const Build& build, const Terminals& terminals);

/// Indices of two points that a scheme joins by a wire; -1: the chassis.
struct GroundJoin {
    int from = -1, to = -1;
};
/// The scheme of `build.wiring`; the bond and the jacks' sleeves, where they touch the chassis, too.
std::vector<GroundJoin> groundJoins(const Build& build, const Terminals& terminals,
                                    const std::vector<GroundPoint>& points);

} // namespace ember::wires
