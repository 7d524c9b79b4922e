// Findings of the chassis: each appears where it should, goes away when mended, and its fix mends it.

#include "../support/demo.h"
#include "../support/shipped.h"
#include "../support/suite.h"

#include "core/chassis/bodies.h"
#include "core/chassis/layout_edits.h"
#include "core/chassis/layout_figures.h"
#include "core/plan/solve.h"
#include "core/rules/findings.h"

#include <QTest>

#include <cmath>
#include <functional>

using namespace ember;
using namespace ember::chassis;

namespace {

using Change = std::function<void(Build&)>;

PlacedPart& part(Build& b, const std::string& id) {
    for (PlacedPart& p : b.chassis.parts)
        if (p.id == id) return p;
    qFatal("no part %s", id.c_str());
}

} // namespace

class TestLayoutRules : public QObject {
    Q_OBJECT
    plan::Figures plan; ///< of the demo; a move of its parts changes nothing electrical
    LayoutSolver solver;

    std::vector<rules::Finding> inspected(const Build& b) {
        plan::Figures f = plan;
        f.layout = std::make_shared<const LayoutFigures>(solver.solve(b, catalogue, f));
        std::vector<rules::Finding> out;
        rules::chassisRules(b, catalogue, f, out);
        return out;
    }
    const rules::Finding* find(const std::vector<rules::Finding>& all, const QString& start) {
        for (const auto& f : all)
            if (QString::fromStdString(f.id).startsWith(start)) return &f;
        return nullptr;
    }

  private Q_SLOTS:
    void initTestCase() {
        plan = plan::solveFigures(demoBuild(), catalogue);
        QVERIFY(plan.nominal && plan.layout);
    }

    void appearsAndGoesAway_data() {
        QTest::addColumn<QString>("id");
        QTest::addColumn<Change>("bad");
        QTest::addColumn<Change>("good");
        const auto row = [](const char* id, Change bad, Change good) {
            QTest::newRow(id) << QString(id) << bad << good;
        };
        row(
            "touching/p-v2/p-v5", [](Build& b) { part(b, "p-v5").x = 0.045; },
            [](Build& b) { part(b, "p-v5").x = 0.112; });
        row(
            "too-near/p-v1/p-c1", [](Build&) {}, [](Build& b) { part(b, "p-c1").x -= 0.01; });
        row(
            "off-face/p-ot1", [](Build& b) { part(b, "p-ot1").x = -0.01; },
            [](Build& b) { part(b, "p-ot1").x = 0.062; });
        row(
            "near-edge/p-v2", [](Build& b) { part(b, "p-v2").y = 0.0145; },
            [](Build& b) { part(b, "p-v2").y = 0.044; });
        row(
            "too-deep/p-fuse",
            [](Build& b) {
                b.chassis.height = 0.03;
                part(b, "p-fuse").y = 0.005;
            },
            [](Build& b) {
                b.chassis.height = 0.065;
                part(b, "p-fuse").y = 0.034;
            });
        row(
            "under-lid/p-v1", [](Build& b) { b.chassis.lid = 0.07; }, [](Build& b) { b.chassis.lid = 0.3; });
        row(
            "cannot-draw/p-v1", [](Build& b) { b.chassis.lid = 0.12; }, [](Build& b) { b.chassis.lid = 0.2; });
        row(
            "hot-capacitor/p-c1", [](Build& b) { part(b, "p-c1").heat = 30; },
            [](Build& b) { part(b, "p-c1").heat = 0; });
        row(
            "hot-chassis", [](Build& b) { part(b, "p-ot1").heat = 60; }, [](Build& b) { part(b, "p-ot1").heat = 0; });
        row(
            "stray/p-pt1/p-ot2", [](Build& b) { part(b, "p-ot2").angle = 45; },
            [](Build& b) { part(b, "p-ot2").angle = 90; });
        row(
            "exposed/p-v5",
            [](Build& b) {
                part(b, "p-v5").x = 0.25;
                part(b, "p-v5").y = 0.15;
            },
            [](Build& b) {
                part(b, "p-v5").x = 0.112;
                part(b, "p-v5").y = 0.044;
            });
        row(
            "sag", [](Build& b) { b.chassis.thickness = 0.0008; }, [](Build& b) { b.chassis.thickness = 0.002; });
        row(
            "balance",
            [](Build& b) {
                part(b, "p-ot1").x = 0.3;
                part(b, "p-ot2").x = 0.3;
                part(b, "p-ot1").mass = 5;
            },
            [](Build& b) {
                part(b, "p-ot1").x = 0.062;
                part(b, "p-ot2").x = 0.15;
                part(b, "p-ot1").mass = 0.9;
            });
        row(
            "live-above/p-l1", [](Build& b) { part(b, "p-l1").liveAbove = true; },
            [](Build& b) { part(b, "p-l1").liveAbove = false; });
        row(
            "holes-meet/p-v2/p-strip1",
            [](Build& b) {
                part(b, "p-strip1").bodies.clear();
                part(b, "p-strip1").x = 0.064 - 0.027;
                part(b, "p-strip1").y = 0.046;
            },
            [](Build& b) { part(b, "p-strip1").y = 0.079; });
        row(
            "no-screwdriver/p-v1/p-c1",
            [](Build& b) {
                part(b, "p-v1").angle = 0;
                part(b, "p-c1").x = 0.3;
                part(b, "p-c1").y = 0.066;
            },
            [](Build& b) { part(b, "p-v1").angle = 90; });
        row(
            "pins/p-v5", [](Build& b) { part(b, "p-v5").pinOne = 240; }, [](Build& b) { part(b, "p-v5").pinOne = 60; });
        row(
            "hot-glass", [](Build&) {}, [](Build& b) { b.chassis.cover = Cover::Cage; });
        row(
            "cage-earth", [](Build& b) { b.chassis.cover = Cover::Cage; },
            [](Build& b) { b.chassis.cover = Cover::None; });
        row(
            "no-earth-bolt",
            [](Build& b) { std::erase_if(b.chassis.parts, [](const PlacedPart& p) { return p.kind == "earth"; }); },
            [](Build& b) { b.chassis.parts.push_back(*makePart("earth-bolt")); });
        row(
            "no-strain-relief",
            [](Build& b) { std::erase_if(b.chassis.parts, [](const PlacedPart& p) { return p.kind == "inlet"; }); },
            [](Build& b) { b.chassis.parts.push_back(*makePart("strain-relief")); });
        row(
            "no-sheet/board",
            [](Build& b) {
                PlacedPart board = *makePart("board-turret");
                board.id = "board";
                std::erase_if(board.bodies, [](const Body& x) { return x.id == "sheet"; });
                b.chassis.parts.push_back(board);
            },
            [](Build& b) { b.chassis.parts.back() = *makePart("board-turret"); });
        row(
            "near-iron/p-v5",
            [](Build& b) {
                part(b, "p-v5").x = 0.26;
                part(b, "p-v5").y = 0.16;
            },
            [](Build& b) {
                part(b, "p-v5").x = 0.112;
                part(b, "p-v5").y = 0.044;
            });
    }
    void appearsAndGoesAway() {
        QFETCH(QString, id);
        QFETCH(Change, bad);
        QFETCH(Change, good);
        Build b = demoBuild();
        bad(b);
        const auto wrong = inspected(b);
        const auto* f = find(wrong, id);
        QVERIFY2(f, qPrintable(id));
        QVERIFY(!f->title.empty() && f->text.size() > 20);
        QCOMPARE(f->station, std::string("chassis"));
        good(b);
        QVERIFY(!find(inspected(b), id));
    }

    void everyFixMendsItsFinding() {
        int fixes = 0;
        const Change bads[] = {[](Build&) {},
                               [](Build& b) {
                                   b.chassis.lid = 0.19;
                                   part(b, "p-v1").drawLength = 0.09;
                               },
                               [](Build& b) { b.chassis.lid = 0.07; },
                               [](Build& b) {
                                   part(b, "p-c2").x = 0.252;
                                   part(b, "p-c2").y = 0.1;
                               },
                               [](Build& b) { b.chassis.thickness = 0.0008; },
                               [](Build& b) { part(b, "p-v2").x = 0.012; }};
        for (const Change& bad : bads) {
            Build b = demoBuild();
            bad(b);
            for (const auto& f : inspected(b)) {
                if (!f.fix) continue;
                ++fixes;
                const auto mended = apply(b, *f.fix);
                QVERIFY2(mended.ok(), mended.ok() ? "" : mended.problem().text().c_str());
                QVERIFY2(!find(inspected(*mended), QString::fromStdString(f.id)), f.id.c_str());
            }
        }
        QVERIFY2(fixes >= 10, qPrintable(QString::number(fixes)));
    }

    void whatHoldsTheMainsIsPlacedByItsFix() {
        for (const char* kind : {"earth", "inlet"}) {
            Build b = demoBuild();
            std::erase_if(b.chassis.parts, [&](const PlacedPart& p) { return p.kind == kind; });
            const QString id = QString(kind) == "earth" ? "no-earth-bolt" : "no-strain-relief";
            const auto all = inspected(b);
            const auto* f = find(all, id);
            QVERIFY(f && f->fix);
            const auto mended = apply(b, *f->fix);
            QVERIFY(mended.ok());
            QVERIFY(!find(inspected(*mended), id));
        }
    }

    void valvesNearIronAreInOrderOfDistance() {
        const auto f = solver.solve(demoBuild(), catalogue, plan);
        QCOMPARE(f.nearIron.size(), std::size_t(2)); // two small valves
        QVERIFY(f.nearIron[0].apart <= f.nearIron[1].apart);
    }

    void aLockedPartIsNotMovedByAFix() {
        Build b = demoBuild();
        part(b, "p-c1").locked = true;
        const auto all = inspected(b);
        const auto* f = find(all, "too-near/p-v1/p-c1");
        QVERIFY(f);
        QVERIFY2(!f->fix || f->fix->name.find("C1") == std::string::npos, f->fix ? f->fix->name.c_str() : "");
    }

    /// The iron's copper and core, each valve's heater and plate: what goes in comes out as heat.
    void theHeatIsWhatTheMainsGives() {
        const Build b = demoBuild();
        double heat = 0;
        for (const PlacedPart& p : b.chassis.parts) heat += heatOf(b, catalogue, plan, p);
        // The rest is in resistors, the bias supply and the output windings; the loss of its grain-oriented core is not
        // in the plan.
        const double core = 0.015 * 180;
        QVERIFY2(heat - core > 0.85 * plan.nominal->mainsWatts && heat - core < 1.02 * plan.nominal->mainsWatts,
                 qPrintable(QString("%1 W of %2 W").arg(heat).arg(plan.nominal->mainsWatts)));
    }

    void theSignalGoesFromJackToTerminals() {
        const Build b = demoBuild();
        for (std::size_t k = 0; k < b.channels.size(); ++k) {
            const auto path = signalPath(b, k);
            QCOMPARE(path.size(), std::size_t(6));
            QCOMPARE(b.chassis.parts[path.front()].kind, std::string("jack"));
            QCOMPARE(b.chassis.parts[path.back()].kind, std::string("terminals"));
        }
    }

    void movingInSmallStepsNeverLosesAPart() {
        Build b = demoBuild();
        const auto count = b.chassis.parts.size();
        for (double x = -0.5; x < 1; x += 0.05) {
            const auto moved = apply(b, moveParts(b.chassis, {0}, x - b.chassis.parts[0].x, 0));
            QVERIFY(moved.ok());
            b = *moved;
            QCOMPARE(b.chassis.parts.size(), count);
            for (const auto& f : inspected(b)) QVERIFY(f.text.find("nan") == std::string::npos);
        }
    }
};

EMBER_TESTS(TestLayoutRules)
#include "test_layout_rules.moc"
