// Which fuse: standard ratings against what flows all day and what a switch-on brings.

#include "../support/demo.h"
#include "../support/suite.h"

#include "core/plan/fuse_advice.h"
#include "core/plan/solve.h"

#include <QTest>

#include <cmath>

using namespace ember;
using namespace ember::plan;

class TestFuseAdvice : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void aFuseBearsTenTimesItsRatingForItsLeastTime() {
        QCOMPARE(fuseBears(1, true), 2.0);  // 10 A for 20 ms
        QCOMPARE(fuseBears(1, false), 0.1); // for 1 ms
        QCOMPARE(fuseBears(2, true), 8.0);
    }

    void theLargerOfTwoReasonsDecides() {
        const auto byCurrent = adviseFuse(0.4, 0.1, true);
        QVERIFY(byCurrent);
        QCOMPARE(byCurrent->amps, 0.63); // 1.5 x 0.4 A
        QCOMPARE(byCurrent->forSurge, 0.25);
        const auto bySurge = adviseFuse(0.4, 5, true);
        QCOMPARE(bySurge->amps, 1.6); // 100 x 1.6^2 x 0.02 is the first above 5
        QCOMPARE(bySurge->forContinuous, 0.63);
        QVERIFY(adviseFuse(0.4, 5, false)->amps > 6); // a quick one has to be much larger
    }

    void whatNoStandardFuseBearsIsNotProposed() {
        QVERIFY(!adviseFuse(0.4, 1e3, true));
        QVERIFY(!adviseFuse(20, NAN, true));
        QCOMPARE(adviseFuse(0.4, NAN, true)->amps, 0.63); // the surge is not known yet
    }

    void aSmallCapacitorChargedThroughAFuseBringsItsEnergyOverTheResistance() {
        // A large reservoir, then a standby switch: half C V^2 is lost in what the charge flows through.
        Build b = demoBuild();
        b.channels.clear();
        b.transformer.biasVolts = 0;
        b.supply.rectifier.type = "silicon";
        b.supply.bleeders.clear();
        Section large, contact, fuse, small;
        large.id = "c1", large.capacitance = 2e-3;
        contact.id = "s1", contact.kind = SectionKind::Switch, contact.resistance = 0.05, contact.closes = 15;
        fuse.id = "f1x", fuse.kind = SectionKind::Fuse, fuse.resistance = 100, fuse.amps = 0.1;
        small.id = "c2", small.capacitance = 4.7e-6;
        b.supply.sections = {large, contact, fuse, small};
        Conditions c;
        c.mainsVolts = b.mains.volts;
        const auto s = solveSteady(b, Catalogue::shipped(), c);
        QVERIFY(s.ok());
        const auto on = switchOn(b, Catalogue::shipped(), *s, 16);
        QVERIFY(on.ok());
        const double volts = s->nodes[0].mean, want = 0.5 * small.capacitance * volts * volts / 100.05;
        QVERIFY2(std::abs(on->surge.at("f1x") / want - 1) < 0.05,
                 qPrintable(QString::number(on->surge.at("f1x") / want)));
    }

    void theDemosFuseIsProposedOnceItsSurgeIsKnown() {
        const Build b = demoBuild();
        Figures f = solveFigures(b, Catalogue::shipped());
        QCOMPARE(mainsFuse(b, f)->forSurge, 0.0);
        f.inrush = *inrushOf(b, Catalogue::shipped(), b.mains.high);
        const auto a = mainsFuse(b, f);
        QVERIFY(a && a->forSurge > 0);
        QVERIFY(a->forContinuous >= 1.5 * f.high->primaryRms && a->amps <= b.fuse.amps);
    }
};

EMBER_TESTS(TestFuseAdvice)
#include "test_fuse_advice.moc"
