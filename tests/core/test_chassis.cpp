// The layout's physics against closed forms, brute force and limits.

#include "../support/demo.h"
#include "../support/suite.h"

#include "core/chassis/bending.h"
#include "core/chassis/bodies.h"
#include "core/chassis/exposure.h"
#include "core/chassis/fit.h"
#include "core/chassis/metal.h"
#include "core/chassis/stray_field.h"

#include <QTest>

#include <cmath>
#include <numbers>
#include <random>

using namespace ember;
using namespace ember::chassis;

namespace {

Solid solid(std::mt19937& chance, double spread) {
    std::uniform_real_distribution<double> along(-spread, spread), size(0.005, 0.03), turn(-3.2, 3.2);
    Solid s;
    s.cylinder = chance() % 2;
    s.centre = {along(chance), along(chance), along(chance)};
    s.half = {size(chance), size(chance), size(chance)};
    if (s.cylinder) s.half.y() = s.half.x();
    s.axes = (Eigen::AngleAxisd(turn(chance), Vector::UnitZ()) * Eigen::AngleAxisd(turn(chance), Vector::UnitX()))
                 .toRotationMatrix();
    return s;
}

/// From a point to a solid, by hand.
double pointDistance(const Solid& s, const Vector& point) {
    const Vector p = (s.axes.transpose() * (point - s.centre)).cwiseAbs();
    const double up = std::max(0.0, p.z() - s.half.z());
    if (s.cylinder) return std::hypot(std::max(0.0, std::hypot(p.x(), p.y()) - s.half.x()), up);
    return Vector(std::max(0.0, p.x() - s.half.x()), std::max(0.0, p.y() - s.half.y()), up).norm();
}

/// Least distance from points spread through one solid to the other: it can only overstate, by less than the mesh.
double sampled(const Solid& a, const Solid& b) {
    double least = 1e9;
    constexpr int n = 12;
    for (int i = 0; i <= n; ++i)
        for (int j = 0; j <= 2 * n; ++j)
            for (int k = 0; k <= n; ++k) {
                Vector p;
                if (a.cylinder) {
                    const double r = a.half.x() * i / n, t = std::numbers::pi * j / n;
                    p = {r * std::cos(t), r * std::sin(t), a.half.z() * (2.0 * k / n - 1)};
                } else {
                    p = {a.half.x() * (2.0 * i / n - 1), a.half.y() * (1.0 * j / n - 1),
                         a.half.z() * (2.0 * k / n - 1)};
                }
                least = std::min(least, pointDistance(b, a.centre + a.axes * p));
            }
    return least;
}

Dipole dipole(const Vector& centre, const Vector& axis) {
    return {0, centre, axis.normalized(), 1, 0.02};
}

PlacedPart part(const std::string& body, const std::string& id, double x, double y, double angle = 0, double size = 0) {
    auto p = makePart(body, size);
    if (!p) qFatal("%s", p.problem().text().c_str());
    p->id = id;
    p->x = x;
    p->y = y;
    p->angle = angle;
    return *p;
}

std::vector<FitKind> kindsOf(const Chassis& c, double volts = 400) {
    std::vector<FitKind> out;
    for (const FitProblem& p : checkFit(c, assemble(c), volts)) out.push_back(p.kind);
    return out;
}

} // namespace

class TestChassis : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void distancesAgreeWithSampling() {
        std::mt19937 chance(7);
        int apart = 0, touching = 0;
        for (int k = 0; k < 60; ++k) {
            const Solid a = solid(chance, 0.03), b = solid(chance, 0.03);
            const double d = distance(a, b), brute = sampled(a, b);
            if (brute == 0)
                QVERIFY2(d == 0, qPrintable(QString("pair %1: %2").arg(k).arg(d)));
            else // the grid can only overstate, by less than its mesh
                QVERIFY2(d <= brute + 1e-7 && d > brute - 0.005,
                         qPrintable(QString("pair %1: %2 against %3").arg(k).arg(d).arg(brute)));
            (d > 0 ? apart : touching)++;
            QVERIFY(std::abs(distance(b, a) - d) < 1e-6);
        }
        QVERIFY(apart > 10 && touching > 10);
    }

    void boxesAndCylindersInLine() {
        Solid a, b;
        a.half = b.half = {0.01, 0.01, 0.01};
        b.centre = {0.05, 0, 0};
        QVERIFY(std::abs(distance(a, b) - 0.03) < 1e-9);
        b.centre = {0.05, 0.05, 0};
        QVERIFY2(std::abs(distance(a, b) - 0.03 * std::sqrt(2)) < 1e-8, "corner to corner");
        a.cylinder = b.cylinder = true;
        QVERIFY2(std::abs(distance(a, b) - (0.05 * std::sqrt(2) - 0.02)) < 1e-7, "round to round");
        b.centre = {0, 0, 0.021};
        QVERIFY(std::abs(distance(a, b) - 0.001) < 1e-9);
        b.centre = {0, 0, 0.019};
        QCOMPARE(distance(a, b), 0.0);
    }

    void dipolesOnAxisBroadsideAndNull() {
        const Vector x = Vector::UnitX(), y = Vector::UnitY();
        const double r = 0.1;
        QVERIFY2(std::abs(coupling(dipole({0, 0, 0}, x), dipole({r, 0, 0}, x)) - 2 / (r * r * r)) < 1e-9,
                 "coaxial: 2 / r^3");
        QVERIFY2(std::abs(coupling(dipole({0, 0, 0}, x), dipole({0, r, 0}, x)) + 1 / (r * r * r)) < 1e-9,
                 "broadside: -1 / r^3");
        QVERIFY2(std::abs(coupling(dipole({0, 0, 0}, x), dipole({r, 0, 0}, y))) < 1e-12, "crossed in line: none");
        // The cone of the null: 3 cos^2 = 1.
        const double t = std::acos(1 / std::sqrt(3));
        QVERIFY(std::abs(coupling(dipole({0, 0, 0}, x), dipole({r * std::cos(t), r * std::sin(t), 0}, x))) < 1e-9);
        // Twice as far is an eighth: 18 dB.
        const double near = couplingDb(dipole({0, 0, 0}, x), dipole({0.1, 0, 0}, x)),
                     far = couplingDb(dipole({0, 0, 0}, x), dipole({0.2, 0, 0}, x));
        QVERIFY(std::abs(near - far - 60 * std::log10(2)) < 1e-9);
        QVERIFY2(std::abs(couplingDb(dipole({0, 0, 0}, x), dipole({0.04, 0, 0}, x))) < 1e-9,
                 "touching and in line: 0 dB");
    }

    void theBestAngleIsWhereASearchFindsIt() {
        std::mt19937 chance(3);
        std::uniform_real_distribution<double> along(-0.2, 0.2);
        for (int k = 0; k < 20; ++k) {
            const Dipole a = dipole({0, 0, 0}, {along(chance), along(chance), along(chance)});
            const Dipole b = dipole({along(chance), along(chance), 0.02}, {along(chance), along(chance), 0});
            const auto at = [&](double degrees) {
                Dipole turned = b;
                turned.axis = Eigen::AngleAxisd(degrees * std::numbers::pi / 180, Vector::UnitZ()) * b.axis;
                return std::abs(coupling(a, turned));
            };
            double least = 1e300;
            for (double d = -180; d < 180; d += 0.1) least = std::min(least, at(d));
            const BestAngle best = bestAngle(a, b, Vector::UnitZ());
            QVERIFY(at(best.turn) <= least * (1 + 1e-9) + 1e-9);
            QVERIFY2(best.null, "a flat part can always be turned to a null");
        }
    }

    void theFieldFallsWithTheCubeAndAddsAsSquares() {
        const Dipole d = dipole({0, 0, 0}, Vector::UnitX());
        const double one = fieldAt(d, {0.1, 0, 0}).norm(), two = fieldAt(d, {0.2, 0, 0}).norm();
        QVERIFY(std::abs(one / two - 8) < 1e-9);
        QVERIFY(std::abs(one / fieldAt(d, {0, 0.1, 0}).norm() - 2) < 1e-9);
        const std::vector<Dipole> both{d, d};
        QVERIFY(std::abs(fieldAt(both, {0.1, 0, 0}) / one - std::sqrt(2)) < 1e-9);
        // The choice of the moment: 20 uT on the axis at 0.1 m for 100 VA.
        Chassis c;
        c.parts = {part("transformer-upright", "t", 0.18, 0.11, 0, 100)};
        const auto all = dipolesOf(c, assemble(c));
        QVERIFY(std::abs(fieldAt(all[0], all[0].centre + 0.1 * all[0].axis).norm() - 20e-6) < 1e-9);
    }

    void aToroidKeepsItsFieldToItself() {
        Chassis c;
        c.parts = {part("transformer-toroid", "t", 0.18, 0.11, 0, 100), part("jack", "j", 0.1, 0.03)};
        c.parts[0].of = "pt1";
        const Hum hum{{"pt1"}, {}, "", {}};
        const double toroid = exposures(c, dipolesOf(c, assemble(c)), hum).pairs[0].tesla;
        c.parts[0] = part("transformer-upright", "t", 0.18, 0.11, 0, 100);
        c.parts[0].of = "pt1";
        QVERIFY(exposures(c, dipolesOf(c, assemble(c)), hum).pairs[0].tesla > 3 * toroid);
    }

    /// Twice as far from a wire pair is a quarter: 12 dB.
    void wiringFallsWithTheSquare() {
        Chassis c;
        c.parts = {part("inlet", "i", 0.02, 0.03), part("jack", "j", 0.12, 0.03)};
        c.parts[0].face = c.parts[1].face = Face::Back;
        const auto at = [&](double x) {
            c.parts[1].x = x;
            return exposures(c, {}, {}).pairs.at(0).db();
        };
        QVERIFY(std::abs(at(0.12) - at(0.22) - 40 * std::log10(2)) < 1e-6);
    }

    /// Timoshenko: a square plate under a central load sags 0.0116 P a^2 / D.
    void aCentralLoadSagsAsTimoshenkoSays() {
        Chassis c;
        c.width = c.depth = 0.3;
        const MetalFigures m = figuresOf(c.metal);
        const double D = m.youngs * std::pow(c.thickness, 3) / (12 * (1 - m.poisson * m.poisson));
        const Bending b = bend(c, {{{0.15, 0.15, 0.15, 0.15}, 30}}, 1, false);
        const double want = 0.01160 * 30 * 0.09 / D;
        QVERIFY2(std::abs(b.most / want - 1) < 0.01, qPrintable(QString("%1 against %2").arg(b.most).arg(want)));
        QVERIFY(std::abs(b.mostX - 0.15) < 0.01 && std::abs(b.mostY - 0.15) < 0.01);
    }

    /// A uniformly loaded square: 0.00406 q a^4 / D, and the moment 0.0479 q a^2 at nu = 0.3.
    void aUniformLoadSagsAndStressesAsTabulated() {
        Chassis c;
        c.metal = Metal::Steel;
        c.width = c.depth = 0.4;
        c.thickness = 0.001;
        const MetalFigures m = figuresOf(c.metal);
        const double D = m.youngs * std::pow(c.thickness, 3) / (12 * (1 - m.poisson * m.poisson)), q = 100;
        const Bending b = bend(c, {{{0, 0.4, 0, 0.4}, q * 0.16}}, 1, false);
        QVERIFY(std::abs(b.most / (0.00406 * q * std::pow(0.4, 4) / D) - 1) < 0.01);
        QVERIFY(std::abs(b.stress / (6 * 0.0479 * q * 0.16 / (c.thickness * c.thickness)) - 1) < 0.01);
        QVERIFY2(std::abs(bend(c, {{{0, 0.4, 0, 0.4}, q * 0.16}}, 2.5, false).most / b.most - 2.5) < 1e-9,
                 "carried: in proportion");
    }

    void twiceTheThicknessAnEighthOfTheSag() {
        Chassis c;
        const PlateLoad load{{0.1, 0.2, 0.1, 0.2}, 30};
        const double thin = bend(c, {load}, 1, false).most;
        c.thickness *= 2;
        QVERIFY(std::abs(bend(c, {load}, 1, false).most / thin - 0.125) < 1e-9);
    }

    void whatTouchesIsNamed() {
        Chassis c;
        // Behind the socket, away from its bolts.
        c.parts = {part("socket-noval-clip", "a", 0.1, 0.1), part("can", "b", 0.1, 0.115)};
        QCOMPARE(kindsOf(c), std::vector<FitKind>{FitKind::Touching});
        c.parts[1].y = 0.1 + 0.012 + c.parts[1].bodies[0].width / 2 + 0.002;
        QCOMPARE(kindsOf(c), std::vector<FitKind>{FitKind::TooNear});
        c.parts[1].y += 0.006;
        QVERIFY(kindsOf(c).empty());
        QVERIFY2(kindsOf(c, 900).size() == 1, "more volts want more air");
    }

    void boltsNeedAScrewdriverAndHolesTheirMetal() {
        Chassis c;
        c.parts = {part("socket-noval-clip", "a", 0.1, 0.1), part("can", "b", 0.14, 0.1)};
        QVERIFY(kindsOf(c).empty());
        // The socket's bolt is 14 mm from its middle: a screwdriver of 8 mm reaches to 18 mm.
        c.parts[1].x = 0.1 + 0.018 + c.parts[1].bodies[0].width / 2 - 0.001;
        auto kinds = kindsOf(c);
        QVERIFY(std::find(kinds.begin(), kinds.end(), FitKind::NoScrewdriver) != kinds.end());
        c.parts[1].x += 0.002;
        kinds = kindsOf(c);
        QVERIFY(std::find(kinds.begin(), kinds.end(), FitKind::NoScrewdriver) == kinds.end());
        PlacedPart bolt = part("earth-bolt", "e", 0.05, 0.1);
        bolt.bodies.clear();
        c.parts = {bolt, bolt};
        c.parts[1].id = "f";
        c.parts[1].x += bolt.holes[0].width + 0.0015; // 1.5 mm of metal
        QCOMPARE(kindsOf(c), std::vector<FitKind>{FitKind::HolesMeet});
        c.parts[1].x += 0.001;
        QVERIFY(kindsOf(c).empty());
    }

    void narrowGapsAreTheTrueDistances() {
        Chassis c;
        c.parts = {part("can", "a", 0.1, 0.1), part("can", "b", 0.13, 0.1), part("can", "d", 0.2, 0.1)};
        const auto gaps = narrowGaps(c, assemble(c), 400, 0.015);
        QCOMPARE(gaps.size(), std::size_t(1));
        QVERIFY(std::abs(gaps[0].air - (0.03 - c.parts[0].bodies[0].width)) < 1e-6);
        QVERIFY(std::abs(gaps[0].wanted - 0.006) < 1e-9);
    }

    void aCanBelowDoesNotMeetAValveAbove() {
        Chassis c;
        c.parts = {part("socket-noval-clip", "a", 0.1, 0.1), part("film", "b", 0.1, 0.15)};
        QVERIFY(kindsOf(c).empty());
        c.parts[1].y = 0.112;
        QCOMPARE(kindsOf(c), std::vector<FitKind>{FitKind::Touching}); // the socket's pins are below too
    }

    void edgesDepthLidAndDrawing() {
        Chassis c;
        c.parts = {part("socket-noval-clip", "a", 0.005, 0.1)};
        QCOMPARE(kindsOf(c), std::vector<FitKind>{FitKind::OffTheFace});
        c.parts[0].x = 0.019;
        QCOMPARE(kindsOf(c), std::vector<FitKind>{FitKind::NearEdge});
        c.parts[0].x = 0.1;
        c.height = 0.015;
        QCOMPARE(kindsOf(c), std::vector<FitKind>{FitKind::BelowDepth});
        c.height = 0.06;
        c.lid = 0.05;
        QCOMPARE(kindsOf(c), std::vector<FitKind>{FitKind::AboveLid});
        c.lid = 0.1;
        QCOMPARE(kindsOf(c), std::vector<FitKind>{FitKind::CannotDraw});
        c.lid = 0.2;
        QVERIFY(kindsOf(c).empty());
    }

    void partsOnTheWallsMeetPartsBelow() {
        Chassis c;
        c.parts = {part("jack", "j", 0.05, 0.03), part("film", "f", 0.05, 0.02)};
        c.parts[0].face = Face::Front;
        const Assembly a = assemble(c);
        QVERIFY2(a.centres[0].y() > 0 && a.centres[0].y() < 0.03, "a jack's body reaches in from the front");
        QVERIFY(std::abs(a.centres[0].z() - (0.03 - c.height)) < 1e-9);
        QCOMPARE(kindsOf(c), std::vector<FitKind>{FitKind::Touching});
        c.parts[0].face = Face::Back;
        QVERIFY2(assemble(c).centres[0].x() > 0.3, "seen from behind, left is right");
        QVERIFY(kindsOf(c).empty());
    }

    void everyWallsFrameLooksOutward_data() {
        QTest::addColumn<int>("face");
        for (int k = 0; k < 5; ++k) QTest::addRow("%d", k) << k;
    }
    void everyWallsFrameLooksOutward() {
        QFETCH(int, face);
        Chassis c;
        const Frame f = frameOf(c, static_cast<Face>(face));
        QVERIFY2(std::abs(f.axes.determinant() - 1) < 1e-12, "right-handed: what is drawn is not mirrored");
        const Vector middle = toChassis(f, f.width / 2, f.height / 2, 0),
                     inside(c.width / 2, c.depth / 2, -c.height / 2);
        QVERIFY(f.axes.col(2).dot(middle - inside) > 0);
    }

    void everyBodyInTheTrayCanBePlaced() {
        for (const BodyKind& k : bodyKinds()) {
            const auto p = makePart(k.id);
            QVERIFY2(p.ok(), k.id.c_str());
            QVERIFY2(!p->bodies.empty() && p->mass > 0, k.id.c_str());
            for (const Body& b : p->bodies)
                QVERIFY2(b.width > 0.003 && b.height > 0.0005 && b.height < 0.25, k.id.c_str());
        }
        QVERIFY(!makePart("perpetuum-mobile").ok());
        QVERIFY(!makePart("transformer-upright", 1e6).ok());
        QCOMPARE(searchBodies("octal clip").size(), std::size_t(1));
        QVERIFY(searchBodies("transformer").size() >= 5);
    }

    void ironGrowsWithItsVoltAmperes() {
        QVERIFY(ironMass(180) > 2.4 && ironMass(180) < 3.4);
        QVERIFY(ironMass(30) > 0.5 && ironMass(30) < 0.8);
        const auto small = makePart("transformer-potted", 60), large = makePart("transformer-potted", 250);
        QVERIFY(large->bodies[0].width > 1.3 * small->bodies[0].width);
    }

    /// The same capacitance in film takes ten to thirty times the volume.
    void filmIsTenToThirtyTimesLarger() {
        const double ratio = capacitorVolume(true, 47e-6, 450) / capacitorVolume(false, 47e-6, 450);
        QVERIFY2(ratio > 8 && ratio < 30, qPrintable(QString::number(ratio)));
    }

    void roomAddsUp() {
        Chassis c;
        QVERIFY(std::abs(roomOf(c, assemble(c)).freeBelow - 1) < 1e-12);
        c.parts = {part("board-turret", "b", 0.18, 0.11)};
        const Room r = roomOf(c, assemble(c));
        double below = 0;
        for (const Body& body : c.parts[0].bodies) below += body.width * body.depth * body.height;
        QVERIFY(std::abs(1 - r.freeBelow - below / (c.width * c.depth * c.height)) < 1e-9);
        QVERIFY(r.suggestedWidth * r.suggestedDepth >= r.leastArea);
    }
};

EMBER_TESTS(TestChassis)
#include "test_chassis.moc"
