#pragma once
// A chassis in three dimensions: every part's bodies as solids, faces as frames.

#include "solid.h"

#include "core/build/chassis.h"

#include <vector>

namespace ember::chassis {

/// Where a face lies: origin at its lower left corner seen from outside, x to the right, y up (to the back on plates),
/// z outward. Chassis coordinates: x right, y back, z up; z = 0 is the outer side of the top. A bench
/// board's walls stand on it, those of other chassis hang from it. Lower faces lie `lowerBy` below the upper ones.
struct Frame {
    Vector origin;
    Eigen::Matrix3d axes;
    double width, height; ///< of the face [m]
};
Frame frameOf(const Chassis& chassis, Face face);

inline constexpr double underSpacers = 4e-3; ///< between a bench board and what hangs lowest from a part on spacers [m]
/// How far a part's mounting plane lies below its face [m]: its recess. On a bench board it stands on spacers instead,
/// in steps of 5 mm, as high above the wood as what it has below needs: the result is negative, or 0.
double sunkBy(const Chassis& chassis, const PlacedPart& part);
/// Where a body of a part begins, from the part's mounting plane [m]: leads lie on a bench board's wood, beside the
/// iron that they come from.
double bottomOf(const Chassis& chassis, const PlacedPart& part, const Body& body);
/// Whether a hole of a part is made in its face: into a bench board go the screws alone.
bool isMade(const Chassis& chassis, const PlacedPart& part, const Hole& hole);
/// A hole for a bolt of M3 to M5, which somebody must turn.
bool isBolt(const Hole& hole);

/// Whether whoever wires it looks at its underside; a bench board is wired from above.
inline bool wiredFromBelow(const Chassis& c) {
    return c.form != ChassisForm::Board;
}

/// Whether a second chassis stands below.
bool isTower(const Chassis& c);
/// From the upper chassis' top to the lower one's [m].
inline double lowerBy(const Chassis& c) {
    return c.height + c.storey;
}
/// Height of a face's plate, or of the plate that a wall belongs to [m]: 0, or below it.
inline double plateHeight(const Chassis& c, Face face) {
    return isLower(face) ? -lowerBy(c) : 0;
}

/// How far a chassis, or one of a tower's two, reaches below its top [m]: its walls, a bench board's wood.
inline double wallsBelow(const Chassis& c) {
    return c.form == ChassisForm::Board ? c.thickness : c.height;
}
/// How far all of it reaches below the upper top [m].
inline double depthBelow(const Chassis& c) {
    return (isTower(c) ? lowerBy(c) : 0) + wallsBelow(c);
}

/// Where wires meet a plate [m]: the metal's inner side, a bench board's upper one.
inline double innerSide(const Chassis& c, Face face) {
    return plateHeight(c, face) - (c.form == ChassisForm::Board ? 0 : c.thickness);
}

/// Unit vectors of a part's own directions and its origin, in chassis coordinates.
Frame frameOf(const Chassis& chassis, const PlacedPart& part);

/// Transformers and chokes.
inline bool isIron(const PlacedPart& p) {
    return p.kind == "transformer" || p.kind == "choke";
}

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
