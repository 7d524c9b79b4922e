#include "fit.h"

#include "tower.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <set>

namespace ember::chassis {

double clearanceFor(double volts) {
    return 0.002 + 1e-5 * std::max(0.0, volts);
}

double gapBetween(const Assembly& assembly, std::size_t a, std::size_t b) {
    double least = 1e9;
    for (const std::size_t i : assembly.of[a])
        for (const std::size_t j : assembly.of[b]) {
            const Solid &x = assembly.bodies[i].solid, &y = assembly.bodies[j].solid;
            if ((x.centre - y.centre).norm() - x.reach() - y.reach() > least) continue;
            least = std::min(least, distance(x, y));
        }
    return least;
}

bool isLive(const PlacedPart& p) {
    static constexpr std::array<std::string_view, 8> kinds{"socket", "can",         "board", "resistor",
                                                           "film",   "transformer", "choke", "supply-board"};
    return std::find(kinds.begin(), kinds.end(), p.kind) != kinds.end();
}

bool carriesMains(const PlacedPart& p) {
    return p.kind == "inlet" || p.kind == "fuse" || p.kind == "switch";
}

double edgeRoom(const Chassis& c, Face face) {
    constexpr double metal = 0.003, wood = 0.01;
    if (c.form == ChassisForm::Board && isPlate(face)) return wood;
    return metal + (c.form == ChassisForm::Box ? c.bendRadius + c.thickness : 0);
}

namespace {

/// A hole's middle on its face [m].
std::pair<double, double> onFace(const PlacedPart& p, const Hole& h) {
    const double turn = p.angle * std::numbers::pi / 180, cosine = std::cos(turn), sine = std::sin(turn);
    return {p.x + cosine * h.x - sine * h.y, p.y + sine * h.x + cosine * h.y};
}

double reachOf(const Hole& h) {
    return std::max(h.width, h.shape == HoleShape::Round ? h.width : h.height) / 2;
}

/// Two parts drilled into each other's holes.
void betweenTheirHoles(const Chassis& c, std::size_t a, std::size_t b, std::vector<FitProblem>& out) {
    double least = 1e9;
    for (const Hole& one : c.parts[a].holes)
        for (const Hole& two : c.parts[b].holes) {
            if (!isMade(c, c.parts[a], one) || !isMade(c, c.parts[b], two)) continue;
            const auto [x, y] = onFace(c.parts[a], one);
            const auto [u, v] = onFace(c.parts[b], two);
            least = std::min(least, std::hypot(x - u, y - v) - reachOf(one) - reachOf(two));
        }
    if (least < betweenHoles - 1e-6) out.push_back({FitKind::HolesMeet, a, b, least, betweenHoles});
}

/// Whether bodies of `b` stand over a bolt of `a` where the screwdriver must come down.
void overTheBolts(const Chassis& c, const Assembly& assembly, std::size_t a, std::size_t b,
                  std::vector<FitProblem>& out) {
    const PlacedPart& p = c.parts[a];
    if (p.face != c.parts[b].face) return;
    const Frame frame = frameOf(c, p);
    for (const Hole& h : p.holes) {
        if (!isBolt(h)) continue;
        Solid tool;
        tool.cylinder = true;
        tool.centre = toChassis(frame, h.x, h.y, std::max(0.0, sunkBy(c, p)) + toolLength / 2 + 1e-3);
        tool.axes = frame.axes;
        tool.half = {toolDiameter / 2, toolDiameter / 2, toolLength / 2};
        for (const std::size_t k : assembly.of[b]) {
            const Solid& body = assembly.bodies[k].solid;
            if ((body.centre - tool.centre).norm() > body.reach() + tool.reach() || distance(tool, body) > 1e-6)
                continue;
            out.push_back({FitKind::NoScrewdriver, a, b, 0, toolDiameter});
            return;
        }
    }
}

/// Where a part reaches beyond its face, and where its holes come too near to an edge.
void againstFace(const Chassis& c, std::size_t k, std::vector<FitProblem>& out) {
    const PlacedPart& p = c.parts[k];
    const Frame face = frameOf(c, p.face);
    const Footprint f = footprint(p);
    const double over = std::max({-f.left, f.right - face.width, -f.near, f.far - face.height});
    if (over > 1e-5) {
        out.push_back({FitKind::OffTheFace, k, k, -over, 0});
        return;
    }
    double nearest = 1e9;
    for (const Hole& h : p.holes) {
        if (!isMade(c, p, h)) continue;
        const auto [x, y] = onFace(p, h);
        const double reach = reachOf(h);
        nearest = std::min({nearest, x - reach, face.width - x - reach, y - reach, face.height - y - reach});
    }
    const double wanted = edgeRoom(c, p.face);
    if (nearest < wanted - 1e-9) out.push_back({FitKind::NearEdge, k, k, nearest, wanted});
}

void againstHeight(const Chassis& c, const Assembly& assembly, std::size_t k, std::vector<FitProblem>& out) {
    const PlacedPart& p = c.parts[k];
    const double plate = plateHeight(c, p.face);
    double lowest = 0, highest = 0;
    for (const std::size_t b : assembly.of[k]) {
        lowest = std::min(lowest, assembly.bodies[b].solid.lowest() - plate);
        highest = std::max(highest, assembly.bodies[b].solid.highest() - plate);
    }
    if (-lowest > c.height + 1e-9) out.push_back({FitKind::BelowDepth, k, k, c.height + lowest, 0});
    const double over = roomOver(c, p.face);
    if (over <= 0) return;
    if (highest > over + 1e-9) {
        out.push_back({FitKind::AboveLid, k, k, over - highest, 0});
    } else if (p.drawLength > 0 && isPlate(p.face)) {
        const double wanted = drawRoom(p);
        const double room = over - highest; // above the valve as it stands
        if (room < wanted - 1e-9) out.push_back({FitKind::CannotDraw, k, k, room, wanted});
    }
}

/// Bodies and holes of a part against the pillars of a tower.
void againstPillars(const Chassis& c, const Assembly& assembly, std::size_t k, const std::vector<Pillar>& pillars,
                    std::vector<FitProblem>& out) {
    const PlacedPart& p = c.parts[k];
    double least = 1e9;
    for (const Pillar& pillar : pillars) {
        const Solid tube = pillarSolid(c, pillar);
        for (const std::size_t b : assembly.of[k]) {
            const Solid& s = assembly.bodies[b].solid;
            if ((s.centre - tube.centre).norm() - s.reach() - tube.reach() < least)
                least = std::min(least, distance(s, tube));
        }
        if (!isPlate(p.face)) continue;
        for (const Hole& h : p.holes) {
            if (!isMade(c, p, h)) continue;
            const auto [x, y] = onFace(p, h);
            least = std::min(least, std::hypot(x - pillar.x, y - pillar.y) - reachOf(h) - pillarDiameter / 2);
        }
    }
    if (least < aroundPillar - 1e-6) out.push_back({FitKind::AtPillar, k, k, least, aroundPillar});
}

} // namespace

double drawRoom(const PlacedPart& p) {
    constexpr double pins = 0.015; // [m]
    return p.drawLength <= 0 ? 0 : drawExtra + (isLower(p.face) ? std::min(pins, p.drawLength) : p.drawLength);
}

double roomOver(const Chassis& c, Face face) {
    return isLower(face) ? c.storey : c.lid;
}

std::vector<FitProblem> checkFit(const Chassis& c, const Assembly& assembly, double volts,
                                 std::optional<std::size_t> only) {
    const auto asked = [&](std::size_t k) { return !only || *only == k; };
    std::vector<FitProblem> out;
    const double clearance = clearanceFor(volts);
    std::vector<double> reach(c.parts.size(), 0);
    for (std::size_t k = 0; k < c.parts.size(); ++k)
        for (const std::size_t b : assembly.of[k]) {
            const Solid& s = assembly.bodies[b].solid;
            reach[k] = std::max(reach[k], (s.centre - assembly.centres[k]).norm() + s.reach());
        }
    for (std::size_t k = 0; k < c.parts.size(); ++k)
        for (const Hole& h : c.parts[k].holes) {
            const Vector at = toChassis(frameOf(c, c.parts[k]), h.x, h.y, 0);
            reach[k] = std::max(reach[k], (at - assembly.centres[k]).norm() + reachOf(h) + betweenHoles);
        }
    const std::vector<Pillar> pillars = pillarsOf(c);
    for (std::size_t a = 0; a < c.parts.size(); ++a) {
        if (asked(a)) {
            againstPillars(c, assembly, a, pillars, out);
            againstFace(c, a, out);
            againstHeight(c, assembly, a, out);
        }
        for (std::size_t b = a + 1; b < c.parts.size(); ++b) {
            if (!asked(a) && !asked(b)) continue;
            const double wanted = isLive(c.parts[a]) || isLive(c.parts[b]) ? clearance : 0.001;
            const double far = (assembly.centres[a] - assembly.centres[b]).norm() - reach[a] - reach[b];
            if (far <= toolLength) {
                overTheBolts(c, assembly, a, b, out);
                overTheBolts(c, assembly, b, a, out);
            }
            if (far > wanted) continue;
            if (c.parts[a].face == c.parts[b].face) betweenTheirHoles(c, a, b, out);
            const double gap = gapBetween(assembly, a, b);
            if (gap < 1e-6)
                out.push_back({FitKind::Touching, a, b, 0, wanted});
            else if (gap < wanted - 1e-6)
                out.push_back({FitKind::TooNear, a, b, gap, wanted});
        }
    }
    // What touches must move anyway: its bolts and holes are not spoken of twice.
    std::set<std::pair<std::size_t, std::size_t>> touching;
    for (const FitProblem& p : out)
        if (p.kind == FitKind::Touching) touching.emplace(p.a, p.b);
    std::erase_if(out, [&](const FitProblem& p) {
        return (p.kind == FitKind::HolesMeet || p.kind == FitKind::NoScrewdriver) &&
               touching.contains(std::minmax(p.a, p.b));
    });
    return out;
}

std::vector<Gap> narrowGaps(const Chassis& c, const Assembly& assembly, double volts, double limit) {
    std::vector<Gap> out;
    const double clearance = clearanceFor(volts);
    for (std::size_t a = 0; a < c.parts.size(); ++a)
        for (std::size_t b = a + 1; b < c.parts.size(); ++b) {
            Gap g{a, b, limit, isLive(c.parts[a]) || isLive(c.parts[b]) ? clearance : 0.001, {}, {}};
            for (const std::size_t i : assembly.of[a])
                for (const std::size_t j : assembly.of[b]) {
                    const Solid &x = assembly.bodies[i].solid, &y = assembly.bodies[j].solid;
                    if ((x.centre - y.centre).norm() - x.reach() - y.reach() >= g.air) continue;
                    const double air = distance(x, y);
                    if (air >= g.air) continue;
                    g.air = air;
                    g.from = x.centre;
                    g.to = y.centre;
                }
            if (g.air < limit) out.push_back(g);
        }
    std::sort(out.begin(), out.end(), [](const Gap& x, const Gap& y) { return x.air < y.air; });
    return out;
}

std::span<const std::array<double, 2>> usualPlates() {
    static constexpr std::array<std::array<double, 2>, 8> usual{
        {{0.2, 0.15}, {0.25, 0.15}, {0.3, 0.2}, {0.35, 0.22}, {0.4, 0.25}, {0.45, 0.28}, {0.5, 0.3}, {0.6, 0.35}}};
    return usual;
}

Room roomOf(const Chassis& c, const Assembly& assembly) {
    Room r;
    double above = 0, below = 0;
    std::array<double, faceCount> area{}; // of each plate
    for (const PlacedPart& p : c.parts) {
        if (!isPlate(p.face)) continue;
        const Footprint f = footprint(p);
        above += f.area();
        area[indexOf(p.face)] += (f.right - f.left + 0.01) * (f.far - f.near + 0.01);
    }
    for (const PlacedBody& b : assembly.bodies)
        if (!b.outside) below += b.solid.volume();
    const double plates = (isTower(c) ? 2 : 1) * c.width * c.depth;
    r.usedAbove = above / plates;
    r.freeBelow = 1 - below / (plates * c.height);
    r.leastArea = *std::max_element(area.begin(), area.end()) / 0.6;
    for (const auto& s : usualPlates())
        if (s[0] * s[1] >= r.leastArea) {
            r.suggestedWidth = s[0];
            r.suggestedDepth = s[1];
            break;
        }
    return r;
}

} // namespace ember::chassis
