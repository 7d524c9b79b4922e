#include "tower.h"

#include "finishes.h"
#include "fit.h"

#include <algorithm>
#include <cmath>

namespace ember::chassis {

namespace {

constexpr double headRoom = 8e-3; // [m] of nut and washers on either plate

/// From the edges of a plate to a pillar's middle [m]: its hole keeps what every hole keeps, its tube clears the wall.
double insetOf(const Chassis& c) {
    const double wall = c.form == ChassisForm::Frame ? frameBoard : c.thickness + c.bendRadius;
    return std::max(edgeRoom(c, Face::Top) + pillarHole / 2, wall + pillarDiameter / 2 + 1e-3);
}

} // namespace

bool canBeTower(const Chassis& c) {
    return c.form == ChassisForm::Box || c.form == ChassisForm::Frame;
}

std::vector<Pillar> pillarsOf(const Chassis& c) {
    if (!isTower(c)) return {};
    const double in = insetOf(c);
    return {{in, in}, {c.width - in, in}, {in, c.depth - in}, {c.width - in, c.depth - in}};
}

double pillarLength(const Chassis& c) {
    return lowerBy(c) - c.thickness;
}

Solid pillarSolid(const Chassis& c, const Pillar& pillar) {
    Solid s;
    s.cylinder = true;
    s.centre = {pillar.x, pillar.y, -lowerBy(c) / 2};
    s.half = {pillarDiameter / 2, pillarDiameter / 2, lowerBy(c) / 2 + headRoom};
    return s;
}

double pillarReach(const Chassis& c) {
    return insetOf(c) + pillarDiameter / 2 + aroundPillar;
}

double leastStorey(const Chassis& c) {
    constexpr double over = 5e-3, step = 5e-3;
    double most = 0;
    const Assembly assembly = assemble(c);
    for (const PlacedBody& b : assembly.bodies) {
        const PlacedPart& p = c.parts[b.part];
        if (!isLower(p.face)) continue;
        const double top = b.solid.highest() - plateHeight(c, p.face);
        if (top > 0) most = std::max(most, top + std::max(over, drawRoom(p)));
    }
    return step * std::ceil(most / step - 1e-9);
}

} // namespace ember::chassis
