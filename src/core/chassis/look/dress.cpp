#include "dress.h"

#include "core/chassis/assembly.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember::chassis::look {

namespace {

/// sRGB of a paint chip to linear light.
Colour paint(int r, int g, int b) {
    const auto linear = [](int v) {
        const float s = static_cast<float>(v) / 255;
        return s <= 0.04045F ? s / 12.92F : std::pow((s + 0.055F) / 1.055F, 2.4F);
    };
    return {linear(r), linear(g), linear(b)};
}

Material matt(const Colour& c, float gloss = 0.12F, float sharpness = 20) {
    Material m;
    m.colour = c, m.gloss = gloss, m.sharpness = sharpness;
    return m;
}
Material metal(const Colour& c, float gloss) {
    Material m;
    m.colour = c, m.gloss = gloss, m.metal = true;
    return m;
}

Material bare(Metal of) {
    switch (of) {
    case Metal::Steel: return metal(paint(172, 174, 176), 0.45F);
    case Metal::Copper: return metal(paint(222, 150, 112), 0.5F);
    case Metal::Aluminium: break;
    }
    return metal(paint(214, 216, 219), 0.42F);
}
const Material blackPaint = matt(paint(24, 23, 22), 0.3F, 45), bakelite = matt(paint(34, 24, 19), 0.35F, 60),
               nickel = metal(paint(226, 222, 212), 0.7F), brass = metal(paint(214, 176, 102), 0.6F),
               laminations = metal(paint(66, 64, 62), 0.12F), tape = matt(paint(206, 178, 112), 0.1F),
               white = matt(paint(238, 232, 214), 0.1F), dark = matt(paint(16, 15, 15), 0.2F);

Material ironPaint(const Chassis& c) {
    switch (c.ironFinish) {
    case IronFinish::Bare: return metal(paint(120, 118, 114), 0.25F);
    case IronFinish::AsPlate: return plateMaterial(c);
    case IronFinish::Black: break;
    }
    return blackPaint;
}

/// A body's middle and half sides in the part's own directions.
Point middleOf(const Body& b) {
    return {static_cast<float>(b.x), static_cast<float>(b.y), static_cast<float>(b.bottom + b.height / 2)};
}
Point halfOf(const Body& b) {
    return {static_cast<float>(b.width / 2),
            static_cast<float>((b.shape == BodyShape::Cylinder ? b.width : b.depth) / 2),
            static_cast<float>(b.height / 2)};
}

} // namespace

Material plateMaterial(const Chassis& c) {
    switch (c.plateFinish) {
    case PlateFinish::Black: return matt(paint(30, 30, 31), 0.25F, 40);
    case PlateFinish::Cream: return matt(paint(226, 214, 184), 0.22F, 40);
    case PlateFinish::Green: return matt(paint(88, 106, 92), 0.22F, 40);
    case PlateFinish::Red: return matt(paint(112, 34, 28), 0.25F, 40);
    case PlateFinish::Bare: break;
    }
    return bare(c.metal);
}

Material boardMaterial(const Chassis& c) {
    return c.wallFinish == WallFinish::AsPlate ? matt(paint(206, 174, 128), 0.1F, 14) : wallMaterial(c);
}

Material wallMaterial(const Chassis& c) {
    switch (c.wallFinish) {
    case WallFinish::Oak: return matt(paint(176, 134, 84), 0.14F, 18);
    case WallFinish::Walnut: return matt(paint(92, 60, 38), 0.18F, 22);
    case WallFinish::Black: return matt(paint(26, 25, 25), 0.25F, 40);
    case WallFinish::AsPlate: break;
    }
    return plateMaterial(c);
}

Material benchTop() {
    return matt(paint(122, 96, 70), 0.06F, 12);
}
Material rubber() {
    return dark;
}
Material brightMetal() {
    return nickel;
}

void Dressing::add(Mesh mesh, const Material& material, bool glass) {
    scene.surfaces.push_back({std::move(mesh), material, glass});
}

void Dressing::body(const Body& b) {
    const std::string& kind = part.kind;
    if (isIron(part)) return iron(b);
    if (b.id == "glass") return valve(b);
    if (kind == "meter") return meter(b);
    if (b.id == "knob") return knob(b);
    if (b.id == "posts") return posts(b);
    if (kind == "can" && b.shape == BodyShape::Cylinder) return upright(b, matt(paint(36, 46, 62), 0.35F, 50), 0.0015F);
    if (kind == "lamp") {
        Material lens = matt(paint(170, 46, 22), 0.5F, 80);
        if (lamp) lens.glow = Colour(0.75F, 0.13F, 0.02F);
        return upright(b, lens, 0.003F);
    }
    if (b.id == "lever") { // thinner than the room it needs, and tipped
        const Point m = middleOf(b);
        const float high = halfOf(b).z() * 2;
        Pose tipped = pose;
        tipped.axes = pose.axes * Eigen::AngleAxisf(0.3F, Point::UnitX()).toRotationMatrix();
        const float base = m.z() - halfOf(b).z();
        add(turned(pose, m.x(), m.y(), {{0.0F, base + 0.004F}, {0.006F, base + 0.004F}, {0.006F, base}}, 6), nickel);
        return add(turned(tipped, m.x(), m.y(),
                          {{0.0018F, base},
                           {0.0026F, base + 0.8F * high},
                           {0.0022F, base + 0.93F * high},
                           {0.0F, base + 0.95F * high}},
                          16),
                   nickel);
    }
    if (kind == "jack" || kind == "earth") return upright(b, kind == "jack" ? nickel : brass, 0.001F);
    if (b.shape == BodyShape::Cylinder) return upright(b, blackPaint, 0.001F);
    add(box(pose, middleOf(b), halfOf(b), 0.0012F), kind == "resistor" ? brass : bakelite);
}

/// A cylinder with a rounded upper edge.
void Dressing::upright(const Body& b, const Material& material, float round) {
    const Point m = middleOf(b), h = halfOf(b);
    const float low = m.z() - h.z(), high = m.z() + h.z(), r = h.x();
    round = std::min({round, 0.45F * h.z(), 0.45F * r});
    add(turned(pose, m.x(), m.y(),
               {{r, low}, {r, high - round}, {r - 0.3F * round, high - 0.3F * round}, {r - round, high}, {0.0F, high}},
               36),
        material);
}

void Dressing::iron(const Body& b) {
    if (b.bottom < -1e-6) return;
    const Point m = middleOf(b), h = halfOf(b);
    const Material painted = ironPaint(chassis);
    const auto block = [&](const Point& offset, const Point& half, float round, const Material& of) {
        add(box(pose, m + offset, half, round), of);
    };
    const std::string& type = part.body;
    if (b.shape == BodyShape::Cylinder) { // a toroid: a ring of tape with a dish on top
        const float r = h.x(), low = m.z() - h.z(), high = m.z() + h.z(), round = 0.5F * h.z();
        std::vector<std::array<float, 2>> profile{{0.9F * r, low}};
        for (int k = -4; k <= 4; ++k) {
            const float turn = std::numbers::pi_v<float> / 8 * static_cast<float>(k);
            profile.push_back({r - round + round * std::cos(turn), m.z() + h.z() * std::sin(turn)});
        }
        profile.push_back({0.3F * r, high - 0.002F});
        add(turned(pose, m.x(), m.y(), profile, 48), matt(paint(40, 38, 36), 0.18F));
        return add(turned(pose, m.x(), m.y(),
                          {{0.55F * r, high - 0.001F}, {0.55F * r, high + 0.0005F}, {0.0F, high + 0.0005F}}, 40),
                   painted);
    }
    if (type.ends_with("potted")) return block(Point::Zero(), h, 0.004F, painted);
    if (type.ends_with("open")) {
        block(Point::Zero(), {h.x(), 0.5F * h.y(), h.z()}, 0, laminations);
        return block(Point::Zero(), {0.52F * h.x(), h.y(), 0.62F * h.z()}, 0.003F, tape);
    }
    if (type.ends_with("laydown")) { // laminations lie on the plate, the bell above them
        block({0, 0, -0.62F * h.z()}, {h.x(), h.y(), 0.38F * h.z()}, 0, laminations);
        return block({0, 0, 0.38F * h.z()}, {0.86F * h.x(), 0.84F * h.y(), 0.62F * h.z()}, 0.007F, painted);
    }
    // Upright: the laminations between two bells.
    block(Point::Zero(), {h.x(), 0.46F * h.y(), h.z()}, 0, laminations);
    for (const float side : {-1.F, 1.F})
        block({0, side * 0.72F * h.y(), 0}, {0.9F * h.x(), 0.28F * h.y(), 0.92F * h.z()}, 0.006F, painted);
}

void Dressing::valve(const Body& b) {
    const Point m = middleOf(b);
    const float r = halfOf(b).x(), tall = static_cast<float>(b.height), z = static_cast<float>(b.bottom);
    const bool octal = part.body.find("octal") != std::string::npos;
    const auto ring = [&](std::vector<std::array<float, 2>> profile, const Material& of, bool glass = false,
                          int around = 36) {
        for (auto& p : profile) p[0] *= r, p[1] = z + p[1] * tall;
        add(turned(pose, m.x(), m.y(), profile, around), of, glass);
    };
    // The socket's ring on the plate, and an octal valve's base.
    const float flat = 0.0022F / tall;
    if (part.body.find("flange") != std::string::npos || octal)
        ring({{1.22F, 0}, {1.22F, flat}, {0.0F, flat}}, nickel);
    else
        ring({{1.15F, 0}, {1.15F, flat}, {0.0F, flat}}, bakelite);
    if (chassis.socketTrim == SocketTrim::Rings)
        ring({{1.42F, 0}, {1.42F, 1.6F * flat}, {1.3F, 2.6F * flat}, {1.12F, 1.6F * flat}, {1.12F, 0}}, nickel);
    const float foot = octal ? 0.3F : 0.02F;
    if (octal) ring({{0.86F, 0.0F}, {0.88F, 0.27F}, {0.84F, 0.3F}, {0.0F, 0.3F}}, bakelite);
    // What stands within: plates between two discs of mica, the heater's ends, the mirror of the getter.
    const float low = foot + 0.1F, high = 0.74F;
    const Material plates = matt(paint(58, 56, 55), 0.16F), mica = matt(paint(196, 190, 176), 0.15F);
    ring({{0.0F, low}, {0.52F, low}, {0.52F, high}, {0.0F, high}}, plates, false, 24);
    for (const float at : {low - 0.015F, high})
        ring({{0.0F, at}, {0.78F, at}, {0.78F, at + 0.012F}, {0.0F, at + 0.012F}}, mica, false, 24);
    Material filament = matt(paint(120, 116, 110), 0.1F);
    if (heater > 0.2F) { // a filament's light goes as the 3.4th power of its volts
        const float light = std::pow(heater, 3.4F);
        filament.glow = Colour(1.9F, 0.62F, 0.13F) * light;
        const Point at = pose.at({m.x(), m.y(), z + 0.5F * (low + high) * tall});
        scene.sources.push_back({at, Colour(1.0F, 0.36F, 0.09F) * (0.55F * light * r / 0.011F)});
    }
    ring({{0.0F, low - 0.06F}, {0.16F, low - 0.06F}, {0.16F, low - 0.015F}}, filament, false, 14);
    ring({{0.17F, high + 0.012F}, {0.17F, high + 0.04F}, {0.0F, high + 0.045F}}, filament, false, 14);
    std::vector<std::array<float, 2>> outline{{octal ? 0.86F : 0.94F, foot}, {1.0F, foot + 0.06F}, {1.0F, 0.84F}};
    std::vector<std::array<float, 2>> mirror;
    for (int k = 0; k <= 6; ++k) {
        const float turn = std::numbers::pi_v<float> / 12 * static_cast<float>(k);
        const float dome = 0.84F + (octal ? 0.155F : 0.11F) * std::sin(turn);
        outline.push_back({std::cos(turn) * 0.999F, dome});
        if (k >= 2) mirror.push_back({std::cos(turn) * 0.94F, dome - 0.012F});
    }
    if (!octal) outline.insert(outline.end() - 1, {{0.2F, 0.955F}, {0.12F, 0.985F}, {0.0F, 1.0F}}), outline.pop_back();
    ring(mirror, metal(paint(150, 148, 146), 0.75F), false, 28);
    ring(outline, {}, true, 40);
}

void Dressing::meter(const Body& b) {
    if (b.id != "face") return;
    const Point m = middleOf(b), h = halfOf(b);
    const float front = m.z() + h.z();
    add(box(pose, m, h, 0.002F), bakelite);
    add(plane(pose, {m.x() - 0.82F * h.x(), m.y() - 0.5F * h.y(), front + 2e-4F}, {1.64F * h.x(), 0, 0},
              {0, 1.3F * h.y(), 0}),
        white);
    // The needle from its pivot, 45 degrees to each side.
    const float turn = std::numbers::pi_v<float> / 2 * (meterShare - 0.5F), length = 1.05F * h.y();
    const Eigen::Vector2f way(std::sin(turn), std::cos(turn)), across(way.y(), -way.x());
    const float wide = 0.0005F;
    const Point pivot(m.x(), m.y() - 0.45F * h.y(), front + 5e-4F);
    add(plane(pose, pivot + Point(across.x(), across.y(), 0) * -wide, {2 * wide * across.x(), 2 * wide * across.y(), 0},
              {length * way.x(), length * way.y(), 0}),
        dark);
    // Its glass.
    add(plane(pose, {m.x() - 0.9F * h.x(), m.y() - 0.9F * h.y(), front + 1.5e-3F}, {1.8F * h.x(), 0, 0},
              {0, 1.8F * h.y(), 0}),
        {}, true);
}

void Dressing::knob(const Body& b) {
    const Point m = middleOf(b), h = halfOf(b);
    const float low = m.z() - h.z(), high = m.z() + h.z(), r = h.x();
    add(turned(pose, m.x(), m.y(),
               {{r, low},
                {r, low + 0.35F * (high - low)},
                {0.8F * r, low + 0.45F * (high - low)},
                {0.76F * r, high - 0.001F},
                {0.7F * r, high},
                {0.0F, high}},
               40),
        bakelite);
    add(box(pose, {m.x(), m.y() + 0.48F * r, high + 2e-4F}, {0.0006F, 0.26F * r, 3e-4F}), white);
}

void Dressing::posts(const Body& b) {
    const Point m = middleOf(b), h = halfOf(b);
    const float low = m.z() - h.z(), high = m.z() + h.z(), r = 0.4F * h.y() * 2 * 0.9F;
    for (const float side : {-1.F, 1.F}) {
        const Material of = side > 0 ? matt(paint(150, 36, 28), 0.35F, 60) : blackPaint;
        add(turned(pose, m.x() + side * 0.0095F, m.y(),
                   {{0.8F * r, low},
                    {0.8F * r, low + 0.006F},
                    {r, low + 0.007F},
                    {r, high - 0.002F},
                    {0.85F * r, high},
                    {0.0F, high}},
                   24),
            of);
    }
}

/// At each fixing hole a round head.
void Dressing::screws() {
    const bool heavy = isIron(part);
    for (const Hole& hole : part.holes) {
        if (hole.id.size() < 2 || hole.id[0] != 'b' || !std::isdigit(static_cast<unsigned char>(hole.id[1]))) continue;
        const float r = static_cast<float>(hole.width) * (heavy ? 0.95F : 0.85F), high = 0.65F * r;
        const auto x = static_cast<float>(hole.x), y = static_cast<float>(hole.y);
        add(turned(pose, x, y, {{r, 0.0F}, {r, 0.3F * high}, {0.8F * r, 0.8F * high}, {0.4F * r, high}, {0.0F, high}},
                   14),
            nickel);
    }
}

} // namespace ember::chassis::look
