#include "dress.h"

#include "core/chassis/cage.h"

#include <cmath>

namespace ember::chassis::look {

void addCage(Scene& scene, const Chassis& c, float height) {
    Material black;
    black.colour = Colour::Constant(0.012F), black.gloss = 0.3F, black.sharpness = 45;
    const auto bar = [&](const Point& from, const Point& to) { // of square section, along one direction
        const Point half = (to - from) / 2;
        const float wide = static_cast<float>(cageBar) / 2;
        scene.surfaces.push_back({box({}, (from + to) / 2, half.cwiseAbs().cwiseMax(wide)), black});
    };
    const auto m = static_cast<float>(cageMargin);
    const float left = m, right = static_cast<float>(c.width) - m, near = m, far = static_cast<float>(c.depth) - m;
    for (const float z : {0.002F, height}) {
        for (const float y : {near, far}) bar({left, y, z}, {right, y, z});
        for (const float x : {left, right}) bar({x, near, z}, {x, far, z});
    }
    const auto between = [](float a, float b) {
        return static_cast<int>(std::ceil((b - a) / static_cast<float>(cagePitch)));
    };
    const int across = between(left, right), along = between(near, far);
    for (int k = 0; k <= across; ++k) {
        const float x = left + (right - left) * static_cast<float>(k) / static_cast<float>(across);
        for (const float y : {near, far}) bar({x, y, 0}, {x, y, height});
        bar({x, near, height}, {x, far, height});
    }
    for (int k = 1; k < along; ++k) {
        const float y = near + (far - near) * static_cast<float>(k) / static_cast<float>(along);
        for (const float x : {left, right}) bar({x, y, 0}, {x, y, height});
    }
}

} // namespace ember::chassis::look
