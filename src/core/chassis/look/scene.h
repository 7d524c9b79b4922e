#pragma once
// The finished amplifier as surfaces with their materials, from the bodies that the layout has.

#include "mesh.h"

#include "core/build/chassis.h"

#include <map>
#include <string>

namespace ember::chassis::look {

/// Linear light, 0 .. 1 for red, green, blue.
using Colour = Eigen::Array3f;

struct Material {
    Colour colour = Colour::Constant(0.5F); ///< reflected by a matt one, or tint of a metal's mirror
    float gloss = 0.2F;                     ///< of what it mirrors
    float sharpness = 30;                   ///< exponent of the highlight
    bool metal = false;
    Colour glow = Colour::Zero(); ///< light of its own
};

struct Surface {
    Mesh mesh;
    Material material;
    bool glass = false;  ///< blended over what is behind it
    bool ground = false; ///< takes the shadows of what stands on it
};

/// A lamp or a heater: light that it throws on what is near.
struct Source {
    Point at = Point::Zero();
    Colour light = Colour::Zero(); ///< at 3 cm
};

/// A box around what throws a shadow, seen from above.
struct Shade {
    float left = 0, right = 0, near = 0, far = 0, height = 0; ///< height over the surface it stands on [m]
    float level = 0;                                          ///< of that surface
};

struct Scene {
    std::vector<Surface> surfaces; ///< glass last
    std::vector<Source> sources;
    std::vector<Shade> shades;
    Point middle = Point::Zero();
    float radius = 0.2F; ///< no point of the amplifier is farther from the middle [m]
};

/// How it stands: what glows, and how far the meter goes.
struct Operating {
    std::map<std::string, double> heaters; ///< by electrical id: the heater's volts over its rated ones; absent: cold
    std::map<std::string, double> meters;  ///< share of full scale
    bool lamp = false;
};

Scene sceneOf(const Chassis& chassis, const Operating& now);

} // namespace ember::chassis::look
