// Ways that a wire cannot take: over a bend, beyond the walls, through the plate where there is no hole.
#include "findings.h"

#include "core/chassis/layout_edits.h"
#include "core/quantity/letters.h"
#include "core/wires/hum.h"
#include "core/wires/wire_path.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <set>

namespace ember::rules {

using namespace wires;

namespace {

void bendRule(const Build& b, const Run& r, std::vector<Finding>& out) {
    const Chassis& c = b.chassis;
    const double rim = c.form == ChassisForm::Box ? c.bendRadius : 0;
    const auto outside = [&](const Vector& v) {
        return v.x() < rim || v.x() > c.width - rim || v.y() < rim || v.y() > c.depth - rim;
    };
    // The ends are pins, on walls too; what lies between is the wire's way.
    const auto beyond = r.path.size() < 3 ? r.path.end() : std::find_if(r.path.begin() + 1, r.path.end() - 1, outside);
    if (r.path.size() < 3 || beyond == r.path.end() - 1) return;
    Finding f =
        finding("wiring", "wire-outside/" + r.wire.id, Level::Warn,
                fmt::format("The wire {} to {} leaves the chassis", spoken(r.wire.from), spoken(r.wire.to)),
                fmt::format("A corner of its way lies at {:.0f}, {:.0f} mm: {}. The plate is {:.0f} by {:.0f} mm.",
                            beyond->x() * 1e3, beyond->y() * 1e3,
                            rim > 0 ? "over the bend or beyond the wall" : "beyond the plate's edge", c.width * 1e3,
                            c.depth * 1e3));
    if (auto back = proposedPath(b, r)) f.fix = std::move(*back);
    out.push_back(std::move(f));
}

/// Lugs above the plate, wires below it: a hole for them, or a grommet near by.
void holeRule(const Build& b, const Harness& h, std::size_t part, std::vector<Finding>& out) {
    const PlacedPart& p = b.chassis.parts[part];
    constexpr double lead = 0.006, reach = 0.06; // [m] least hole for leads; how far a grommet may be
    if (!p.liveAbove || !isPlate(p.face) || b.chassis.form == ChassisForm::Board) return; // its wires lie above too
    const bool wired =
        std::any_of(h.runs.begin(), h.runs.end(), [&](const Run& r) { return r.fromSpot == part || r.toSpot == part; });
    const bool own = std::any_of(p.holes.begin(), p.holes.end(), [&](const Hole& x) { return x.width >= lead; });
    const bool near = std::any_of(b.chassis.parts.begin(), b.chassis.parts.end(), [&](const PlacedPart& x) {
        return x.kind == "grommet" && x.face == p.face && std::hypot(x.x - p.x, x.y - p.y) < reach;
    });
    if (!wired || own || near) return;
    out.push_back(finding("wiring", "wire-hole/" + p.id, Level::Warn,
                          fmt::format("No hole leads from {}'s lugs to below", chassis::tagOf(p)),
                          "Its lugs are above the plate and its wires below: a hole with a grommet within 60 mm of it, "
                          "large enough for all of them. The tray has grommets."));
}

} // namespace

void wirePathRules(const Build& b, const Catalogue&, const plan::Figures& f, std::vector<Finding>& out) {
    if (!f.wires || b.chassis.parts.empty()) return;
    for (const Run& r : f.wires->harness.runs) bendRule(b, r, out);
    for (std::size_t k = 0; k < b.chassis.parts.size(); ++k) holeRule(b, f.wires->harness, k, out);
}

} // namespace ember::rules
