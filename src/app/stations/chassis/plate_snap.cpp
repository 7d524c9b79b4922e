// Where a dragged part comes to rest: on the grid, in line with others, edge to edge, or in equal steps.
#include "plate_view.h"

#include <algorithm>
#include <cmath>

namespace ember::app {

using namespace chassis;

namespace {

constexpr double pullOf = 2e-3; // [m] how near a line must be to draw a part to it

struct Rest {
    double place; ///< where the part's origin would be [m]
    double guide; ///< where the line is drawn [m]
};

/// Along one direction: `low` and `high` are a part's edges from its own place.
struct Extent {
    double place, low, high;
};

void lines(const Extent& mine, const std::vector<Extent>& others, double middle, std::vector<Rest>& out) {
    out.push_back({middle, middle});
    for (const Extent& o : others) {
        out.push_back({o.place, o.place});
        out.push_back({o.low - mine.low, o.low});
        out.push_back({o.high - mine.high, o.high});
    }
    // Equal steps: between two, or as far beyond one as it is from the other.
    for (const Extent& a : others)
        for (const Extent& b : others) {
            if (&a == &b) continue;
            const double between = (a.place + b.place) / 2, beyond = 2 * b.place - a.place;
            if (&a < &b) out.push_back({between, between});
            out.push_back({beyond, beyond});
        }
}

double pulled(double wanted, const std::vector<Rest>& to, std::vector<double>& guides) {
    const Rest* best = nullptr;
    for (const Rest& l : to)
        if (std::abs(l.place - wanted) < (best ? std::abs(best->place - wanted) - 1e-6 : pullOf)) best = &l;
    if (!best) return wanted;
    guides.push_back(best->guide);
    return best->place;
}

} // namespace

QPointF PlateView::snapped(std::size_t part, QPointF wanted) {
    guidesX.clear();
    guidesY.clear();
    if (grid > 0) wanted = {std::round(wanted.x() / grid) * grid, std::round(wanted.y() / grid) * grid};
    const Frame f = frameOf(working.chassis, looking.face);
    std::vector<Extent> xs, ys;
    for (std::size_t k = 0; k < working.chassis.parts.size(); ++k) {
        const PlacedPart& p = working.chassis.parts[k];
        if (k == part || p.face != looking.face || std::find(selected.begin(), selected.end(), k) != selected.end())
            continue;
        // Steps are equal within a row or a column, so that only those count.
        const Footprint o = footprint(p);
        xs.push_back({p.x, o.left, o.right});
        ys.push_back({p.y, o.near, o.far});
    }
    const PlacedPart& mine = working.chassis.parts[part];
    const Footprint own = footprint(mine);
    std::vector<Rest> alongX, alongY;
    lines({0, own.left - mine.x, own.right - mine.x}, xs, f.width / 2, alongX);
    lines({0, own.near - mine.y, own.far - mine.y}, ys, f.height / 2, alongY);
    return {pulled(wanted.x(), alongX, guidesX), pulled(wanted.y(), alongY, guidesY)};
}

} // namespace ember::app
