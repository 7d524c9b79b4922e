// A bench board for the trial before metal is cut: parts on spacers, screws alone in the wood, live lugs spoken of
// first.

#include "../support/demo.h"
#include "../support/shipped.h"
#include "../support/suite.h"

#include "core/build/build_json.h"
#include "core/chassis/arrange/arrange.h"
#include "core/chassis/cage.h"
#include "core/chassis/hole_list.h"
#include "core/chassis/kept_layouts.h"
#include "core/chassis/layout_edits.h"
#include "core/chassis/layout_figures.h"
#include "core/chassis/look/operating.h"
#include "core/chassis/look/scene.h"
#include "core/plan/solve.h"
#include "core/rules/findings.h"
#include "core/wires/hum.h"

#include <QTest>

#include <algorithm>
#include <cmath>

using namespace ember;
using namespace ember::chassis;

class TestBenchBoard : public QObject {
    Q_OBJECT
    Build board; ///< the demo on a board of 600 x 400 mm
    plan::Figures figures;

    std::vector<rules::Finding> inspected(const Build& b) {
        plan::Figures f = figures;
        LayoutSolver solver;
        f.layout = std::make_shared<const LayoutFigures>(solver.solve(b, catalogue, f));
        return rules::inspect(b, catalogue, f);
    }

  private Q_SLOTS:
    void initTestCase() {
        const auto edited = apply(demoBuild(), inForm(demoBuild().chassis, ChassisForm::Board));
        QVERIFY(edited);
        board = *edited;
        board.chassis.width = 0.6, board.chassis.depth = 0.4;
        figures = plan::solveFigures(board, catalogue);
        QVERIFY(figures.nominal && figures.layout);
    }

    void itIsOfWoodAsThickAsBoardsAre() {
        QCOMPARE(board.chassis.thickness, 0.018);
        const auto back = apply(board, inForm(board.chassis, ChassisForm::Box));
        QVERIFY(back);
        QCOMPARE(back->chassis.thickness, 0.002);
        // 600 x 400 x 18 mm of plywood at 680 kg/m3, two strips of aluminium at 2700 kg/m3, and the parts.
        double parts = 0;
        const double strips = 2 * 0.6 * board.chassis.height * 0.0015 * 2700;
        for (const PlacedPart& p : board.chassis.parts) parts += p.mass;
        QVERIFY(std::abs(figures.layout->mass - parts - 0.6 * 0.4 * 0.018 * 680 - strips) < 1e-6);
    }

    void nothingHangsBelowTheWood() {
        const Assembly assembly = assemble(board.chassis);
        for (const PlacedBody& b : assembly.bodies) {
            const PlacedPart& p = board.chassis.parts[b.part];
            QVERIFY2(b.solid.lowest() > (p.face == Face::Top ? -1e-9 : -0.02), p.id.c_str());
            QVERIFY(b.outside || p.face != Face::Top);
        }
    }

    void spacersAreOfLengthsThatAreSold() {
        int raised = 0;
        for (const PlacedPart& p : board.chassis.parts) {
            const double lift = -sunkBy(board.chassis, p);
            if (p.face != Face::Top) continue;
            double lowest = 0;
            for (const Body& b : p.bodies)
                if (b.id != "leads") lowest = std::min(lowest, b.bottom);
            if (p.kind == "transformer" || p.kind == "choke") QCOMPARE(lift, 0.0); // iron stands on the wood
            QVERIFY(std::abs(std::remainder(lift, 0.005)) < 1e-12);
            if (lowest < 0) {
                ++raised;
                QVERIFY2(lift + lowest >= underSpacers - 1e-9 && lift + lowest < underSpacers + 0.005, p.id.c_str());
            } else {
                QCOMPARE(lift, 0.0);
            }
        }
        QVERIFY(raised >= 7); // the sockets at least
    }

    void screwsAloneGoIntoTheWood() {
        const auto holes = holesOf(board.chassis, Face::Top), metal = holesOf(demoBuild().chassis, Face::Top);
        QVERIFY(!holes.empty() && holes.size() < metal.size());
        for (const ListedHole& h : holes) {
            QVERIFY2(h.tool.find("wood screw") != std::string::npos, h.tool.c_str());
            QVERIFY(h.width < 0.006);
        }
        // The strips at the edges are metal and are drilled as ever.
        QCOMPARE(holesOf(board.chassis, Face::Back).size(), holesOf(demoBuild().chassis, Face::Back).size());
    }

    void liveLugsAreTheFirstFinding() {
        const auto all = inspected(board);
        const auto first = std::find_if(all.begin(), all.end(), [](const auto& f) { return f.station == "chassis"; });
        QVERIFY(first != all.end());
        QCOMPARE(first->id, std::string("board-lugs"));
        QVERIFY(first->level == rules::Level::Stop);
        const auto cover = coverNeeded(board.chassis, figures.layout->assembly);
        QVERIFY(cover);
        // It is larger than everything live, and its height is over the tallest.
        for (std::size_t k = 0; k < board.chassis.parts.size(); ++k) {
            if (board.chassis.parts[k].face != Face::Top || !isLive(board.chassis.parts[k])) continue;
            for (const std::size_t b : figures.layout->assembly.of[k]) {
                const Solid& s = figures.layout->assembly.bodies[b].solid;
                QVERIFY(cover->height > s.highest() + 0.01);
                QVERIFY(cover->width <= board.chassis.width && cover->depth <= board.chassis.depth);
                QVERIFY(cover->width >= s.support(Vector::UnitX()).x() - s.support(-Vector::UnitX()).x() + coverAround);
            }
        }
        // The mains come to lugs behind the strips too: front and back, so that the cover is as deep as the board.
        QCOMPARE(cover->depth, board.chassis.depth);
        QVERIFY(first->fix);
        const auto covered = apply(board, *first->fix);
        QVERIFY(covered);
        const auto after = inspected(*covered);
        const auto has = [&](const char* id) {
            return std::any_of(after.begin(), after.end(), [&](const auto& f) { return f.id == id; });
        };
        QVERIFY(!has("board-lugs"));
        QVERIFY(has("cage-earth"));
        QVERIFY(has("board-earth")); // wood earths nothing, cage or not
    }

    void eachPieceOfMetalIsNamedForItsEarth() {
        const auto all = inspected(board);
        const auto earth = std::find_if(all.begin(), all.end(), [](const auto& f) { return f.id == "board-earth"; });
        QVERIFY(earth != all.end());
        for (const char* iron : {"T1", "OT1", "OT2"})
            QVERIFY2(earth->text.find(iron) != std::string::npos, earth->text.c_str());
        for (const auto& f : inspected(demoBuild())) QVERIFY(f.id != "board-earth" && f.id != "board-lugs");
    }

    void leadsInClipsAreSpokenOf() {
        figures.wires = std::make_shared<const wires::WireFigures>(wires::wireFigures(board, catalogue, figures));
        const auto all = inspected(board);
        const auto clips = std::find_if(all.begin(), all.end(), [](const auto& f) { return f.id == "board-clips"; });
        QVERIFY(clips != all.end());
        QVERIFY2(clips->text.find("sleeved for") != std::string::npos, clips->text.c_str());
        for (const auto& f : inspected(demoBuild())) QVERIFY(f.id != "board-clips");
    }

    void wiresLieOnTheWood() {
        const auto harness = wires::harnessOf(board, catalogue);
        QVERIFY(harness.runs.size() > 40);
        for (const wires::Run& r : harness.runs)
            for (const Vector& v : r.path) QVERIFY2(v.z() > -1e-9, r.wire.id.c_str());
    }

    void somethingFitsOnIt() {
        const auto all = arrange::arrangements(board, catalogue, figures, {});
        const auto fitting = std::count_if(all.begin(), all.end(), [](const auto& a) { return a.misfits == 0; });
        QVERIFY2(fitting >= 3, qPrintable(QString("%1 of %2").arg(fitting).arg(all.size())));
    }

    void itsPictureStandsOnItsSpacers() {
        const auto operating = look::operatingOf(board, figures);
        const auto metal = look::sceneOf(demoBuild().chassis, operating),
                   wood = look::sceneOf(board.chassis, operating);
        QVERIFY(wood.surfaces.size() > metal.surfaces.size()); // lugs, spacers and plates are seen
        float lowest = 1;
        for (const look::Surface& s : wood.surfaces) {
            if (&s == &wood.surfaces.front()) continue; // the bench
            for (const look::Point& p : s.mesh.points) lowest = std::min(lowest, p.z());
        }
        QVERIFY(lowest > -0.04F);
    }

    void theFormComesBackFromTheFile() {
        const auto again = fromText(toText(board));
        QVERIFY(again);
        QVERIFY(again->chassis.form == ChassisForm::Board);
    }
};

EMBER_TESTS(TestBenchBoard)
#include "test_bench_board.moc"
