#include "kept_layouts.h"

#include "input_lead.h"
#include "layout_edits.h"
#include "tower.h"

#include "core/build/structure.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace ember::chassis {

std::vector<Standing> placesOf(const Chassis& c) {
    std::vector<Standing> out;
    for (const PlacedPart& p : c.parts) out.push_back({{}, p.id, p.face, p.x, p.y, p.angle, p.recess});
    return out;
}

Chassis withPlaces(const Chassis& c, std::span<const Standing> places) {
    Chassis out = c;
    for (PlacedPart& p : out.parts) {
        const auto at = std::find_if(places.begin(), places.end(), [&](const Standing& k) { return k.part == p.id; });
        if (at == places.end() || p.locked) continue;
        p.face = at->face;
        p.x = at->x;
        p.y = at->y;
        p.angle = at->angle;
        p.recess = at->recess;
    }
    const auto below = [](const Chassis& x) {
        return std::any_of(x.parts.begin(), x.parts.end(), [](const PlacedPart& p) { return isLower(p.face); });
    };
    if (below(out))
        out.storey = std::max(c.storey, leastStorey(out));
    else if (below(c))
        out.storey = 0;
    return out;
}

double meanShift(const std::vector<Standing>& one, const std::vector<Standing>& other) {
    double sum = 0;
    for (std::size_t k = 0; k < one.size(); ++k) sum += std::hypot(one[k].x - other[k].x, one[k].y - other[k].y);
    return one.empty() ? 0 : sum / static_cast<double>(one.size());
}

Edit usePlaces(std::string name, const Chassis& c, std::span<const Standing> places) {
    const Chassis so = withPlaces(c, places);
    std::vector<Edit> all;
    if (so.storey != c.storey) all.push_back(setValue("", "/chassis/storey", so.storey));
    for (std::size_t k = 0; k < c.parts.size(); ++k) {
        const PlacedPart &before = c.parts[k], &after = so.parts[k];
        const std::string at = fmt::format("/chassis/parts/{}/", k);
        if (after.face != before.face) all.push_back(setText("", at + "face", std::string(faceName(after.face))));
        for (const auto& [key, was, is] : {std::tuple{"x", before.x, after.x},
                                           {"y", before.y, after.y},
                                           {"angle", before.angle, after.angle},
                                           {"recess", before.recess, after.recess}})
            if (was != is) all.push_back(setValue("", at + key, is));
    }
    return together(std::move(name), all);
}

Edit toOtherChassis(const Chassis& c, const std::vector<std::size_t>& which) {
    std::vector<Standing> places = placesOf(c);
    for (const std::size_t k : which)
        places[k].face = isLower(places[k].face) ? upperOf(places[k].face) : lowerOf(places[k].face);
    const bool down = !which.empty() && !isLower(c.parts[which[0]].face);
    const std::string what = which.size() == 1 ? tagOf(c.parts[which[0]]) : fmt::format("{} parts", which.size());
    return usePlaces(fmt::format("{} to the {} chassis", what, down ? "lower" : "upper"), c, places);
}

Edit keepLayout(const Build& b, const std::string& name, std::vector<Standing> places) {
    return insertAt("keep the layout \"" + name + "\"", "/chassis/kept/-",
                    KeptLayout{{}, freshId(b, "layout1"), name, std::move(places)});
}

namespace {

/// On a wall, the free place nearest to where `index` stands, in steps of 1 mm.
void settle(Chassis& c, std::size_t index) {
    PlacedPart& p = c.parts[index];
    const double wanted = p.x, width = frameOf(c, p.face).width;
    const auto stands = [&] { return checkFit(c, assemble(c), 400, index).empty(); };
    for (int step = 0; step * 1e-3 < width; ++step)
        for (const double sign : {1.0, -1.0}) {
            p.x = wanted + sign * step * 1e-3;
            if (p.x > 0 && p.x < width && stands()) return;
        }
    p.x = wanted;
}

void toWall(Chassis& c, std::size_t index, Face face) {
    PlacedPart& p = c.parts[index];
    if ((upperOf(p.face) == Face::Front) != (face == Face::Front)) p.x = c.width - p.x; // each is seen from outside
    p.face = isLower(p.face) ? lowerOf(face) : face;
    settle(c, index);
}

const char* wallName(Face face) {
    return upperOf(face) == Face::Front ? "front" : "back";
}

std::vector<std::size_t> inputsOf(const Build& b) {
    std::vector<std::size_t> out;
    for (std::size_t k = 0; k < b.chassis.parts.size(); ++k)
        if (b.chassis.parts[k].kind == "jack" && b.chassis.parts[k].of.starts_with("input-")) out.push_back(k);
    return out;
}

} // namespace

std::vector<School> schoolsOf(const Build& b) {
    std::vector<School> out;
    const Chassis& c = b.chassis;
    const auto inputs = inputsOf(b);
    if (!inputs.empty()) {
        const Face now = upperOf(c.parts[inputs[0]].face), then = now == Face::Front ? Face::Back : Face::Front;
        Chassis other = c;
        // All are taken off the plate first, so that none blocks the place of another.
        for (const std::size_t k : inputs) other.parts[k].y = -1;
        for (const std::size_t k : inputs) {
            other.parts[k].y = c.parts[k].y;
            toWall(other, k, then);
        }
        out.push_back({"inputs", fmt::format("inputs at the {}", wallName(now)),
                       fmt::format("inputs at the {}", wallName(then)), placesOf(other)});
        for (std::size_t k = 0; k < c.parts.size(); ++k) {
            if (c.parts[k].kind != "potentiometer") continue;
            const Face at = upperOf(c.parts[k].face);
            const Face to = at == Face::Front ? Face::Back : Face::Front;
            Chassis moved = c;
            if (to == now)
                moved.parts[k].x = c.parts[inputs[0]].x; // beside them
            else
                moved.parts[k].x = c.width - c.parts[k].x;
            moved.parts[k].face = isLower(c.parts[k].face) ? lowerOf(to) : to;
            settle(moved, k);
            out.push_back(
                {"volume", fmt::format("volume control at the {}", wallName(at)),
                 fmt::format("volume control at the {}{}", wallName(to), to == now ? ", beside the inputs" : ""),
                 placesOf(moved)});
            break;
        }
    }
    for (std::size_t k = 0; k < c.parts.size(); ++k) {
        if (c.parts[k].of != b.transformer.id || !isPlate(c.parts[k].face)) continue;
        Chassis turned = c;
        turned.parts[k].angle = std::remainder(c.parts[k].angle + 90, 360);
        const bool across = std::abs(std::sin(c.parts[k].angle * 3.14159265358979 / 180)) < 0.7;
        out.push_back({"iron", across ? "power transformer across" : "power transformer front to back",
                       across ? "power transformer front to back" : "power transformer across", placesOf(turned)});
        Chassis handed = c;
        for (PlacedPart& p : handed.parts) {
            p.x = frameOf(c, p.face).width - p.x;
            const Face wall = upperOf(p.face), other = wall == Face::Left ? Face::Right : Face::Left;
            if (wall == Face::Left || wall == Face::Right) p.face = isLower(p.face) ? lowerOf(other) : other;
            p.angle = std::remainder(-p.angle, 360);
        }
        const bool right = c.parts[k].x > c.width / 2;
        out.push_back({"handed", right ? "iron on the right" : "iron on the left",
                       right ? "iron on the left" : "iron on the right", placesOf(handed)});
        break;
    }
    return out;
}

LayoutSummary summarise(const Build& b, const LayoutFigures& f) {
    const Chassis& c = b.chassis;
    LayoutSummary s;
    s.misfits = f.fit.size();
    const auto db = [](double tesla) { return 20 * std::log10(std::max(1e-12, tesla) / allowedTesla); };
    s.exposureDb = s.inputDb = s.couplingDb = -200;
    for (const auto& [victim, tesla] : f.exposure.victims) {
        if (s.victim.empty()) {
            s.exposureDb = db(tesla);
            s.victim = tagOf(c.parts[victim]);
            for (const Exposure& e : f.exposure.pairs)
                if (e.victim == victim) {
                    s.strongestSource = tagOf(c.parts[e.source]);
                    break;
                }
        }
        if (c.parts[victim].kind == "jack") s.inputDb = std::max(s.inputDb, db(tesla));
    }
    const Hum& hum = f.hum;
    const auto hums = [&](std::size_t k) {
        return std::find(hum.iron.begin(), hum.iron.end(), c.parts[k].of) != hum.iron.end();
    };
    for (const CouplingFigures& k : f.couplings)
        if (hums(k.a) != hums(k.b)) s.couplingDb = std::max(s.couplingDb, k.db);
    for (std::size_t k = 0; k < b.channels.size(); ++k) {
        const double lead = inputLead(b, k);
        if (std::isfinite(lead)) s.inputLead = std::max(s.inputLead, lead);
    }
    s.signalLength = f.signalLength;
    for (std::size_t k = 0; k < c.parts.size(); ++k)
        if (c.parts[k].kind == "can" && std::isfinite(f.partKelvin[k]))
            s.hottestCan = std::max(s.hottestCan, f.partKelvin[k]);
    s.sagCarried = f.mostBent().carried.most;
    s.offCentre = std::hypot(f.massCentre.x() - c.width / 2, f.massCentre.y() - c.depth / 2);
    return s;
}

} // namespace ember::chassis
