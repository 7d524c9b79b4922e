// What two chassis above each other ask for: an earth for each, a hole for the wires between them, a base to stand on.
#include "findings.h"

#include "core/build/structure.h"
#include "core/chassis/bodies.h"
#include "core/chassis/layout_edits.h"
#include "core/chassis/layout_figures.h"
#include "core/wires/hum.h"
#include "core/wires/route.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember::rules {

using namespace chassis;

namespace {

void earthRule(const Build& b, double volts, std::vector<Finding>& out) {
    const Chassis& c = b.chassis;
    const auto bolt = [&](bool lower) {
        return std::any_of(c.parts.begin(), c.parts.end(),
                           [&](const PlacedPart& p) { return p.kind == "earth" && isLower(p.face) == lower; });
    };
    const bool below = bolt(true);
    if (below == bolt(false)) return; // both; or none, which another finding tells
    const char* bare = below ? "upper" : "lower";
    Finding f = finding("chassis", "tower-earth", Level::Stop,
                        fmt::format("The {} chassis is earthed by its pillars alone", bare),
                        "Paint under a nut insulates, and a nut works loose. A second bolt, and a green-yellow wire "
                        "from it to the earth "
                        "bolt beside the inlet, as thick as the mains lead's. Plug out, read less than 0.1 \u03a9 from "
                        "each plate to the "
                        "inlet's earth pin.");
    PlacedPart second = *makePart("earth-bolt");
    second.id = freshId(b, "p-earth2");
    second.face = below ? upperOf(second.face) : lowerOf(second.face);
    if (standFree(c, second, volts))
        f.fix = insertAt(fmt::format("an earth bolt on the {} chassis", bare), "/chassis/parts/-", second);
    out.push_back(std::move(f));
}

/// Wires go up through a hole of the lower plate.
void holeRule(const Build& b, const wires::Harness& h, double volts, std::vector<Finding>& out) {
    const Chassis& c = b.chassis;
    const auto lower = [&](std::size_t spot) { return spot < c.parts.size() && isLower(c.parts[spot].face); };
    const auto between = std::count_if(h.runs.begin(), h.runs.end(),
                                       [&](const wires::Run& r) { return lower(r.fromSpot) != lower(r.toSpot); });
    if (between == 0 || wires::riserHole(c)) return;
    Finding f =
        finding("wiring", "tower-hole", Level::Warn, "No hole leads from the lower chassis to the upper one",
                fmt::format("{} wires go up, some at {}: a hole with a grommet in the lower plate, where no hot "
                            "glass stands near, and sleeving over them between the plates.",
                            between, format(volts, Unit::Volt)));
    PlacedPart grommet = *makePart("grommet");
    grommet.id = freshId(b, "p-grommet1");
    grommet.face = Face::LowerTop;
    if (standFree(c, grommet, volts)) f.fix = insertAt("a grommet in the lower plate", "/chassis/parts/-", grommet);
    out.push_back(std::move(f));
}

/// IEC 62368-1 tilts equipment by 10 degrees, and it must not fall.
void tippingRule(const Build& b, const LayoutFigures& layout, std::vector<Finding>& out) {
    constexpr double wanted = 10; // [degrees]
    const Chassis& c = b.chassis;
    const double high = layout.massCentre.z() + depthBelow(c);
    const double x = layout.massCentre.x(), y = layout.massCentre.y();
    const double base = std::min({x, c.width - x, y, c.depth - y});
    const double angle = std::atan2(base, high) * 180 / std::numbers::pi;
    if (angle >= wanted) return;
    out.push_back(
        finding("chassis", "tower-tips", Level::Warn, "The tower tips over",
                fmt::format("Its weight of {:.1f} kg is centred {:.0f} mm above its foot and {:.0f} mm from "
                            "the nearest edge: it falls when tilted by {:.0f}\u00b0; {:.0f}\u00b0 is the least.",
                            layout.mass, high * 1e3, std::max(0.0, base) * 1e3, std::max(0.0, angle), wanted)));
}

} // namespace

void towerRules(const Build& b, const Catalogue&, const plan::Figures& f, std::vector<Finding>& out) {
    if (!isTower(b.chassis) || !f.layout || f.layout->assembly.of.size() != b.chassis.parts.size()) return;
    earthRule(b, liveVolts(f), out);
    if (f.wires) holeRule(b, f.wires->harness, liveVolts(f), out);
    tippingRule(b, *f.layout, out);
}

} // namespace ember::rules
