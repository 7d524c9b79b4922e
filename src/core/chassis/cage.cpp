#include "cage.h"

#include <algorithm>

namespace ember::chassis {

double cageHeight(const Chassis& c, const Assembly& assembly) {
    if (c.cover != Cover::Cage) return 0;
    double tallest = 0;
    for (const PlacedBody& b : assembly.bodies)
        if (c.parts[b.part].face == Face::Top) tallest = std::max(tallest, b.solid.highest());
    return tallest + cageAbove;
}

double cageMass(const Chassis& c, double height) {
    constexpr double sheet = 1e-3, steel = 7850; // [m, kg/m3]
    const double wide = c.width - 2 * cageMargin, deep = c.depth - 2 * cageMargin;
    const double area = wide * deep + 2 * (wide + deep) * height;
    return height > 0 ? area * sheet * steel * cageBar / cagePitch * 2 : 0; // bars and as much of frame and folds
}

} // namespace ember::chassis
