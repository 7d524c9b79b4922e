// Two chassis above each other: where things are, what they weigh and warm, how wires go up, what is asked of them.

#include "../support/demo.h"
#include "../support/shipped.h"
#include "../support/suite.h"
#include "../support/wired.h"

#include "core/build/build_json.h"
#include "core/chassis/arrange/arrange.h"
#include "core/chassis/arrange/storeys.h"
#include "core/chassis/finishes.h"
#include "core/chassis/hole_list.h"
#include "core/chassis/kept_layouts.h"
#include "core/chassis/layout_edits.h"
#include "core/chassis/look/scene.h"
#include "core/chassis/picture_svg.h"
#include "core/chassis/positions.h"
#include "core/chassis/tower.h"
#include "core/plan/solve.h"
#include "core/rules/findings.h"
#include "core/wires/hum.h"
#include "core/wires/route.h"

#include <QTest>
#include <QXmlStreamReader>

#include <algorithm>
#include <cmath>
#include <map>

using namespace ember;
using namespace ember::chassis;

namespace {

std::size_t indexOfPart(const Chassis& c, const std::string& of) {
    const auto at = std::find_if(c.parts.begin(), c.parts.end(), [&](const PlacedPart& p) { return p.of == of; });
    if (at == c.parts.end()) qFatal("no part for %s", of.c_str());
    return static_cast<std::size_t>(at - c.parts.begin());
}

bool hasFit(const std::vector<FitProblem>& all, FitKind kind, std::size_t part) {
    return std::any_of(all.begin(), all.end(), [&](const FitProblem& p) { return p.kind == kind && p.a == part; });
}

plan::Figures allFigures(const Build& b) {
    plan::Figures f = plan::solveFigures(b, catalogue);
    wires::addWires(b, catalogue, f);
    return f;
}

} // namespace

class TestTower : public QObject {
    Q_OBJECT
    Build demo, tower;
    plan::Figures figures; ///< of the tower

    std::vector<FitProblem> fitOf(const Chassis& c) { return checkFit(c, assemble(c), liveVolts(figures)); }
    rules::Finding* found(std::vector<rules::Finding>& all, const std::string& id) {
        const auto at = std::find_if(all.begin(), all.end(), [&](const rules::Finding& f) { return f.id == id; });
        return at == all.end() ? nullptr : &*at;
    }

  private Q_SLOTS:
    void initTestCase() {
        demo = tower = unwired();
        tower.chassis = arrange::asTower(demo);
        figures = allFigures(tower);
        QVERIFY(figures.nominal && figures.layout && figures.wires);
    }

    void theSupplyStandsBelowAndTheChannelsAbove() {
        for (const char* below : {"pt1", "l1", "v1", "c1", "c2", "c3", "f1"})
            QVERIFY2(isLower(tower.chassis.parts[indexOfPart(tower.chassis, below)].face), below);
        for (const char* above : {"v2", "v3", "v7", "ot1", "input-left", "output-right"})
            QVERIFY2(!isLower(tower.chassis.parts[indexOfPart(tower.chassis, above)].face), above);
        for (const PlacedPart& p : tower.chassis.parts)
            if (carriesMains(p)) QVERIFY2(isLower(p.face), p.id.c_str());
        // As one again: the demo as it was.
        const Chassis one = arrange::asOne(tower.chassis);
        QCOMPARE(one.storey, 0.0);
        for (std::size_t k = 0; k < one.parts.size(); ++k) QCOMPARE(one.parts[k].face, demo.chassis.parts[k].face);
    }

    /// Lower parts stand as much lower as walls and storey are high, and no wider or deeper.
    void lowerPartsStandLower() {
        const Assembly flat = assemble(demo.chassis), both = assemble(tower.chassis);
        const double drop = tower.chassis.height + tower.chassis.storey;
        for (std::size_t k = 0; k < tower.chassis.parts.size(); ++k) {
            const double by = isLower(tower.chassis.parts[k].face) ? drop : 0;
            const Vector moved = flat.centres[k] - both.centres[k];
            QVERIFY2((moved - Vector(0, 0, by)).norm() < 1e-12, tower.chassis.parts[k].id.c_str());
        }
        QVERIFY(std::abs(depthBelow(tower.chassis) - drop - tower.chassis.height) < 1e-12);
    }

    void theStoreyTakesWhatStandsInIt() {
        // The rectifier is the tallest: its own height, its pins to draw, a finger's width.
        const Assembly assembly = assemble(tower.chassis);
        const std::size_t v1 = indexOfPart(tower.chassis, "v1");
        double top = 0;
        for (const std::size_t b : assembly.of[v1])
            top = std::max(top, assembly.bodies[b].solid.highest() + lowerBy(tower.chassis));
        QVERIFY(tower.chassis.storey >= top + 0.035 - 1e-9 && tower.chassis.storey < top + 0.040);
        QVERIFY(!hasFit(fitOf(tower.chassis), FitKind::CannotDraw, v1));
        Build low = tower;
        low.chassis.storey = top + 0.01;
        const auto narrow = fitOf(low.chassis);
        QVERIFY(hasFit(narrow, FitKind::CannotDraw, v1));
        low.chassis.storey = top - 0.01;
        const auto problems = fitOf(low.chassis);
        const auto worst = std::find_if(problems.begin(), problems.end(),
                                        [&](const FitProblem& p) { return p.kind == FitKind::AboveLid && p.a == v1; });
        QVERIFY(worst != problems.end() && std::abs(worst->gap + 0.01) < 1e-9);
        const auto raised = apply(low, *mend(low.chassis, *worst, liveVolts(figures)));
        QVERIFY(raised && !hasFit(fitOf(raised->chassis), FitKind::AboveLid, v1));
    }

    void pillarsGoThroughBothPlates() {
        const Chassis& c = tower.chassis;
        const auto pillars = pillarsOf(c);
        QCOMPARE(pillars.size(), 4U);
        for (const Face plate : plateFaces) {
            const auto holes = holesOf(c, plate);
            QCOMPARE(std::count_if(holes.begin(), holes.end(), [](const ListedHole& h) { return h.part == "pillar"; }),
                     4);
            for (const ListedHole& h : holes) {
                if (h.part != "pillar") continue;
                QCOMPARE(h.width, 0.0053);
                const double edge = std::min({h.x, c.width - h.x, h.y, c.depth - h.y});
                QVERIFY(edge - h.width / 2 > edgeRoom(c, plate) - 1e-9);
            }
        }
        QVERIFY(pillarsOf(demo.chassis).empty());
        const auto bought = finishesOf(c, assemble(c));
        const auto tubes = std::find_if(bought.begin(), bought.end(),
                                        [](const FinishPart& f) { return f.words.rfind("pillar", 0) == 0; });
        QVERIFY(tubes != bought.end() && tubes->count == 4 && tubes->mass > 0.1);
        // The tube fills what is between the plates.
        QVERIFY(std::abs(pillarLength(c) - (c.height + c.storey - c.thickness)) < 1e-12);
        // A part at a corner is told, below and above.
        for (const char* of : {"c3", "v2"}) {
            Chassis corner = c;
            PlacedPart& p = corner.parts[indexOfPart(corner, of)];
            p.x = pillars[0].x, p.y = pillars[0].y;
            QVERIFY2(hasFit(fitOf(corner), FitKind::AtPillar, indexOfPart(corner, of)), of);
        }
    }

    void aPartGoesDownAndComesBack() {
        const std::size_t pt = indexOfPart(demo.chassis, "pt1");
        const auto down = apply(demo, toOtherChassis(demo.chassis, {pt}));
        QVERIFY(down && isTower(down->chassis) && down->chassis.parts[pt].face == Face::LowerTop);
        const auto read = fromText(toText(*down));
        QVERIFY(read && read->chassis.storey == down->chassis.storey && read->chassis.parts[pt].face == Face::LowerTop);
        const auto up = apply(*down, toOtherChassis(down->chassis, {pt}));
        QVERIFY(up && !isTower(up->chassis) && up->chassis.storey == 0);
        for (std::size_t k = 0; k < demo.chassis.parts.size(); ++k) {
            const PlacedPart &was = demo.chassis.parts[k], &is = up->chassis.parts[k];
            QVERIFY2(was.face == is.face && was.x == is.x && was.y == is.y && was.angle == is.angle, was.id.c_str());
        }
        // A table of positions makes one too, as high as its parts need.
        const auto low = apply(demo, *positionsFromTable(demo, positionsTable(tower.chassis)));
        QVERIFY(low && low->chassis.storey == leastStorey(tower.chassis));
        for (std::size_t k = 0; k < low->chassis.parts.size(); ++k)
            QCOMPARE(low->chassis.parts[k].face, tower.chassis.parts[k].face);
        // A locked part stays; a kept layout brings the storey with it.
        Build locked = demo;
        locked.chassis.parts[pt].locked = true;
        QVERIFY(!isTower(apply(locked, toOtherChassis(locked.chassis, {pt}))->chassis));
        const auto kept = apply(demo, usePlaces("", demo.chassis, placesOf(tower.chassis)));
        QVERIFY(kept && kept->chassis.storey == tower.chassis.storey);
    }

    void aPlateAloneAndABenchBoardHaveNone() {
        for (const ChassisForm form : {ChassisForm::Plate, ChassisForm::Board}) {
            const auto b = apply(tower, inForm(tower.chassis, form));
            QVERIFY(b && !isTower(b->chassis) && !canBeTower(b->chassis));
            for (const PlacedPart& p : b->chassis.parts) QVERIFY2(!isLower(p.face), p.id.c_str());
        }
    }

    /// Heat that is put on a plate, and in the box below it, leaves it above and through the box.
    void eachPlateLosesWhatIsPutOnIt() {
        const Chassis& c = tower.chassis;
        std::array<double, 2> watts{};
        for (std::size_t k = 0; k < plateFaces.size(); ++k) {
            const PlateFigures& plate = figures.layout->plates[k];
            const HeatLoss h = heatLossOf(c);
            double lost = h.box * (plate.inside - c.ambient);
            for (int y = 0; y < plate.rows; ++y)
                for (int x = 0; x < plate.columns; ++x) {
                    const double rise = plate.kelvin[static_cast<std::size_t>(y * plate.columns + x)] - c.ambient;
                    lost += rise * h.above * c.width * c.depth / (plate.columns * plate.rows);
                    if (x == 0 || x == plate.columns - 1) lost += rise * h.rim * c.depth / plate.rows;
                    if (y == 0 || y == plate.rows - 1) lost += rise * h.rim * c.width / plate.columns;
                }
            for (const HeatSource& s : heatSources(tower, catalogue, figures, plateFaces[k])) watts[k] += s.watts;
            watts[k] += heatInside(tower, catalogue, figures, plateFaces[k]);
            QVERIFY2(std::abs(lost / watts[k] - 1) < 0.01, qPrintable(QString("%1 of %2 W").arg(lost).arg(watts[k])));
        }
        // What rises from below warms the upper plate: it has more than its own parts give.
        double own = 0;
        for (const PlacedPart& p : c.parts)
            if (p.face == Face::Top) own += shareToTop(c, p) * heatOf(tower, catalogue, figures, p);
        QVERIFY(watts[0] > own + 5);
        // Each part reads the plate that it stands on.
        const std::size_t pt = indexOfPart(c, "pt1");
        QVERIFY(figures.layout->partKelvin[pt] <= figures.layout->plates[1].hottest + 1e-9);
    }

    /// Iron below adds nothing to the sag of the upper plate; the heavy plate is the one that is told.
    void eachPlateCarriesItsOwn() {
        const auto sag = [](const LayoutFigures& f, Face plate) { return f.plate(plate).rest.most; };
        const LayoutFigures flat = LayoutSolver().solve(demo, catalogue, figures);
        QVERIFY(sag(*figures.layout, Face::Top) < sag(flat, Face::Top));
        Build more = tower;
        more.chassis.parts[indexOfPart(more.chassis, "pt1")].mass *= 2;
        const LayoutFigures heavy = LayoutSolver().solve(more, catalogue, figures);
        QCOMPARE(sag(heavy, Face::Top), sag(*figures.layout, Face::Top));
        QVERIFY(sag(heavy, Face::LowerTop) > sag(*figures.layout, Face::LowerTop));
        // A second sheet, folded alike, weighs as much as the first; the pillars stand between.
        double one = 0, two = 0;
        for (const FinishPart& f : finishesOf(demo.chassis, flat.assembly)) one += f.mass;
        for (const FinishPart& f : finishesOf(tower.chassis, figures.layout->assembly))
            if (f.words.rfind("pillar", 0) != 0) two += f.mass;
        QVERIFY(std::abs(two - 2 * one) < 1e-9);
        QVERIFY(std::abs(heavy.mass - figures.layout->mass -
                         0.5 * more.chassis.parts[indexOfPart(more.chassis, "pt1")].mass) < 1e-9);
    }

    /// A dipole's field falls with the cube of the distance: what reaches V2 from a transformer far below, from twice
    /// as far.
    void aHigherStoreyIsQuieter() {
        Build b = tower;
        PlacedPart &pt = b.chassis.parts[indexOfPart(b.chassis, "pt1")],
                   &v2 = b.chassis.parts[indexOfPart(b.chassis, "v2")];
        pt.x = v2.x, pt.y = v2.y;
        const auto reaching = [&](double apart) {
            b.chassis.storey = 0;
            const Assembly at = assemble(b.chassis);
            const Vector victim = toChassis(frameOf(b.chassis, v2), 0, 0, -0.01);
            b.chassis.storey = apart - (victim.z() - at.centres[indexOfPart(b.chassis, "pt1")].z());
            const LayoutFigures f = LayoutSolver().solve(b, catalogue, figures);
            for (const Exposure& e : f.exposure.pairs)
                if (e.source == indexOfPart(b.chassis, "pt1") && e.victim == indexOfPart(b.chassis, "v2"))
                    return e.tesla;
            return 0.0;
        };
        const double near = reaching(0.25), far = reaching(0.5);
        QVERIFY2(far > 0 && std::abs(near / far - 8) < 0.05, qPrintable(QString::number(near / far)));
    }

    void aFindingOfHumSaysHowHigh() {
        Build b = tower;
        PlacedPart& pt = b.chassis.parts[indexOfPart(b.chassis, "pt1")];
        const PlacedPart& v2 = b.chassis.parts[indexOfPart(b.chassis, "v2")];
        pt.x = v2.x, pt.y = v2.y;
        const std::string id = "exposed/" + v2.id;
        auto before = rules::inspect(b, catalogue, allFigures(b));
        const rules::Finding* hum = found(before, id);
        QVERIFY(hum && hum->fix);
        const Build high = *apply(b, *hum->fix);
        QVERIFY(high.chassis.storey > b.chassis.storey && high.chassis.storey < b.chassis.storey + 0.15);
        auto after = rules::inspect(high, catalogue, allFigures(high));
        QVERIFY(!found(after, id));
        // 5 mm less were not enough.
        Build less = high;
        less.chassis.storey -= 5e-3;
        auto still = rules::inspect(less, catalogue, allFigures(less));
        QVERIFY(found(still, id));
    }

    void wiresGoUpThroughTheHole() {
        auto findings = rules::inspect(tower, catalogue, figures);
        const rules::Finding* hole = found(findings, "tower-hole");
        QVERIFY(hole && hole->fix);
        Build bored = *apply(tower, *hole->fix);
        const auto at = wires::riserHole(bored.chassis);
        QVERIFY(at && bored.chassis.parts[*at].face == Face::LowerTop);
        QVERIFY(checkFit(bored.chassis, assemble(bored.chassis), liveVolts(figures), *at).empty());
        const plan::Figures holed = allFigures(bored);
        auto left = rules::inspect(bored, catalogue, holed);
        QVERIFY(!found(left, "tower-hole"));
        // Arranged again it stays below, where the wires need it.
        Build again = bored;
        again.chassis = arrange::asTower(bored);
        QVERIFY(wires::riserHole(again.chassis) == at);
        for (const arrange::Arrangement& a : arrange::arrangements(bored, catalogue, figures)) {
            const Chassis c = withPlaces(bored.chassis, a.places);
            QCOMPARE(isLower(c.parts[*at].face), a.family->below != nullptr);
            if (a.misfits == 0) QVERIFY2(fitOf(c).empty(), a.family->id);
        }
        int between = 0;
        const auto lower = [&](std::size_t spot) { return isLower(bored.chassis.parts[spot].face); };
        for (const wires::Run& r : holed.wires->harness.runs) {
            const auto below = wires::piecesUnder(bored.chassis, true, r.path),
                       above = wires::piecesUnder(bored.chassis, false, r.path);
            if (lower(r.fromSpot) == lower(r.toSpot)) {
                QVERIFY2(lower(r.fromSpot) ? above.empty() : below.empty(), r.wire.id.c_str());
                continue;
            }
            ++between;
            QVERIFY2(!below.empty() && !above.empty(), r.wire.id.c_str());
            const double rise = lowerBy(bored.chassis);
            QVERIFY2(r.length > rise, r.wire.id.c_str());
            bool through = false;
            for (std::size_t k = 1; k < r.path.size(); ++k) {
                const Vector a = r.path[k - 1], z = r.path[k];
                if (std::abs(std::abs(z.z() - a.z()) - rise) > 1e-9) continue;
                const PlacedPart& grommet = bored.chassis.parts[*at];
                through = std::hypot(a.x() - grommet.x, a.y() - grommet.y) < 1e-6 && (a - z).head<2>().norm() < 1e-9;
            }
            QVERIFY2(through, r.wire.id.c_str());
        }
        QVERIFY2(between >= 8, qPrintable(QString::number(between))); // heaters, B+ and its return at the least
    }

    void eachChassisHasItsOwnEarth() {
        auto findings = rules::inspect(tower, catalogue, figures);
        const rules::Finding* earth = found(findings, "tower-earth");
        QVERIFY(earth && earth->fix && earth->level == rules::Level::Stop);
        QVERIFY2(earth->title.find("upper") != std::string::npos, earth->title.c_str());
        const Build bolted = *apply(tower, *earth->fix);
        auto left = rules::inspect(bolted, catalogue, allFigures(bolted));
        QVERIFY(!found(left, "tower-earth"));
        // Arranged again the second bolt stays above, the first below.
        Build again = bolted;
        again.chassis = arrange::asTower(bolted);
        for (std::size_t k = 0; k < again.chassis.parts.size(); ++k)
            if (again.chassis.parts[k].kind == "earth")
                QCOMPARE(isLower(again.chassis.parts[k].face), isLower(bolted.chassis.parts[k].face));
        auto flat = rules::inspect(demo, catalogue, allFigures(demo));
        QVERIFY(!found(flat, "tower-earth") && !found(flat, "tower-hole"));
    }

    void aTowerThatTipsIsTold() {
        auto level = rules::inspect(tower, catalogue, figures);
        QVERIFY(!found(level, "tower-tips"));
        Build high = tower;
        high.chassis.storey = 0.9;
        for (PlacedPart& p : high.chassis.parts)
            if (p.of == "ot1" || p.of == "ot2") p.mass = 8, p.y = high.chassis.depth - 0.05;
        plan::Figures f = figures;
        f.layout = std::make_shared<const LayoutFigures>(LayoutSolver().solve(high, catalogue, f));
        auto told = rules::inspect(high, catalogue, f);
        QVERIFY(found(told, "tower-tips"));
    }

    /// Every plate once, every body once, readable by another's parser; the solid picture reaches down to the feet.
    void picturesShowBoth() {
        const auto count = [](const std::string& svg) {
            std::map<QString, int> n;
            QXmlStreamReader xml(QByteArray::fromStdString(svg));
            while (!xml.atEnd())
                if (xml.readNext() == QXmlStreamReader::StartElement) ++n[xml.name().toString()];
            if (xml.hasError()) qFatal("%s", qPrintable(xml.errorString()));
            return n;
        };
        auto one = count(pictureSvg(demo.chassis)), two = count(pictureSvg(tower.chassis));
        QCOMPARE(one["rect"], 1);
        QCOMPARE(two["rect"], 2);
        QCOMPARE(two["circle"] + two["path"], one["circle"] + one["path"]);
        QCOMPARE(two["text"], one["text"]);
        const look::Scene flat = look::sceneOf(demo.chassis, {}), both = look::sceneOf(tower.chassis, {});
        QVERIFY(both.radius > flat.radius && both.middle.z() < flat.middle.z());
    }
};

EMBER_TESTS(TestTower)
#include "test_tower.moc"
