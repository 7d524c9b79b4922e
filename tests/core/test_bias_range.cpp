// What the bias adjusters reach: against the whole supply solved with each at its ends.

#include "../support/demo.h"
#include "../support/parts.h"
#include "../support/shipped.h"
#include "../support/solved.h"
#include "../support/suite.h"

#include "core/plan/bias_range.h"
#include "core/plan/channel_point.h"
#include "core/plan/solve.h"
#include "core/plan/supply_circuit.h"

#include <QTest>

#include <cmath>

using namespace ember;
using namespace ember::plan;

namespace {

Build fed(BiasSource from) {
    Build b = demoBuild();
    b.bias.from = from;
    if (from != BiasSource::Winding) b.transformer.biasVolts = 0;
    return b;
}

} // namespace

class TestBiasRange : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void itsEndsAreWhatTheSupplyGivesThere_data() {
        QTest::addColumn<int>("from");
        QTest::newRow("winding") << int(BiasSource::Winding);
        QTest::newRow("plate winding, resistor") << int(BiasSource::PlateResistor);
        QTest::newRow("plate winding, capacitor") << int(BiasSource::PlateCapacitor);
    }
    void itsEndsAreWhatTheSupplyGivesThere() {
        QFETCH(int, from);
        const Build b = fed(static_cast<BiasSource>(from));
        const Steady rest = solvedAt(b, b.mains.volts);
        const BiasRange range = biasRange(b.bias, rest);
        QVERIFY(range.coldest < range.hottest && range.hottest < 0);
        for (const auto& [position, want] : {std::pair{0.0, range.hottest}, {1.0, range.coldest}}) {
            Build moved = b;
            adjusterOf(moved, "v3") = position; // the others stay
            const Steady s = solved(moved);
            QVERIFY2(std::abs(s.wipers[0] / want - 1) < 0.02,
                     qPrintable(QString("%1 against %2").arg(s.wipers[0]).arg(want)));
        }
    }

    void noPositionIsPositive_data() { itsEndsAreWhatTheSupplyGivesThere_data(); }
    void noPositionIsPositive() {
        QFETCH(int, from);
        Build b = fed(static_cast<BiasSource>(from));
        for (const double mains : {b.mains.low, b.mains.high}) {
            const Steady s = solvedAt(b, mains);
            QVERIFY(s.biasReservoir < s.biasRail && s.biasRail < 0);
            for (const double w : s.wipers) QVERIFY(w < 0 && w >= s.biasRail - 1e-6);
        }
    }

    void theRangeFollowsTheMains() {
        const Build b = demoBuild();
        const double low = biasRange(b.bias, solvedAt(b, b.mains.low)).coldest,
                     high = biasRange(b.bias, solvedAt(b, b.mains.high)).coldest;
        // The diode's drop and the winding's own are small: volts go with the mains.
        QVERIFY2(std::abs(high / low / (b.mains.high / b.mains.low) - 1) < 0.02,
                 qPrintable(QString::number(high / low)));
    }

    void anOpenWiperFallsToTheRailOrFloats() {
        Build b = demoBuild();
        const Steady s = solvedAt(b, b.mains.volts);
        QCOMPARE(biasRange(b.bias, s).openWiper, s.biasRail);
        b.bias.failSafe = 0;
        QVERIFY(std::isnan(biasRange(b.bias, s).openWiper));
    }

    void aColdStartBurnsAQuarterOfThePlatesWatts() {
        Build b = demoBuild();
        for (const double mains : {b.mains.low, b.mains.high}) {
            const Steady s = solvedAt(b, mains);
            const double volts = coldEnough(b, catalogue, s);
            QVERIFY(volts < s.wipers[0] && volts > s.biasRail); // colder than in use, and within reach
            ChannelDc channel(b, catalogue, 0);
            ChannelSupply supply = supplyOf(b, s);
            for (double& w : supply.wipers) w = volts;
            const auto cold = channel.at(supply);
            QVERIFY(cold.ok());
            // The sense resistor and the transformer's copper leave it a little more than in use.
            const double share = cold->valves[2].plateWatts() / catalogue.valve("EL84")->section(1).limits.plateWatts;
            QVERIFY2(std::abs(share / coldShare - 1) < 0.1, qPrintable(QString::number(share)));
        }
    }

    void withoutABiasSupplyThereIsNoRange() {
        Build b = demoBuild();
        b.transformer.biasVolts = 0;
        const BiasRange none = biasRange(b.bias, solvedAt(b, b.mains.volts));
        QVERIFY(std::isnan(none.coldest) && std::isnan(none.hottest));
    }
};

EMBER_TESTS(TestBiasRange)
#include "test_bias_range.moc"
