// Whole builds in their variants and limits: what changes, by how much, and what must not.

#include "../support/demo.h"
#include "../support/parts.h"
#include "../support/shipped.h"
#include "../support/solved.h"
#include "../support/suite.h"

#include "core/plan/solve.h"
#include "core/plan/steady.h"

#include <QTest>

#include <cmath>

using namespace ember;
using namespace ember::plan;

class TestVariants : public QObject {
    Q_OBJECT

    static Build silicon(Connection connection) {
        Build b = demoBuild();
        b.supply.rectifier.type = "silicon";
        b.supply.connection = connection;
        return b;
    }

  private Q_SLOTS:
    void aBridgeOnTheSameLegGivesAboutTheSameVolts() {
        const Steady tapped = solved(silicon(Connection::CentreTapped)), bridge = solved(silicon(Connection::Bridge));
        // The bridge charges through one winding at each half cycle as well, with one more junction on the way.
        QVERIFY(std::abs(bridge.nodes[0].mean / tapped.nodes[0].mean - 1) < 0.05);
        QVERIFY(std::abs(bridge.nodes[0].ripplePp / tapped.nodes[0].ripplePp - 1) < 0.1);
        // One winding that works all the time carries more than each of two that take turns.
        QVERIFY(bridge.legRms > 1.2 * tapped.legRms);
    }

    void halfWaveRipplesAtHalfTheFrequency() {
        const Steady half = solved(silicon(Connection::HalfWave)), full = solved(silicon(Connection::CentreTapped));
        QVERIFY(half.nodes[0].ripplePp > 1.7 * full.nodes[0].ripplePp);
        QVERIFY(half.nodes[0].mean < full.nodes[0].mean);
    }

    void siliconGivesMoreThanAValve() {
        const Build valve = demoBuild();
        QVERIFY(solved(silicon(Connection::CentreTapped)).nodes[0].mean > solved(valve).nodes[0].mean + 8);
    }

    void sixtyHertzRipplesLess() {
        Build b = demoBuild();
        const Steady fifty = solved(b);
        b.mains.frequency = 60;
        const Steady sixty = solved(b);
        const double ratio = sixty.nodes[0].ripplePp / fifty.nodes[0].ripplePp;
        QVERIFY2(ratio < 0.88 && ratio > 0.78, qPrintable(QString::number(ratio)));
        QVERIFY(std::abs(sixty.nodes[0].mean - fifty.nodes[0].mean) < 4);
    }

    void withoutItsRectifierThereIsNoHighVoltage() {
        const Steady s = solved(demoBuild(), {230, false, false, false, false});
        for (const NodeFigures& n : s.nodes) QVERIFY(std::abs(n.mean) < 1);
        QVERIFY2(s.wipers.size() == 4 && s.wipers[0] < -10, "the bias supply is there all the same");
        QVERIFY(s.legVolts > 260);
    }

    void theBiasStaysNegativeWhereverTheAdjusterStands_data() {
        QTest::addColumn<double>("position");
        for (const double p : {0.0, 0.25, 0.5, 0.75, 1.0}) QTest::addRow("%g", p) << p;
    }
    void theBiasStaysNegativeWhereverTheAdjusterStands() {
        QFETCH(double, position);
        Build b = demoBuild();
        for (const char* v : {"v3", "v4", "v6", "v7"}) adjusterOf(b, v) = position;
        const Steady s = solved(b);
        for (const double v : s.wipers) QVERIFY2(v < -4, qPrintable(QString::number(v)));
    }

    void colderIsMoreNegativeAllTheWay() {
        Build b = demoBuild();
        double before = 0;
        for (double p = 0; p <= 1.001; p += 0.1) {
            adjusterOf(b, "v3") = std::min(1.0, p);
            const double v = solved(b).wipers[0];
            QVERIFY(v < before);
            before = v;
        }
    }

    void aWornValveDrawsLess() {
        Build b = demoBuild();
        const Steady fresh = solved(b);
        valveOf(b, "v3").emission = 0.6;
        const Steady worn = solved(b);
        QVERIFY(pointOf(b, worn, "v3").plateAmps < 0.75 * pointOf(b, fresh, "v3").plateAmps);
        QVERIFY2(pointOf(b, worn, "v4").plateAmps > pointOf(b, fresh, "v4").plateAmps,
                 "its partner sees a little more supply");
        QVERIFY(worn.nodes[0].mean > fresh.nodes[0].mean);
    }

    void aBleederTakesOhmsLaw() {
        Build b = demoBuild();
        b.supply.bleeders.push_back({{}, 2, {{}, "rb", 47e3, 5, 0.05}});
        const Steady s = solved(b);
        const double want = s.nodes[1].mean * s.nodes[1].mean / 47e3;
        QVERIFY(std::abs(s.partWatts.at("rb") / want - 1) < 0.002);
    }

    /// Watts from the wall are watts in heaters, valves, resistors and copper.
    void theEnergyAddsUp() {
        const Build b = demoBuild();
        const Steady s = solved(b);
        double watts = 0;
        for (const plan::HeaterFigures& h : s.heaters) watts += h.volts * h.amps;
        for (const HeaterWinding& w : b.transformer.heaters) {
            double amps = 0;
            for (const plan::HeaterFigures& h : s.heaters)
                if (h.winding == w.id) amps += h.amps;
            watts += amps * amps * w.resistance;
        }
        watts += s.primaryRms * s.primaryRms * b.transformer.primaryResistance;
        watts += 2 * s.legRms * s.legRms * b.transformer.plateResistance;
        for (const auto& [id, w] : s.partWatts) watts += w;
        const RectifierType& type = *catalogue.rectifier(b.supply.rectifier.type);
        // In the rectifier: mean of K v^2.5 lies between that of the mean and that of the peak current.
        const double least = s.rectifierMean * std::pow(s.rectifierMean / 2 / type.law.perveance, 2.0 / 3);
        for (const ChannelPoint& p : s.channels)
            for (const NodeDraw& d : p.draws) watts += d.amps * s.nodes[static_cast<std::size_t>(d.node - 1)].mean;
        const double rest = s.mainsWatts - watts - least;
        QVERIFY2(rest > -0.5 && rest < 5,
                 qPrintable(QString("%1 W from the wall, %2 W found, %3 W at least in the rectifier")
                                .arg(s.mainsWatts)
                                .arg(watts)
                                .arg(least)));
    }

    void nodesFallAlongTheChain() {
        for (const double mains : {216.0, 230.0, 248.0}) {
            const Steady s = solved(demoBuild(), {mains});
            for (std::size_t k = 1; k < s.nodes.size(); ++k) {
                QVERIFY(s.nodes[k].mean < s.nodes[k - 1].mean);
                QVERIFY(s.nodes[k].ripplePp < s.nodes[k - 1].ripplePp);
            }
        }
    }

    /// The sine's RMS is the form factor of what a winding gives unloaded.
    void anUnloadedWindingGivesItsNoLoadVolts() {
        Build b = demoBuild();
        const Steady s = solved(b, {230, false, false, false, false});
        QVERIFY(std::abs(s.legVolts / b.transformer.plateVolts - 1) < 0.02);
    }

    void aWarmStartChangesNothingButTheTime() {
        Build b = demoBuild();
        WarmStart warm;
        QVERIFY(solveSteady(b, catalogue, {230}, {}, &warm).ok());
        b.supply.sections[3].resistance = 6800;
        const auto fast = solveSteady(b, catalogue, {230}, {}, &warm);
        const Steady cold = solved(b);
        QVERIFY(fast.ok());
        for (std::size_t k = 0; k < cold.nodes.size(); ++k)
            QVERIFY(std::abs(fast->nodes[k].mean / cold.nodes[k].mean - 1) < 2e-4);
    }

    void aCancelledSolveSaysSo() {
        std::stop_source stop;
        stop.request_stop();
        SteadyOptions o;
        o.stop = stop.get_token();
        const auto s = solveSteady(demoBuild(), catalogue, {230}, o);
        QVERIFY(!s.ok());
        QVERIFY(s.problem().sentence.find("cancelled") != std::string::npos);
    }
};

EMBER_TESTS(TestVariants)
#include "test_variants.moc"
