#include "dress.h"

#include "core/chassis/assembly.h"
#include "core/chassis/finishes.h"

#include <algorithm>

namespace ember::chassis::look {

namespace {

constexpr float strip = static_cast<float>(stripSheet), plateSheet = 0.0015F, spacer = 0.003F, rim = 0.003F; // [m]

} // namespace

/// The wood, and a strip of sheet along each edge where parts stand on one.
void addBoard(Scene& scene, const Chassis& c) {
    const auto wide = static_cast<float>(c.width), deep = static_cast<float>(c.depth),
               high = static_cast<float>(c.height), t = static_cast<float>(c.thickness);
    scene.surfaces.push_back(
        {box({}, {wide / 2, deep / 2, -t / 2 - 2e-4F}, {wide / 2, deep / 2, t / 2}, 0.002F), boardMaterial(c)});
    const Material metal = plateMaterial(c);
    for (const Face face : stripsOf(c)) {
        const Frame frame = frameOf(c, face);
        const Pose pose{frame.axes.cast<float>(), frame.origin.cast<float>()};
        const auto along = static_cast<float>(frame.width);
        scene.surfaces.push_back(
            {box(pose, {along / 2, high / 2, -strip / 2}, {along / 2, high / 2, strip / 2}, 0.3F * strip), metal});
    }
}

/// Spacers from the wood to a part's plane; a plate of sheet there for what needs holes that wood cannot have.
void Dressing::spacers(float lift) {
    float left = 1, right = -1, near = 1, far = -1, lowest = 0;
    bool above = false;
    for (const Body& b : part.bodies) {
        const auto w = static_cast<float>(b.width / 2),
                   d = static_cast<float>((b.shape == BodyShape::Cylinder ? b.width : b.depth) / 2);
        const auto x = static_cast<float>(b.x), y = static_cast<float>(b.y);
        left = std::min(left, x - w), right = std::max(right, x + w);
        near = std::min(near, y - d), far = std::max(far, y + d);
        lowest = std::min(lowest, static_cast<float>(bottomOf(chassis, part, b)));
        above = above || b.bottom + b.height > 1e-4;
    }
    const Material metal = plateMaterial(chassis);
    const float top = above ? 0 : lowest;
    if (above)
        add(box(pose, {(left + right) / 2, (near + far) / 2, -plateSheet / 2},
                {(right - left) / 2 + rim, (far - near) / 2 + rim, plateSheet / 2}, 0.3F * plateSheet),
            metal);
    const auto stand = [&](float x, float y) {
        add(turned(pose, x, y, {{spacer, -lift}, {spacer, top}, {0.0F, top}}, 12), rubber());
    };
    bool bolted = false;
    for (const Hole& h : part.holes)
        if (isBolt(h)) {
            stand(static_cast<float>(h.x), static_cast<float>(h.y));
            bolted = true;
        }
    if (!bolted)
        for (const float x : {left, right})
            for (const float y : {near, far}) stand(x, y);
}

} // namespace ember::chassis::look
