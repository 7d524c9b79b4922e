#pragma once
// A chassis in three dimensions: every part's bodies as solids, faces as frames.

#include "solid.h"

#include "core/build/chassis.h"

#include <vector>

namespace ember::chassis {

/// Where a face lies: origin at its lower left corner seen from outside, x to the right, y up (to the back on the top),
/// z outward. Chassis coordinates: x right, y back, z up; z = 0 is the outer side of the top.
struct Frame {
    Vector origin;
    Eigen::Matrix3d axes;
    double width, height; ///< of the face [m]
};
Frame frameOf(const Chassis& chassis, Face face);

/// Unit vectors of a part's own directions and its origin, in chassis coordinates.
Frame frameOf(const Chassis& chassis, const PlacedPart& part);

struct PlacedBody {
    std::size_t part = 0, body = 0;
    Solid solid;
    bool outside = true; ///< its middle is outside the chassis
};

struct Assembly {
    std::vector<PlacedBody> bodies;
    std::vector<Vector> centres;              ///< per part: centre of its bodies' volume
    std::vector<std::vector<std::size_t>> of; ///< per part: indices in `bodies`
};
Assembly assemble(const Chassis& chassis);

/// A part's own point (x, y, z) in chassis coordinates.
Vector toChassis(const Frame& part, double x, double y, double z);

/// A rectangle around what a part covers on its face, in the face's coordinates.
struct Footprint {
    double left = 0, right = 0, near = 0, far = 0;
    [[nodiscard]] double area() const { return (right - left) * (far - near); }
};
Footprint footprint(const PlacedPart& part);
/// The same where its origin and angle are others.
Footprint footprint(const PlacedPart& part, double x, double y, double angle);

} // namespace ember::chassis
