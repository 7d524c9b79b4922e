#include "sketch.h"

#include "metal.h"

#include "core/base/contains.h"
#include "core/schematic/channel_parts.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>

namespace ember::chassis {

namespace {

constexpr double besselStep = 0.05;

} // namespace

Sketch::Sketch(const Build& b, const Catalogue& catalogue, const plan::Figures& figures)
    : plateWidth(b.chassis.width),
      plateDepth(b.chassis.depth),
      wallHeight(b.chassis.height),
      frames(b.chassis) {
    const Chassis& c = b.chassis;
    pillars = pillarsOf(c);
    frames.parts.clear();
    for (std::size_t k = 0; k < faces.size(); ++k) faces[k] = frameOf(c, static_cast<Face>(k));
    const double volts = liveVolts(figures);
    clearance = clearanceFor(volts);
    for (std::size_t k = 0; k < faces.size(); ++k) edges[k] = edgeRoom(c, static_cast<Face>(k));
    const double k = sheetOf(c).conductivity * c.thickness;
    spread = std::sqrt(k / heatLossOf(c).perArea(c));
    sheet = 1 / (2 * std::numbers::pi * k);
    for (int n = 0; n < 200; ++n) bessel.push_back(std::cyl_bessel_k(0.0, std::max(0.02, n * besselStep)));

    const Hum hum = humOf(b, figures);
    const Assembly assembly = assemble(c);
    const auto dipoles = dipolesOf(c, assembly);
    std::map<std::string, int> rowIds;
    std::vector<std::string> outputIron;
    for (const Channel& ch : b.channels)
        for (std::string& iron : schematic::signalIron(ch)) outputIron.push_back(std::move(iron));
    for (std::size_t n = 0; n < c.parts.size(); ++n) {
        const PlacedPart& from = c.parts[n];
        Part p;
        p.id = from.id;
        p.face = from.face;
        p.locked = from.locked;
        p.mate = n;
        p.x = from.x;
        p.y = from.y;
        p.angle = from.angle;
        p.recess = from.recess;
        p.sunk = sunkBy(c, from);
        p.faceWidth = faces[indexOf(from.face)].width;
        p.faceHeight = faces[indexOf(from.face)].height;
        p.mass = from.mass;
        p.liveParts = isLive(from);
        p.can = from.kind == "can" && isPlate(from.face);
        p.iron = isIron(from);
        p.watts = isPlate(from.face) ? heatOf(b, catalogue, figures, from) * shareToTop(c, from) : 0;
        p.hums = contains(hum.iron, from.of);
        p.outputIron = contains(outputIron, from.of);
        p.victim = from.kind == "jack" || from.kind == "potentiometer" ||
                   (from.kind == "socket" && contains(hum.smallValves, from.of));
        if (carriesMains(from)) p.pairTesla = 2e-7 * 1 * 0.005;
        if (from.kind == "socket" && !hum.rectifier.empty() && from.of == hum.rectifier)
            p.pairTesla = 5 * 2e-7 * 0.5 * 0.01;
        for (const Dipole& d : dipoles)
            if (d.part == n) {
                const double share = hum.shareOf(from.of);
                p.moment = d.moment * share;
                p.quieter = 20 * std::log10(std::max(1e-6, share));
                p.momentReach = d.reach;
                p.localAxis = from.core == CoreAxis::Width   ? Vector::UnitX()
                              : from.core == CoreAxis::Depth ? Vector::UnitY()
                                                             : Vector::UnitZ();
            }
        double volume = 0;
        for (const Body& body : from.bodies) {
            const double depth = body.shape == BodyShape::Cylinder ? body.width : body.depth;
            const double bottom = bottomOf(c, from, body);
            p.pieces.push_back({body.shape == BodyShape::Cylinder, Of::Body, body.x, body.y, body.width / 2, depth / 2,
                                bottom, bottom + body.height});
            const double v = body.width * depth * body.height * (body.shape == BodyShape::Cylinder ? 0.785 : 1);
            p.localX += v * body.x;
            p.localY += v * body.y;
            p.localZ += v * (bottom + body.height / 2);
            volume += v;
            p.reach = std::max(p.reach, std::hypot(std::abs(body.x) + body.width / 2, std::abs(body.y) + depth / 2));
        }
        if (volume > 0) {
            p.localX /= volume;
            p.localY /= volume;
            p.localZ /= volume;
        }
        for (const Hole& h : from.holes) {
            if (!isMade(c, from, h)) continue;
            const double high = h.shape == HoleShape::Round ? h.width : h.height;
            p.pieces.push_back({h.shape == HoleShape::Round, Of::Hole, h.x, h.y, h.width / 2, high / 2, -1e-3, 1e-3});
            if (isBolt(h) && isPlate(p.face))
                p.pieces.push_back({true, Of::Tool, h.x, h.y, toolDiameter / 2, toolDiameter / 2, 1e-3, toolLength});
        }
        if (isPlate(from.face) && (from.kind == "socket" || p.can || p.iron)) {
            const std::string key = from.kind == "socket" ? from.body.substr(0, from.body.rfind('-'))
                                    : p.can               ? "can"
                                                          : "iron";
            p.row =
                rowIds.emplace(std::string(faceName(from.face)) + key, static_cast<int>(rowIds.size())).first->second;
        }
        parts.push_back(std::move(p));
    }
    for (std::size_t n = 0; n < parts.size(); ++n) {
        const std::string other = otherChannels(b, c.parts[n].of);
        const auto at = std::find_if(c.parts.begin(), c.parts.end(),
                                     [&](const PlacedPart& p) { return !other.empty() && p.of == other; });
        if (at == c.parts.end()) continue;
        const auto m = static_cast<std::size_t>(at - c.parts.begin());
        if (!parts[n].locked && !parts[m].locked) parts[n].mate = m;
    }
    rowsOfParts.resize(rowIds.size());
    for (std::size_t n = 0; n < parts.size(); ++n) {
        place(parts[n]);
        if (parts[n].victim) victims.push_back(n);
        if (parts[n].can) cans.push_back(n);
        if (parts[n].outputIron && parts[n].moment > 0) outputs.push_back(n);
        if (parts[n].row >= 0) rowsOfParts[static_cast<std::size_t>(parts[n].row)].push_back(n);
    }
    const auto volume =
        std::find_if(c.parts.begin(), c.parts.end(), [](const PlacedPart& p) { return p.kind == "potentiometer"; });
    for (std::size_t ch = 0; ch < b.channels.size(); ++ch) {
        auto path = signalPath(b, ch);
        if (path.size() > 1 && c.parts[path[0]].kind == "jack" && volume != c.parts.end())
            path.insert(path.begin() + 1, static_cast<std::size_t>(volume - c.parts.begin()));
        paths.push_back(std::move(path));
    }
    for (auto* matrix : {&touch, &tesla, &decibel, &kelvin}) matrix->assign(parts.size() * parts.size(), 0);
    for (std::size_t n = 0; n < parts.size(); ++n) pairsOf(n, 1);
    touching = 0;
    for (std::size_t n = 0; n < parts.size(); ++n) {
        touching += parts[n].over;
        for (std::size_t m = n + 1; m < parts.size(); ++m) touching += at(touch, n, m);
    }
}

void Sketch::place(Part& p) const {
    const Frame& f = faces[indexOf(p.face)];
    const double turn = p.angle * std::numbers::pi / 180, cosine = std::cos(turn), sine = std::sin(turn);
    const auto world = [&](double x, double y, double z) -> Vector {
        return f.origin + f.axes * Vector(p.x + cosine * x - sine * y, p.y + sine * x + cosine * y, z - p.sunk);
    };
    p.boxes.resize(p.pieces.size());
    p.low = Vector::Constant(1e9);
    p.high = -p.low;
    p.over = 0;
    for (std::size_t k = 0; k < p.pieces.size(); ++k) {
        const Piece& piece = p.pieces[k];
        const double hx = piece.round ? piece.halfX : std::abs(cosine) * piece.halfX + std::abs(sine) * piece.halfY;
        const double hy = piece.round ? piece.halfX : std::abs(sine) * piece.halfX + std::abs(cosine) * piece.halfY;
        const double half = (piece.top - piece.bottom) / 2;
        const Vector centre = world(piece.x, piece.y, piece.bottom + half);
        const Vector reach = f.axes.cwiseAbs() * Vector(hx, hy, half);
        p.boxes[k] = {centre - reach, centre + reach, piece.of};
        p.low = p.low.cwiseMin(p.boxes[k].low);
        p.high = p.high.cwiseMax(p.boxes[k].high);
        const double u = p.x + cosine * piece.x - sine * piece.y, v = p.y + sine * piece.x + cosine * piece.y;
        if (piece.of == Of::Tool) continue; // its own hole keeps from the edge
        const double margin = piece.of == Of::Hole ? edges[indexOf(p.face)] : 0;
        p.over += std::max(0.0, hx + margin - u) + std::max(0.0, u + hx + margin - p.faceWidth) +
                  std::max(0.0, hy + margin - v) + std::max(0.0, v + hy + margin - p.faceHeight);
    }
    for (const Pillar& pillar : pillars)
        for (const Box& b : p.boxes) {
            if (b.of == Of::Tool) continue;
            constexpr double around = pillarDiameter / 2 + aroundPillar;
            const double inX = std::min(b.high.x() - pillar.x, pillar.x - b.low.x()) + around,
                         inY = std::min(b.high.y() - pillar.y, pillar.y - b.low.y()) + around;
            if (inX > 0 && inY > 0) p.over += std::min(inX, inY);
        }
    p.centre = world(p.localX, p.localY, p.localZ);
    p.point = f.origin + f.axes * Vector(p.x, p.y, -0.01 - p.sunk);
    p.axis = f.axes * Vector(cosine * p.localAxis.x() - sine * p.localAxis.y(),
                             sine * p.localAxis.x() + cosine * p.localAxis.y(), p.localAxis.z());
}

/// How deep two parts' boxes reach into each other's clearance [m], summed.
double Sketch::intrusion(const Part& a, const Part& b) const {
    const double wanted = a.liveParts || b.liveParts ? clearance : 0.001;
    const double most = std::max(wanted, betweenHoles);
    for (int axis = 0; axis < 3; ++axis)
        if (a.low[axis] > b.high[axis] + most || b.low[axis] > a.high[axis] + most) return 0;
    double sum = 0;
    for (const Box& x : a.boxes)
        for (const Box& y : b.boxes) {
            const bool holes = x.of == Of::Hole && y.of == Of::Hole;
            if (!holes && (x.of == Of::Hole || y.of == Of::Hole)) continue;
            const bool tool = x.of == Of::Tool || y.of == Of::Tool;
            if (tool && x.of == y.of) continue;
            const double apart = holes ? betweenHoles : tool ? 0 : wanted;
            double least = 1e9;
            for (int axis = 0; axis < 3; ++axis) {
                const double in = std::min(x.high[axis], y.high[axis]) - std::max(x.low[axis], y.low[axis]) + apart;
                least = std::min(least, in);
                if (least <= 0) break;
            }
            if (least > 0) sum += least;
        }
    return sum;
}

double Sketch::fieldOf(const Part& s, const Part& v) const {
    double square = 0;
    if (s.hums && s.moment > 0) {
        Vector r = v.point - s.centre;
        const double length = std::max(r.norm(), 1e-6), held = std::max(length, s.momentReach);
        r /= length;
        square += std::pow(1e-7 * s.moment / (held * held * held), 2) * (3 * s.axis.dot(r) * r - s.axis).squaredNorm();
    }
    if (s.pairTesla > 0) {
        const double d2 = std::max((s.point - v.point).squaredNorm(), 1e-4);
        square += std::pow(s.pairTesla / d2, 2);
    }
    return square;
}

double Sketch::couplingOf(const Part& a, const Part& b) const {
    Vector r = b.centre - a.centre;
    const double length = std::max(1e-4, r.norm());
    r /= length;
    const double k = 3 * a.axis.dot(r) * b.axis.dot(r) - a.axis.dot(b.axis);
    const double touchingApart = (a.momentReach + b.momentReach) / length;
    return a.quieter + 20 * std::log10(std::max(1e-9, std::abs(k) * touchingApart * touchingApart * touchingApart / 2));
}

double Sketch::riseOf(const Part& s, const Part& can) const {
    if (s.face != can.face) return 0;
    const double far = std::hypot(s.x - can.x, s.y - can.y);
    const double u = std::max(far, 0.6 * s.reach) / spread / besselStep;
    const auto low = static_cast<std::size_t>(u);
    if (low + 1 >= bessel.size()) return 0;
    const double part = u - static_cast<double>(low);
    return s.watts * sheet * (bessel[low] * (1 - part) + bessel[low + 1] * part);
}

/// Fills the rows and columns of `n`; `sign` +1 adds their fit to the sum, -1 takes it out first.
void Sketch::pairsOf(std::size_t n, double sign) {
    const Part& p = parts[n];
    if (sign < 0) {
        touching -= p.over;
        for (std::size_t m = 0; m < parts.size(); ++m) touching -= at(touch, n, m);
        return;
    }
    touching += p.over;
    for (std::size_t m = 0; m < parts.size(); ++m) {
        if (m == n) continue;
        const double in = intrusion(p, parts[m]);
        at(touch, n, m) = at(touch, m, n) = in;
        touching += in;
    }
    const bool source = (p.hums && p.moment > 0) || p.pairTesla > 0;
    if (source)
        for (const std::size_t v : victims)
            if (v != n) at(tesla, n, v) = fieldOf(p, parts[v]);
    if (p.victim)
        for (std::size_t s = 0; s < parts.size(); ++s)
            if (s != n && ((parts[s].hums && parts[s].moment > 0) || parts[s].pairTesla > 0))
                at(tesla, s, n) = fieldOf(parts[s], p);
    if (p.hums && p.moment > 0)
        for (const std::size_t o : outputs) at(decibel, n, o) = couplingOf(p, parts[o]);
    if (p.outputIron && p.moment > 0)
        for (std::size_t s = 0; s < parts.size(); ++s)
            if (parts[s].hums && parts[s].moment > 0) at(decibel, s, n) = couplingOf(parts[s], p);
    if (p.watts > 0)
        for (const std::size_t k : cans) at(kelvin, n, k) = riseOf(p, parts[k]);
    if (p.can)
        for (std::size_t s = 0; s < parts.size(); ++s)
            if (parts[s].watts > 0) at(kelvin, s, n) = riseOf(parts[s], p);
}

void Sketch::move(std::size_t n, double x, double y, double angle) {
    undo.push_back({n, parts[n]});
    put(n, x, y, angle);
}

void Sketch::put(std::size_t n, double x, double y, double angle) {
    pairsOf(n, -1);
    Part& p = parts[n];
    p.x = x;
    p.y = y;
    p.angle = angle;
    place(p);
    pairsOf(n, 1);
}

void Sketch::takeBack() {
    while (!undo.empty()) {
        const std::size_t n = undo.back().part;
        pairsOf(n, -1);
        parts[n] = std::move(undo.back().before);
        pairsOf(n, 1);
        undo.pop_back();
    }
}

std::vector<Standing> Sketch::places() const {
    std::vector<Standing> out;
    for (const Part& p : parts) out.push_back({{}, p.id, p.face, p.x, p.y, std::remainder(p.angle, 360), p.recess});
    return out;
}

} // namespace ember::chassis
