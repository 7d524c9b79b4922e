#include "assembly.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember::chassis {

Frame frameOf(const Chassis& c, Face face) {
    const Vector x = Vector::UnitX(), y = Vector::UnitY(), z = Vector::UnitZ();
    const auto axes = [](const Vector& a, const Vector& b, const Vector& n) {
        Eigen::Matrix3d m;
        m << a, b, n;
        return m;
    };
    const double plate = plateHeight(c, face), low = plate - (c.form == ChassisForm::Board ? 0 : c.height);
    switch (upperOf(face)) {
    case Face::Front: return {{0, 0, low}, axes(x, z, -y), c.width, c.height};
    case Face::Back: return {{c.width, c.depth, low}, axes(-x, z, y), c.width, c.height};
    case Face::Left: return {{0, c.depth, low}, axes(-y, z, -x), c.depth, c.height};
    case Face::Right: return {{c.width, 0, low}, axes(y, z, x), c.depth, c.height};
    default: break;
    }
    return {{0, 0, plate}, Eigen::Matrix3d::Identity(), c.width, c.depth};
}

bool isTower(const Chassis& c) {
    return c.form != ChassisForm::Board &&
           (c.storey > 0 ||
            std::any_of(c.parts.begin(), c.parts.end(), [](const PlacedPart& p) { return isLower(p.face); }));
}

namespace {
bool standsOnWood(const Chassis& c, const PlacedPart& p) {
    return c.form == ChassisForm::Board && p.face == Face::Top;
}
} // namespace

double bottomOf(const Chassis& c, const PlacedPart& p, const Body& b) {
    return standsOnWood(c, p) && b.id == "leads" ? 0 : b.bottom;
}

double sunkBy(const Chassis& c, const PlacedPart& p) {
    if (!standsOnWood(c, p)) return p.recess;
    double lowest = 0;
    for (const Body& b : p.bodies) lowest = std::min(lowest, bottomOf(c, p, b));
    constexpr double step = 5e-3;
    return lowest < 0 ? -step * std::ceil((underSpacers - lowest) / step - 1e-9) : 0;
}

bool isMade(const Chassis& c, const PlacedPart& p, const Hole& h) {
    return !standsOnWood(c, p) || isBolt(h);
}

bool isBolt(const Hole& h) {
    return h.shape == HoleShape::Round && h.width > 0.0025 && h.width < 0.006;
}

Frame frameOf(const Chassis& c, const PlacedPart& p) {
    const Frame face = frameOf(c, p.face);
    const double turn = p.angle * std::numbers::pi / 180;
    Eigen::Matrix3d turned = Eigen::Matrix3d::Identity();
    turned.topLeftCorner<2, 2>() << std::cos(turn), -std::sin(turn), std::sin(turn), std::cos(turn);
    return {face.origin + face.axes * Vector(p.x, p.y, -sunkBy(c, p)), face.axes * turned, 0, 0};
}

Vector toChassis(const Frame& f, double x, double y, double z) {
    return f.origin + f.axes * Vector(x, y, z);
}

Assembly assemble(const Chassis& c) {
    Assembly out;
    for (std::size_t k = 0; k < c.parts.size(); ++k) {
        const PlacedPart& p = c.parts[k];
        const Frame frame = frameOf(c, p);
        const double sunk = sunkBy(c, p);
        std::vector<std::size_t> mine;
        Vector centre = Vector::Zero();
        double volume = 0;
        for (std::size_t b = 0; b < p.bodies.size(); ++b) {
            const Body& body = p.bodies[b];
            PlacedBody placed{k, b, {}, true};
            const double depth = body.shape == BodyShape::Cylinder ? body.width : body.depth;
            const double middle = bottomOf(c, p, body) + body.height / 2;
            placed.solid.cylinder = body.shape == BodyShape::Cylinder;
            placed.solid.centre = toChassis(frame, body.x, body.y, middle);
            placed.solid.axes = frame.axes;
            placed.solid.half = {body.width / 2, depth / 2, body.height / 2};
            placed.outside = middle - sunk > 0;
            const double v = placed.solid.volume();
            centre += v * placed.solid.centre;
            volume += v;
            mine.push_back(out.bodies.size());
            out.bodies.push_back(std::move(placed));
        }
        out.centres.push_back(volume > 0 ? Vector(centre / volume) : frame.origin);
        out.of.push_back(std::move(mine));
    }
    return out;
}

Footprint footprint(const PlacedPart& p) {
    return footprint(p, p.x, p.y, p.angle);
}

Footprint footprint(const PlacedPart& p, double x0, double y0, double angle) {
    Footprint f{1e9, -1e9, 1e9, -1e9};
    const double turn = angle * std::numbers::pi / 180, c = std::cos(turn), s = std::sin(turn);
    const auto add = [&](double x, double y, double halfX, double halfY) {
        const double cx = x0 + c * x - s * y, cy = y0 + s * x + c * y;
        f.left = std::min(f.left, cx - halfX);
        f.right = std::max(f.right, cx + halfX);
        f.near = std::min(f.near, cy - halfY);
        f.far = std::max(f.far, cy + halfY);
    };
    for (const Body& b : p.bodies) {
        const double w = b.width / 2, d = b.depth / 2;
        if (b.shape == BodyShape::Cylinder)
            add(b.x, b.y, w, w);
        else
            add(b.x, b.y, std::abs(c) * w + std::abs(s) * d, std::abs(s) * w + std::abs(c) * d);
    }
    if (p.bodies.empty()) add(0, 0, 0, 0);
    return f;
}

} // namespace ember::chassis
