#include "scene.h"

#include "dress.h"

#include "core/chassis/assembly.h"
#include "core/chassis/cage.h"
#include "core/chassis/finishes.h"
#include "core/chassis/tower.h"

#include <algorithm>
#include <cmath>

namespace ember::chassis::look {

namespace {

constexpr float feet = 0.01F; // [m]

Point single(const Vector& v) {
    return v.cast<float>();
}

class Building {
  public:
    Building(const Chassis& chassis, const Operating& state) : c(chassis), now(state), assembly(assemble(chassis)) {}

    Scene run() {
        bench();
        chassisItself(0);
        if (isTower(c)) {
            const auto low = -static_cast<float>(lowerBy(c));
            chassisItself(low);
            scene.shades.push_back(
                {0, static_cast<float>(c.width), 0, static_cast<float>(c.depth), static_cast<float>(c.storey), low});
            for (const Pillar& at : pillarsOf(c)) pillar(at);
        }
        feetUnder(-static_cast<float>(depthBelow(c)));
        for (std::size_t k = 0; k < c.parts.size(); ++k) part(k);
        if (const auto cage = static_cast<float>(cageHeight(c, assembly)); cage > 0) {
            addCage(scene, c, cage);
            tallest = std::max(tallest, cage);
        }
        std::stable_partition(scene.surfaces.begin(), scene.surfaces.end(), [](const Surface& s) { return !s.glass; });
        const float wide = static_cast<float>(c.width), deep = static_cast<float>(c.depth),
                    low = -static_cast<float>(depthBelow(c)) - feet;
        scene.middle = {wide / 2, deep / 2, (tallest + low) / 2};
        // The corners of a tower come nearer to the eye than those of what lies flat: room for the perspective.
        scene.radius = (isTower(c) ? 1.1F : 1) * Point(wide / 2, deep / 2, (tallest - low) / 2).norm();
        return std::move(scene);
    }

  private:
    void bench() {
        const float wide = static_cast<float>(c.width), deep = static_cast<float>(c.depth),
                    z = -static_cast<float>(depthBelow(c)) - feet, reach = 3.2F * std::max(wide, deep);
        scene.shades.push_back({0, wide, 0, deep, static_cast<float>(depthBelow(c)) + feet, z});
        scene.surfaces.push_back(
            {plane({}, {-reach, -reach, z}, {wide + 2 * reach, 0, 0}, {0, deep + 2 * reach, 0}, 64, 58), benchTop(),
             false, true});
    }
    /// One chassis, its plate at `at`.
    void chassisItself(float at) {
        const float wide = static_cast<float>(c.width), deep = static_cast<float>(c.depth),
                    high = static_cast<float>(wallsBelow(c)), t = static_cast<float>(c.thickness);
        const bool board = c.form == ChassisForm::Board;
        const Material plate = board ? boardMaterial(c) : plateMaterial(c), walls = wallMaterial(c);
        scene.surfaces.push_back({plane({}, {0, 0, at}, {wide, 0, 0}, {0, deep, 0}, 92, 62), plate, false, true});
        const auto add = [&](const Mesh& m, const Material& of) { scene.surfaces.push_back({m, of}); };
        if (board) {
            addBoard(scene, c);
        } else if (c.form == ChassisForm::Plate) {
            add(box({}, {wide / 2, deep / 2, at - t / 2 - 2e-4F}, {wide / 2, deep / 2, t / 2}), plate);
        } else {
            const bool frame = c.form == ChassisForm::Frame;
            const float sheet = frame ? static_cast<float>(frameBoard) : t, round = frame ? 0.0015F : 0.4F * t,
                        low = at - high / 2 - 2e-4F;
            for (const float y : {sheet / 2, deep - sheet / 2})
                add(box({}, {wide / 2, y, low}, {wide / 2, sheet / 2, high / 2}, round), walls);
            for (const float x : {sheet / 2, wide - sheet / 2})
                add(box({}, {x, deep / 2, low}, {sheet / 2, deep / 2, high / 2}, round), walls);
        }
    }
    void feetUnder(float low) {
        const float wide = static_cast<float>(c.width), deep = static_cast<float>(c.depth);
        for (const float x : {0.025F, wide - 0.025F})
            for (const float y : {0.025F, deep - 0.025F})
                scene.surfaces.push_back(
                    {turned({}, x, y, {{0.0F, low - feet}, {0.008F, low - feet}, {0.01F, low}, {0.0F, low}}, 20),
                     rubber()});
    }
    /// The tube between the chassis and a nut on the upper plate.
    void pillar(const Pillar& at) {
        const auto x = static_cast<float>(at.x), y = static_cast<float>(at.y), from = -static_cast<float>(lowerBy(c)),
                   to = -static_cast<float>(c.thickness), r = static_cast<float>(pillarDiameter) / 2;
        scene.surfaces.push_back({turned({}, x, y, {{r, from}, {r, to}}, 20), brightMetal()});
        scene.surfaces.push_back(
            {turned({}, x, y, {{0.0046F, 0.0F}, {0.0046F, 0.004F}, {0.0025F, 0.0045F}, {0.0025F, 0.008F}, {0, 0.008F}},
                    6),
             brightMetal()});
    }
    void part(std::size_t k) {
        const PlacedPart& p = c.parts[k];
        const Frame frame = frameOf(c, p);
        const Pose pose{frame.axes.cast<float>(), single(frame.origin)};
        Dressing dressing{c, p, pose, heater(p.of), share(p.of), now.lamp, scene};
        for (const std::size_t n : assembly.of[k]) {
            const PlacedBody& body = assembly.bodies[n];
            if (!body.outside) continue;
            dressing.body(p.bodies[body.body]);
            if (!isPlate(p.face)) continue;
            const Solid& s = body.solid;
            const auto edge = [&](const Vector& way) { return static_cast<float>(s.support(way).dot(way)); };
            scene.shades.push_back({-edge(-Vector::UnitX()), edge(Vector::UnitX()), -edge(-Vector::UnitY()),
                                    edge(Vector::UnitY()),
                                    edge(Vector::UnitZ()) - static_cast<float>(plateHeight(c, p.face)),
                                    static_cast<float>(plateHeight(c, p.face))});
            tallest = std::max(tallest, edge(Vector::UnitZ()));
        }
        if (c.form == ChassisForm::Board && frame.origin.z() > 0 && isPlate(p.face))
            dressing.spacers(static_cast<float>(frame.origin.z()));
        dressing.screws();
    }
    [[nodiscard]] float heater(const std::string& id) const {
        const auto at = now.heaters.find(id);
        return at == now.heaters.end() ? 0 : static_cast<float>(at->second);
    }
    [[nodiscard]] float share(const std::string& id) const {
        const auto at = now.meters.find(id);
        return at == now.meters.end() ? 0 : static_cast<float>(std::clamp(at->second, -0.05, 1.1));
    }

    const Chassis& c;
    const Operating& now;
    Assembly assembly;
    Scene scene;
    float tallest = 0.02F;
};

} // namespace

Scene sceneOf(const Chassis& chassis, const Operating& now) {
    return Building(chassis, now).run();
}

} // namespace ember::chassis::look
