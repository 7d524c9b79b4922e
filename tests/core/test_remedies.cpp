// The edits that findings propose: standard parts that bear what they are for.

#include "../support/demo.h"
#include "../support/shipped.h"
#include "../support/suite.h"

#include "core/plan/discharge.h"
#include "core/plan/solve.h"
#include "core/quantity/quantity.h"
#include "core/rules/findings.h"
#include "core/rules/remedies.h"

#include <QTest>

#include <cmath>

using namespace ember;
using namespace ember::rules;

class TestRemedies : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void wattsAreTwiceWhatIsBurnt() {
        double last = 0;
        for (double used = 0.01; used < 12; used *= 1.07) {
            const double rating = nextWatts(used);
            QVERIFY(rating >= 2 * used);
            QVERIFY(rating >= last); // never less for more
            last = rating;
        }
        QCOMPARE(nextWatts(0.25), 0.5);
        QCOMPARE(nextWatts(0.26), 1.0);
    }

    void voltsLeaveATenth() {
        QCOMPARE(*nextVolts(400), 450.0);
        QCOMPARE(*nextVolts(450), 500.0);
        QCOMPARE(*nextVolts(405), 450.0);
        QVERIFY(!nextVolts(560)); // no electrolytic is made for that: in series, then
    }

    void aBleederBearsItsVolts_data() {
        QTest::addColumn<double>("volts");
        QTest::addColumn<int>("inSeries");
        QTest::newRow("one body") << 390.0 << 1;
        QTest::newRow("two bodies") << 620.0 << 2;
        QTest::newRow("three bodies") << 1200.0 << 3;
    }
    void aBleederBearsItsVolts() {
        QFETCH(double, volts);
        QFETCH(int, inSeries);
        const Build b = demoBuild();
        const auto with = apply(b, addBleeder(b, 220e3, volts));
        QVERIFY2(with.ok(), with.ok() ? "" : with.problem().text().c_str());
        QCOMPARE(with->supply.bleeders.size(), b.supply.bleeders.size() + 1);
        const Bleeder& x = with->supply.bleeders.back();
        QCOMPARE(x.inSeries, inSeries);
        QCOMPARE(x.node, 1);
        const double each = volts / x.inSeries;
        QVERIFY(each <= limitingVolts(x.resistor.watts));
        QVERIFY(each * each / x.resistor.resistance <= 0.5 * x.resistor.watts);
        // No more ohms than asked for, and not half of them either; a value that can be bought.
        const double total = x.inSeries * x.resistor.resistance;
        QVERIFY(total <= 220e3 && total > 150e3);
        QVERIFY(std::abs(nearest(x.resistor.resistance, Series::E12) / x.resistor.resistance - 1) < 1e-9);
    }

    void twoBleedersHaveTwoNames() {
        Build b = demoBuild();
        for (int k = 0; k < 3; ++k) b = *apply(b, addBleeder(b, 100e3, 400));
        QVERIFY(!checkReferences(b));
    }

    void aSupplyWithEveryFaultIsMendedFixByFix() {
        // A builder who takes each advice in turn arrives at a supply with nothing left to say but what hands must do.
        Build b = demoBuild();
        b.transformer.plateResistance = 15;
        b.transformer.plateAmps = 0.08;
        b.supply.sections[0].capacitance = 100e-6;
        b.supply.sections[0].volts = 350;
        b.supply.sections[1].amps = 0.05;
        b.supply.sections[3].watts = 0.25;
        b.fuse.amps = 0.2;
        b.mainsSwitch.breaks = Breaks::Neutral;
        b.bias.failSafe = 0;
        const auto look = [&] {
            plan::Figures f = plan::solveFigures(b, catalogue);
            if (const auto rush = plan::inrushOf(b, catalogue, b.mains.high)) f.inrush = *rush;
            if (f.cold)
                if (auto held = plan::dischargeOf(b, *f.cold)) f.discharge = *held;
            std::vector<Finding> open;
            for (Finding& x : inspect(b, catalogue, f))
                if (!x.waived && x.fix && (x.station == "supply" || x.station == "bias")) open.push_back(std::move(x));
            return open;
        };
        const std::size_t atFirst = look().size();
        QVERIFY2(atFirst >= 8, qPrintable(QString::number(atFirst)));
        int taken = 0;
        for (auto open = look(); !open.empty() && taken < 30; open = look(), ++taken) {
            const auto next = apply(b, *open.front().fix);
            QVERIFY2(next.ok(), next.ok() ? "" : next.problem().text().c_str());
            b = *next;
        }
        QStringList left;
        for (const Finding& x : look()) left << QString::fromStdString(x.id);
        QVERIFY2(left.isEmpty(), qPrintable(left.join(", ")));
    }
};

EMBER_TESTS(TestRemedies)
#include "test_remedies.moc"
