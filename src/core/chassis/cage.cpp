#include "cage.h"

#include "fit.h"

#include <algorithm>

namespace ember::chassis {

double cageHeight(const Chassis& c, const Assembly& assembly) {
    if (c.cover != Cover::Cage) return 0;
    double tallest = 0;
    for (const PlacedBody& b : assembly.bodies)
        if (c.parts[b.part].face == Face::Top) tallest = std::max(tallest, b.solid.highest());
    return tallest + cageAbove;
}

std::optional<CoverSize> coverNeeded(const Chassis& c, const Assembly& assembly) {
    CoverSize out;
    double left = 1e9, right = -1e9, near = 1e9, far = -1e9;
    for (std::size_t k = 0; k < c.parts.size(); ++k) {
        const PlacedPart& p = c.parts[k];
        if (!carriesMains(p) && (!isPlate(p.face) || !isLive(p))) continue;
        ++out.parts;
        out.mains = out.mains || carriesMains(p);
        for (const std::size_t b : assembly.of[k]) {
            const Solid& s = assembly.bodies[b].solid;
            left = std::min(left, s.support(-Vector::UnitX()).x()),
            right = std::max(right, s.support(Vector::UnitX()).x());
            near = std::min(near, s.support(-Vector::UnitY()).y()), far = std::max(far, s.support(Vector::UnitY()).y());
            out.height = std::max(out.height, s.highest() + cageAbove);
        }
    }
    if (out.parts == 0) return std::nullopt;
    out.width = std::min(c.width, right - left + 2 * coverAround);
    out.depth = std::min(c.depth, far - near + 2 * coverAround);
    return out;
}

double cageMass(const Chassis& c, double height) {
    constexpr double sheet = 1e-3, steel = 7850; // [m, kg/m3]
    const double wide = c.width - 2 * cageMargin, deep = c.depth - 2 * cageMargin;
    const double area = wide * deep + 2 * (wide + deep) * height;
    return height > 0 ? area * sheet * steel * cageBar / cagePitch * 2 : 0; // bars and as much of frame and folds
}

} // namespace ember::chassis
