// The solid picture: closed surfaces, true to the layout's sizes, light where it belongs.

#include "../support/demo.h"
#include "../support/shipped.h"
#include "../support/suite.h"

#include "core/chassis/assembly.h"
#include "core/chassis/cage.h"
#include "core/chassis/layout_figures.h"
#include "core/chassis/look/operating.h"
#include "core/chassis/look/render.h"
#include "core/plan/solve.h"

#include <QTest>

#include <cmath>
#include <numbers>

using namespace ember;
using namespace ember::chassis;
using namespace ember::chassis::look;

namespace {

/// Volume that a closed surface encloses (divergence theorem), and whether every face looks where its normals do.
struct Enclosed {
    double volume = 0;
    bool outward = true;
};
Enclosed enclosed(const Mesh& m) {
    Enclosed out;
    for (const auto& f : m.faces) {
        const Point &a = m.points[static_cast<std::size_t>(f[0])], &b = m.points[static_cast<std::size_t>(f[1])],
                    &c = m.points[static_cast<std::size_t>(f[2])];
        out.volume += double(a.dot(b.cross(c))) / 6;
        const Point face = (b - a).cross(c - a);
        if (face.norm() > 1e-12F && face.dot(m.normals[static_cast<std::size_t>(f[0])]) < -1e-9F) out.outward = false;
    }
    return out;
}

/// Light of a picture in a rectangle, as shares of its sides: the mean of the green.
double brightness(const Picture& p, double left, double top, double right, double bottom) {
    double sum = 0;
    int count = 0;
    for (int y = int(top * p.height); y < int(bottom * p.height); ++y)
        for (int x = int(left * p.width); x < int(right * p.width); ++x, ++count)
            sum += p.pixels[std::size_t(y) * std::size_t(p.width) + std::size_t(x)] >> 8 & 0xff;
    return sum / std::max(1, count);
}

Operating warm(const Build& b) {
    return operatingOf(b, plan::solveFigures(b, catalogue));
}

} // namespace

class TestLook : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    /// Boxes and turned shapes are closed, face outward and hold the volume of their closed forms.
    void shapesAreClosed() {
        Pose turned30;
        turned30.axes = Eigen::AngleAxisf(0.5F, Point(1, 2, 3).normalized()).toRotationMatrix();
        turned30.origin = {0.1F, -0.2F, 0.3F};
        const Enclosed sharp = enclosed(box(turned30, {0.01F, 0, 0}, {0.05F, 0.04F, 0.03F}));
        QVERIFY(sharp.outward && std::abs(sharp.volume / (8 * 0.05 * 0.04 * 0.03) - 1) < 1e-4);
        // Rounded by r: a sum of box, slabs, quarter cylinders and a sphere (Steiner).
        const double a = 0.045, b = 0.035, c = 0.025, r = 0.005, pi = std::numbers::pi;
        const double steiner =
            8 * a * b * c + 8 * r * (a * b + b * c + a * c) + 2 * pi * r * r * (a + b + c) + 4 * pi / 3 * r * r * r;
        const Enclosed round = enclosed(box(turned30, Point::Zero(), {0.05F, 0.04F, 0.03F}, 0.005F));
        QVERIFY(round.outward);
        QVERIFY2(std::abs(round.volume / steiner - 1) < 0.01,
                 qPrintable(QString("%1 %2").arg(round.volume).arg(steiner)));
        const Enclosed cone = enclosed(turned(turned30, 0.02F, 0, {{0.0F, 0.0F}, {0.03F, 0.0F}, {0.0F, 0.06F}}, 128));
        QVERIFY(cone.outward && std::abs(cone.volume / (pi * 0.03 * 0.03 * 0.06 / 3) - 1) < 2e-3);
    }

    /// Nothing stands out of the bodies that the layout has by more than a fixing: one set of sizes.
    void sizesAreTheLayouts() {
        const Build b = demoBuild();
        const Scene scene = sceneOf(b.chassis, {});
        const Assembly assembly = assemble(b.chassis);
        double tallest = 0, drawn = 0;
        for (const PlacedBody& body : assembly.bodies)
            if (b.chassis.parts[body.part].face == Face::Top) tallest = std::max(tallest, body.solid.highest());
        for (const Surface& s : scene.surfaces)
            for (const Point& p : s.mesh.points) {
                QVERIFY(p.allFinite());
                drawn = std::max(drawn, double(p.z()));
                if (s.ground) continue;
                QVERIFY(p.x() > -0.04F && p.x() < b.chassis.width + 0.04 && p.y() > -0.05F &&
                        p.y() < b.chassis.depth + 0.05);
            }
        QVERIFY2(std::abs(drawn - tallest) < 1e-3, qPrintable(QString("%1 %2").arg(drawn).arg(tallest)));
        for (const Surface& s : scene.surfaces) QCOMPARE(s.mesh.points.size(), s.mesh.normals.size());
        QVERIFY(scene.surfaces.back().glass && !scene.surfaces.front().glass);
    }

    /// Heaters glow at what the plan gives them: with a heater winding of half the volts a tenth of the light.
    void heatersGlowAtTheirVolts() {
        Build b = demoBuild();
        const Operating now = warm(b);
        QVERIFY(now.lamp);
        for (const char* id : {"v1", "v2", "v3", "v7"}) {
            const auto at = now.heaters.find(id);
            QVERIFY2(at != now.heaters.end() && std::abs(at->second - 1) < 0.1, id);
        }
        const auto light = [&](double volts) {
            Operating o;
            o.heaters["v3"] = volts;
            const Scene s = sceneOf(b.chassis, o);
            return s.sources.empty() ? 0.0 : double(s.sources[0].light.sum());
        };
        QVERIFY(std::abs(light(0.5) / light(1) - std::pow(0.5, 3.4)) < 1e-3);
        QCOMPARE(light(0), 0.0);
        QCOMPARE(sceneOf(b.chassis, {}).sources.size(), std::size_t(0));
        QCOMPARE(sceneOf(b.chassis, now).sources.size(), std::size_t(7));
    }

    /// What is nearer hides what is behind, from every side; evening is darker than day; two threads draw what one
    /// does.
    void picturesHoldTogether() {
        const Build b = demoBuild();
        const Scene scene = sceneOf(b.chassis, warm(b));
        Renderer one(1), two(2);
        View view;
        const Picture day = one.draw(scene, view, Light::Day, 320, 200);
        QCOMPARE(day.pixels.size(), std::size_t(320 * 200));
        QVERIFY(two.draw(scene, view, Light::Day, 320, 200).pixels == day.pixels);
        const Picture evening = one.draw(scene, view, Light::Evening, 320, 200);
        QVERIFY(brightness(evening, 0, 0, 1, 1) < 0.45 * brightness(day, 0, 0, 1, 1));
        // A cold amplifier in the evening is darker around its valves than a warm one.
        const Picture cold = one.draw(sceneOf(b.chassis, {}), view, Light::Evening, 320, 200);
        QVERIFY(brightness(cold, 0.3, 0.4, 0.7, 0.8) < 0.97 * brightness(evening, 0.3, 0.4, 0.7, 0.8));
        // From behind the front panel's lamp is hidden: no saturated red anywhere.
        const auto reds = [](const Picture& p) {
            return std::count_if(p.pixels.begin(), p.pixels.end(), [](std::uint32_t c) {
                return (c >> 16 & 0xff) > 200 && (c >> 8 & 0xff) < 120 && (c & 0xff) < 90;
            });
        };
        QVERIFY(reds(day) > 5);
        view.azimuth = 180;
        QCOMPARE(reds(one.draw(scene, view, Light::Day, 320, 200)), 0);
        // At rest the edges are averaged, and the picture as a whole stays as bright.
        const Picture fine = one.draw(scene, View{}, Light::Day, 320, 200, 2);
        QVERIFY(std::abs(brightness(fine, 0, 0, 1, 1) / brightness(day, 0, 0, 1, 1) - 1) < 0.01);
    }

    /// Every finish and form can be drawn, and each is another picture.
    void finishesAreSeen() {
        Build b = demoBuild();
        std::vector<double> seen;
        Renderer r(1);
        for (const auto finish :
             {PlateFinish::Bare, PlateFinish::Black, PlateFinish::Cream, PlateFinish::Green, PlateFinish::Red}) {
            b.chassis.plateFinish = finish;
            seen.push_back(brightness(r.draw(sceneOf(b.chassis, {}), {}, Light::Day, 240, 150), 0.3, 0.4, 0.7, 0.8));
        }
        for (std::size_t k = 1; k < seen.size(); ++k) QVERIFY(std::abs(seen[k] - seen[0]) > 2);
        QVERIFY(seen[1] < 0.7 * seen[0]);
        for (const auto form : {ChassisForm::Plate, ChassisForm::Frame}) {
            b.chassis.form = form;
            b.chassis.wallFinish = WallFinish::Walnut;
            QVERIFY(!sceneOf(b.chassis, {}).surfaces.empty());
        }
        b.chassis.parts.clear(); // a bare plate
        QVERIFY(r.draw(sceneOf(b.chassis, {}), {}, Light::Day, 64, 40).pixels.size() == 64 * 40);
    }

    /// In a narrow picture nothing of the amplifier is cut off at the sides: its paint does not reach them.
    void narrowPicturesHoldAllOfIt() {
        Build b = demoBuild();
        Renderer one, two;
        const Picture bare = one.draw(sceneOf(b.chassis, {}), {-30, 24, 1, 0, 0}, Light::Day, 200, 300, 1);
        b.chassis.plateFinish = PlateFinish::Red;
        const Picture& red = two.draw(sceneOf(b.chassis, {}), {-30, 24, 1, 0, 0}, Light::Day, 200, 300, 1);
        std::size_t differ = 0;
        for (std::size_t y = 0; y < 300; ++y) {
            QCOMPARE(bare.pixels[200 * y], red.pixels[200 * y]);
            QCOMPARE(bare.pixels[200 * y + 199], red.pixels[200 * y + 199]);
            for (std::size_t x = 0; x < 200; ++x) differ += bare.pixels[200 * y + x] != red.pixels[200 * y + x];
        }
        QVERIFY(differ > 5000);
    }

    /// A cage stands clear of everything on the top, lets no finger through, weighs something and is seen; so are rings
    /// around the sockets.
    void aCageStandsOverTheParts() {
        Build b = demoBuild();
        const LayoutFigures open = LayoutSolver().solve(b, catalogue, {});
        QCOMPARE(cageHeight(b.chassis, open.assembly), 0.0);
        const Scene before = sceneOf(b.chassis, {});
        b.chassis.socketTrim = SocketTrim::Rings;
        QVERIFY(sceneOf(b.chassis, {}).surfaces.size() > before.surfaces.size());
        b.chassis.socketTrim = SocketTrim::Plain;
        b.chassis.cover = Cover::Cage;
        const LayoutFigures covered = LayoutSolver().solve(b, catalogue, {});
        const double height = cageHeight(b.chassis, covered.assembly);
        for (const PlacedBody& body : covered.assembly.bodies)
            if (b.chassis.parts[body.part].face == Face::Top) QVERIFY(body.solid.highest() < height - 0.9 * cageAbove);
        QVERIFY(cagePitch - cageBar < 0.012); // IEC 60529: the jointed finger
        QVERIFY(covered.mass - open.mass > 0.2 && covered.mass - open.mass < 2);
        const Scene after = sceneOf(b.chassis, {});
        QVERIFY(after.surfaces.size() > before.surfaces.size() + 100);
        Renderer one, two;
        QVERIFY(one.draw(before, {-30, 24, 1, 0, 0}, Light::Day, 320, 200, 1).pixels !=
                two.draw(after, {-30, 24, 1, 0, 0}, Light::Day, 320, 200, 1).pixels);
    }

    void proportionsOfTheDemo() {
        const Build b = demoBuild();
        const plan::Figures f = plan::solveFigures(b, catalogue);
        const Proportions p = proportionsOf(b.chassis, *f.layout);
        QVERIFY(p.underIron > 0.05 && p.underIron < 0.4);
        QVERIFY(std::abs(p.tallest - 0.085) < 1e-6); // the rectifier's glass
        QVERIFY(p.overMean > 1 && p.overMean < 3);
        QVERIFY(p.massY > 0); // the iron stands at the back
    }
};

EMBER_TESTS(TestLook)
#include "test_look.moc"
