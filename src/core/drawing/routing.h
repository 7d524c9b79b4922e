#pragma once
// Wires on the grid between the pins of elements that have their places.

#include "symbols.h"

#include <optional>

namespace ember::drawing {

/// What stands where: in grid steps.
struct Site {
    const Element* element = nullptr;
    GridPoint axis;
};

struct Routed {
    std::vector<Wire> wires; ///< in grid steps
    std::vector<Point> dots;
    int crossings = 0, length = 0;
};

/// Every net's pins joined by wires that pass no box, lie on no other wire and cross others squarely; three wires at a
/// dot at most. The short nets first, each pin by the way with the fewest steps, bends and crossings; then each net is
/// laid once more with all others in place. Nothing: there was no room, and `crowded` says where (in grid steps).
std::optional<Routed> route(const std::vector<Site>& sites, int width, int height, GridPoint& crowded);

} // namespace ember::drawing
