#include "hole_list.h"

#include "tower.h"

#include "fixings.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <numeric>

namespace ember::chassis {

namespace {

constexpr double inch = 0.0254;

std::string inchFraction(double metres) {
    int over = static_cast<int>(std::lround(metres / inch * 64)), under = 64;
    if (over == 0) over = 1;
    const int g = std::gcd(over, under);
    over /= g;
    under /= g;
    if (under == 1) return fmt::format("{} in", over);
    return over > under ? fmt::format("{} {}/{} in", over / under, over % under, under)
                        : fmt::format("{}/{} in", over, under);
}

std::string toolOf(const Hole& h) {
    if (h.shape == HoleShape::Round) return toolFor(h.width);
    if (h.shape == HoleShape::FlattedRound) return toolFor(h.height) + ", then file to the flat";
    if (h.shape == HoleShape::Slot) return toolFor(h.height) + " at both ends, then file";
    return "drill the corners, saw and file";
}

/// The pilot of 0.65 times the thread is usual for plywood.
std::string pilotFor(double hole) {
    const double screw = woodScrewFor(hole);
    return fmt::format("pilot {:.1f} mm for a wood screw of {:g} mm", 0.65 * screw, screw);
}

const char* shapeName(HoleShape s) {
    static constexpr std::array<const char*, 4> names{"round", "rectangle", "slot", "flatted"};
    return names[static_cast<std::size_t>(s)];
}

} // namespace

std::string toolFor(double diameter) {
    if (diameter <= 0.0131) {
        const double step = diameter > 0.0101 ? 0.5e-3 : 0.1e-3;
        const double drill = std::round(diameter / step) * step;
        return fmt::format("drill {:g} mm ({})", std::round(drill * 1e4) / 10, inchFraction(diameter));
    }
    static constexpr std::array<double, 17> punches{16,   18, 19,   20, 20.4, 22, 22.5, 25.4, 28.3,
                                                    28.6, 30, 30.5, 32, 35,   38, 40,   50};
    const double wanted = diameter * 1e3;
    for (const double p : punches)
        if (p >= wanted - 0.3) return fmt::format("punch {:g} mm ({})", p, inchFraction(p * 1e-3));
    return fmt::format("saw or fly-cut {:g} mm", std::round(wanted * 10) / 10);
}

std::vector<ListedHole> holesOf(const Chassis& c, Face face) {
    std::vector<ListedHole> out;
    const bool wood = c.form == ChassisForm::Board && isPlate(face);
    const auto add = [&](const std::string& part, const Hole& h, double x, double y, double angle, bool given) {
        out.push_back({part, h.shape, x, y, h.width, h.shape == HoleShape::Round ? h.width : h.height, angle,
                       wood ? pilotFor(h.width) : toolOf(h), given});
    };
    for (const PlacedPart& p : c.parts) {
        if (p.face != face) continue;
        const double turn = p.angle * std::numbers::pi / 180, cosine = std::cos(turn), sine = std::sin(turn);
        for (const Hole& h : p.holes)
            if (isMade(c, p, h))
                add(p.id, h, p.x + cosine * h.x - sine * h.y, p.y + sine * h.x + cosine * h.y, p.angle, false);
    }
    if (face == Face::Top && !wood)
        for (const Hole& h : c.given) add("given", h, h.x, h.y, 0, true);
    if (isPlate(face))
        for (const Pillar& pillar : pillarsOf(c))
            add("pillar", {{}, "", HoleShape::Round, 0, 0, pillarHole, pillarHole}, pillar.x, pillar.y, 0, false);
    std::stable_sort(out.begin(), out.end(), [](const ListedHole& a, const ListedHole& b) {
        const double x = std::max(a.width, a.height), y = std::max(b.width, b.height);
        if (std::abs(x - y) > 1e-6) return x < y;
        return std::abs(a.x - b.x) > 1e-6 ? a.x < b.x : a.y < b.y;
    });
    return out;
}

std::vector<std::pair<double, double>> outlineOf(const ListedHole& h, int segments) {
    std::vector<std::pair<double, double>> local;
    const double w = h.width / 2, v = h.height / 2;
    const auto arc = [&](double cx, double cy, double r, double from, double to, int count) {
        for (int k = 0; k <= count; ++k) {
            const double a = from + (to - from) * k / count;
            local.emplace_back(cx + r * std::cos(a), cy + r * std::sin(a));
        }
    };
    constexpr double pi = std::numbers::pi;
    if (h.shape == HoleShape::Rectangle) {
        local = {{-w, -v}, {w, -v}, {w, v}, {-w, v}};
    } else if (h.shape == HoleShape::Slot && w > v) {
        arc(w - v, 0, v, -pi / 2, pi / 2, segments / 2);
        arc(v - w, 0, v, pi / 2, 3 * pi / 2, segments / 2);
    } else if (h.shape == HoleShape::FlattedRound) {
        // The flat cuts the circle at y = height - radius; the height is what remains across it.
        const double cut = std::clamp(h.height - w, -w, w), a = std::asin(cut / w);
        arc(0, 0, w, pi - a, 2 * pi + a, segments);
    } else {
        arc(0, 0, w, 0, 2 * pi, segments);
        local.pop_back();
    }
    const double turn = h.angle * pi / 180, c = std::cos(turn), s = std::sin(turn);
    for (auto& [x, y] : local) {
        const double rx = h.x + c * x - s * y, ry = h.y + s * x + c * y;
        x = rx;
        y = ry;
    }
    return local;
}

std::string holeTable(const Chassis& c, Face face, Datum datum) {
    const Frame f = frameOf(c, face);
    const char* low = isPlate(face) ? "front" : "below";
    const char* high = isPlate(face) ? "back" : "above";
    std::string out = fmt::format("part,shape,from {} mm,from {} mm,width mm,height mm,width in,angle,tool\n",
                                  datum.right ? "right" : "left", datum.far ? high : low);
    for (const ListedHole& h : holesOf(c, face))
        out += fmt::format("{},{},{:.2f},{:.2f},{:.2f},{:.2f},{:.3f},{:.1f},\"{}\"\n", h.part, shapeName(h.shape),
                           (datum.right ? f.width - h.x : h.x) * 1e3, (datum.far ? f.height - h.y : h.y) * 1e3,
                           h.width * 1e3, h.height * 1e3, h.width / inch, h.angle, h.given ? "there already" : h.tool);
    return out;
}

DrillingOverlay overlayOf(const Chassis& c, std::size_t part) {
    DrillingOverlay o;
    const PlacedPart& board = c.parts[part];
    const Footprint f = footprint(board);
    o.left = f.left;
    o.near = f.near;
    o.width = f.right - f.left;
    o.height = f.far - f.near;
    for (const ListedHole& h : holesOf(c, board.face)) {
        const bool own = h.part == board.id;
        const bool under = h.x > f.left && h.x < f.right && h.y > f.near && h.y < f.far;
        if (own || under) o.holes.push_back({h, own, false});
    }
    return o;
}

DrillingOverlay overlayOf(const Chassis& first, const Chassis& second, Face face) {
    DrillingOverlay o;
    const Frame f = frameOf(second, face);
    o.width = f.width;
    o.height = f.height;
    auto rest = holesOf(second, face);
    for (const ListedHole& h : holesOf(first, face)) {
        const auto same = std::find_if(rest.begin(), rest.end(), [&](const ListedHole& s) {
            return s.shape == h.shape && std::hypot(s.x - h.x, s.y - h.y) < 1e-4 &&
                   std::abs(s.width - h.width) < 1e-4 && std::abs(s.height - h.height) < 1e-4;
        });
        o.holes.push_back({h, same != rest.end(), false});
        if (same != rest.end()) rest.erase(same);
    }
    for (const ListedHole& h : rest) o.holes.push_back({h, false, true});
    return o;
}

} // namespace ember::chassis
