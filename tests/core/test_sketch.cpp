// The coarse model that layouts are tried on agrees with the true figures, and its moves can be taken back; layouts
// kept.

#include "../support/demo.h"
#include "../support/shipped.h"
#include "../support/suite.h"

#include "core/chassis/kept_layouts.h"
#include "core/chassis/sketch.h"
#include "core/plan/solve.h"

#include <QTest>

#include <cmath>
#include <random>

using namespace ember;
using namespace ember::chassis;

namespace {

double score(const Scores& s, Term t) {
    return s[static_cast<std::size_t>(t)];
}

std::size_t indexOf(const Chassis& c, const std::string& id) {
    for (std::size_t k = 0; k < c.parts.size(); ++k)
        if (c.parts[k].id == id) return k;
    qFatal("no part %s", id.c_str());
}

} // namespace

class TestSketch : public QObject {
    Q_OBJECT
    Build demo;
    plan::Figures plan;

  private Q_SLOTS:
    void initTestCase() {
        demo = demoBuild();
        plan = plan::solveFigures(demo, catalogue);
        QVERIFY(plan.nominal);
    }

    void movesTakenBackLeaveEveryScoreAsItWas() {
        Sketch s(demo, catalogue, plan);
        const Scores before = s.scores();
        std::mt19937 random(5);
        for (int n = 0; n < 200; ++n) {
            const std::size_t k = random() % s.size();
            s.move(k, s.x(k) + 1e-3 * double(random() % 50), s.y(k), s.angle(k) + 90);
        }
        s.takeBack();
        const Scores after = s.scores();
        for (std::size_t k = 0; k < termCount; ++k) QVERIFY2(std::abs(after[k] - before[k]) < 1e-9, termNames[k]);
    }

    void scoresAfterMovesAreThoseOfALayoutDrawnAfresh() {
        Sketch s(demo, catalogue, plan);
        std::mt19937 random(9);
        for (int n = 0; n < 300; ++n) {
            const std::size_t k = random() % s.size();
            s.move(k, s.x(k) + 1e-3 * (double(random() % 41) - 20), s.y(k), s.angle(k) + 90 * (n % 3 == 0));
            if (n % 2)
                s.keep();
            else
                s.takeBack();
        }
        Build moved = demo;
        moved.chassis = withPlaces(demo.chassis, s.places());
        const Scores kept = s.scores(), fresh = Sketch(moved, catalogue, plan).scores();
        for (std::size_t k = 0; k < termCount; ++k)
            QVERIFY2(std::abs(kept[k] - fresh[k]) < 1e-9,
                     qPrintable(QString("%1: %2 against %3").arg(termNames[k]).arg(kept[k]).arg(fresh[k])));
    }

    void itsExposureIsThatOfTheTrueFigures() {
        const Sketch s(demo, catalogue, plan);
        double worst = 0, sum = 0;
        const auto& victims = plan.layout->exposure.victims;
        for (const auto& [victim, tesla] : victims) {
            const double one = std::max(0.0, 20 * std::log10(tesla / allowedTesla) + 20) / 20;
            worst = std::max(worst, one);
            sum += one;
        }
        QVERIFY(std::abs(score(s.scores(), Term::Exposure) - (worst + sum / double(victims.size())) / 2) < 1e-6);
    }

    void partsOnEachOtherCostFit() {
        Build b = demo;
        const Scores before = Sketch(b, catalogue, plan).scores();
        b.chassis.parts[indexOf(b.chassis, "p-v2")].x = b.chassis.parts[indexOf(b.chassis, "p-v5")].x;
        QVERIFY(score(Sketch(b, catalogue, plan).scores(), Term::Fit) > score(before, Term::Fit) + 0.5);
    }

    void aMirroredPairIsSymmetric() {
        Build b = demo;
        auto& parts = b.chassis.parts;
        for (const auto& [left, right] : {std::pair{"p-v2", "p-v5"},
                                          {"p-v3", "p-v6"},
                                          {"p-v4", "p-v7"},
                                          {"p-ot1", "p-ot2"},
                                          {"p-in1", "p-in2"},
                                          {"p-out1", "p-out2"}}) {
            const PlacedPart& l = parts[indexOf(b.chassis, left)];
            PlacedPart& r = parts[indexOf(b.chassis, right)];
            r.x = frameOf(b.chassis, l.face).width - l.x;
            r.y = l.y;
        }
        QVERIFY(score(Sketch(b, catalogue, plan).scores(), Term::Symmetry) < 1e-9);
        QVERIFY(score(Sketch(demo, catalogue, plan).scores(), Term::Symmetry) > 0.5);
    }

    void aHotPartNearerToACanCostsHeat() {
        Build b = demo;
        const double before = score(Sketch(b, catalogue, plan).scores(), Term::Heat);
        PlacedPart& can = b.chassis.parts[indexOf(b.chassis, "p-c3")];
        can.x = b.chassis.parts[indexOf(b.chassis, "p-v7")].x + 0.03;
        QVERIFY(score(Sketch(b, catalogue, plan).scores(), Term::Heat) > before);
    }

    void aKeptLayoutComesBackExactly() {
        const auto kept = apply(demo, keepLayout(demo, "first", placesOf(demo.chassis)));
        QVERIFY(kept);
        const auto moved = apply(*kept, setValue("", "/chassis/parts/0/x", 0.2));
        QVERIFY(moved);
        QVERIFY(moved->chassis.parts[0].x != demo.chassis.parts[0].x);
        const auto back = apply(*moved, usePlaces("back", moved->chassis, moved->chassis.kept[0].places));
        QVERIFY(back);
        for (std::size_t k = 0; k < demo.chassis.parts.size(); ++k)
            QCOMPARE(back->chassis.parts[k].x, demo.chassis.parts[k].x);
    }

    void inputsAtTheOtherEndCostLead() {
        const auto schools = schoolsOf(demo);
        const auto inputs =
            std::find_if(schools.begin(), schools.end(), [](const School& s) { return s.id == "inputs"; });
        QVERIFY(inputs != schools.end());
        QCOMPARE(inputs->now, std::string("inputs at the front"));
        Build other = demo;
        other.chassis = withPlaces(demo.chassis, inputs->places);
        for (const char* id : {"p-in1", "p-in2"})
            QVERIFY(other.chassis.parts[indexOf(other.chassis, id)].face == Face::Back);
        for (const FitProblem& f : checkFit(other.chassis, assemble(other.chassis), 400))
            QVERIFY(other.chassis.parts[f.a].kind != "jack" && other.chassis.parts[f.b].kind != "jack");
        LayoutSolver solver;
        const auto front = summarise(demo, *plan.layout), back = summarise(other, solver.solve(other, catalogue, plan));
        // From the back wall to the first valves, which stand near the front of a 250 mm plate.
        QVERIFY2(back.inputLead > front.inputLead + 0.1,
                 qPrintable(QString("%1 %2").arg(front.inputLead).arg(back.inputLead)));
        QVERIFY(back.inputDb > front.inputDb); // the mains inlet is on that wall
    }

    void aMirroredAmplifierHearsTheSame() {
        const auto schools = schoolsOf(demo);
        const auto handed =
            std::find_if(schools.begin(), schools.end(), [](const School& s) { return s.id == "handed"; });
        QVERIFY(handed != schools.end());
        Build other = demo;
        other.chassis = withPlaces(demo.chassis, handed->places);
        LayoutSolver solver;
        const auto one = summarise(demo, *plan.layout), two = summarise(other, solver.solve(other, catalogue, plan));
        QVERIFY(std::abs(one.exposureDb - two.exposureDb) < 0.01);
        QVERIFY(std::abs(one.inputLead - two.inputLead) < 1e-9);
        QVERIFY(std::abs(one.hottestCan - two.hottestCan) < 0.5);
    }
};

EMBER_TESTS(TestSketch)
#include "test_sketch.moc"
