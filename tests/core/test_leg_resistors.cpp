// Resistors in the leads to the rectifier, strings of bleeders, and what a bass note draws from each node.

#include "../support/demo.h"
#include "../support/parts.h"
#include "../support/shipped.h"
#include "../support/solved.h"
#include "../support/suite.h"

#include "core/plan/disturbance.h"
#include "core/plan/named_figures.h"
#include "core/plan/solve.h"
#include "core/plan/supply_case.h"

#include <QTest>

#include <cmath>

using namespace ember;
using namespace ember::plan;

namespace {

Build connectedAs(Connection connection) {
    Build b = demoBuild();
    b.supply.connection = connection;
    if (connection == Connection::Doubler) {
        b.supply.sections[0].inSeries = 2;
        b.transformer.plateVolts /= 2;
    }
    if (connection != Connection::CentreTapped) b.supply.rectifier.type = "silicon";
    return b;
}

} // namespace

class TestLegResistors : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void isAsGoodAsCopper_data() {
        QTest::addColumn<int>("connection");
        QTest::addColumn<double>("leads"); ///< that the current passes one after the other
        QTest::newRow("centre tap") << int(Connection::CentreTapped) << 1.0;
        QTest::newRow("bridge") << int(Connection::Bridge) << 2.0;
        QTest::newRow("half wave") << int(Connection::HalfWave) << 1.0;
        QTest::newRow("hybrid bridge") << int(Connection::HybridBridge) << 2.0;
        QTest::newRow("doubler") << int(Connection::Doubler) << 1.0;
    }
    void isAsGoodAsCopper() {
        QFETCH(int, connection);
        QFETCH(double, leads);
        Build resistor = connectedAs(static_cast<Connection>(connection)), copper = resistor;
        if (connection == int(Connection::HybridBridge))
            resistor.supply.rectifier.type = copper.supply.rectifier.type = "5V4G";
        // The bias supply would feel the copper and not the resistor.
        resistor.bias.from = copper.bias.from = BiasSource::Winding;
        resistor.supply.rectifier.legResistance = 40;
        copper.transformer.plateResistance += 40 * leads;
        const Steady a = solved(resistor), z = solved(copper);
        for (std::size_t k = 0; k < a.nodes.size(); ++k)
            QVERIFY2(std::abs(a.nodes[k].mean / z.nodes[k].mean - 1) < 1e-4,
                     qPrintable(QString("%1 against %2").arg(a.nodes[k].mean).arg(z.nodes[k].mean)));
        QVERIFY(std::abs(a.rectifierPeak / z.rectifierPeak - 1) < 2e-3);
        // Each lead carries what its leg of the winding carries.
        QVERIFY2(std::abs(a.legResistorWatts / (a.legRms * a.legRms * 40) - 1) < 5e-3,
                 qPrintable(QString::number(a.legResistorWatts / (a.legRms * a.legRms * 40))));
        QVERIFY(std::isnan(z.legResistorWatts));
    }

    void itIsAmongTheNamedFiguresWhereThereIsOne() {
        Build b = demoBuild();
        const auto has = [](const Build& x) {
            const auto all = namedFigures(x, solved(x));
            return std::any_of(all.begin(), all.end(), [](const auto& f) { return f.id == "rectifier.leg"; });
        };
        QVERIFY(!has(b));
        b.supply.rectifier.legResistance = 33;
        QVERIFY(has(b));
    }

    void itHoldsTheRectifiersPeakBack() {
        Build b = demoBuild();
        const Steady bare = solved(b);
        b.supply.rectifier.legResistance = 100;
        const Steady held = solved(b);
        QVERIFY(held.rectifierPeak < 0.9 * bare.rectifierPeak);
        QVERIFY(held.nodes[0].mean < bare.nodes[0].mean - 5);
        // What the resistors burn is not more than what the mains give in excess.
        QVERIFY(2 * held.legResistorWatts < held.mainsWatts);
    }

    void throughTimeItEndsWhereTheSteadyStateSays() {
        Build b = demoBuild();
        b.supply.rectifier.legResistance = 100;
        const Steady s = solved(b);
        const auto on = switchOn(b, catalogue, s, 40);
        QVERIFY(on.ok());
        QVERIFY2(std::abs(on->nodes[0].back() / s.nodes[0].mean - 1) < 0.04,
                 qPrintable(QString::number(on->nodes[0].back())));
    }

    void aSupplyCaseKnowsIt() {
        const char* text = R"({"name": "x", "mains": {"frequency": 50},
            "secondary": {"connection": "centre-tapped", "emf_rms_per_leg": 250, "source_resistance_per_leg": %1},
            "rectifier": {"kind": "vacuum", "perveance": 0.0014, "leg_resistance": %2},
            "sections": [{"kind": "capacitor", "capacitance": 3e-5}],
            "loads": [{"node": 1, "kind": "resistor", "resistance": 3000}]})";
        const auto of = [&](int copper, int leg) {
            const auto all = supplyCasesFromText(QString(text).arg(copper).arg(leg).toStdString());
            if (!all) qFatal("%s", all.problem().text().c_str());
            return *solveCase(all->front());
        };
        const auto a = of(60, 40), z = of(100, 0);
        QVERIFY(std::abs(a.nodes[0].mean / z.nodes[0].mean - 1) < 1e-5);
        QVERIFY(std::abs(a.sourceWatts - a.lossWatts) < 1e-3 * a.sourceWatts);
    }

    void bleedersInSeriesAreOneOfTheirSum() {
        Build three = demoBuild(), one = three;
        three.supply.bleeders.push_back({{}, 1, {{}, "rb", 33e3, 2, 0.05}, 3});
        one.supply.bleeders.push_back({{}, 1, {{}, "rb", 99e3, 6, 0.05}});
        const Steady a = solved(three), z = solved(one);
        QVERIFY(std::abs(a.nodes[0].mean / z.nodes[0].mean - 1) < 1e-9);
        QVERIFY(std::abs(a.partWatts.at("rb") / (z.partWatts.at("rb") / 3) - 1) < 1e-6); // each a third
    }

    void aConstantLoadEndsWhereThereAreNoVolts() {
        Build b = demoWithoutBleeder();
        b.channels.clear();
        b.supply.loads = {{{}, "load", 1, 0.02, 0}};
        for (Section& s : b.supply.sections) s.leakageResistance = 0;
        const Steady s = solved(b);
        // While the rectifier's valve is cold nothing feeds the node, and nothing is drawn from it.
        const auto on = switchOn(b, catalogue, s, 30);
        QVERIFY(on.ok());
        for (const auto& node : on->nodes)
            for (const double v : node) QVERIFY2(v > -0.5, qPrintable(QString::number(v)));
        QVERIFY(std::abs(on->nodes[0].back() / s.nodes[0].mean - 1) < 0.03);
        // Off, the first capacitor falls evenly, all three together: t = C dV / I, the choke and resistor in between.
        const auto off = switchOff(b, catalogue, s, true, 20);
        QVERIFY(off.ok());
        double farads = 0;
        for (const Section& c : b.supply.sections)
            if (c.kind == SectionKind::Capacitor) farads += c.capacitance;
        const double want = farads * (s.nodes[0].mean - 50) / 0.02, got = off->below(0, 50);
        QVERIFY2(std::abs(got / want - 1) < 0.02, qPrintable(QString("%1 for %2").arg(got).arg(want)));
        for (const auto& node : off->nodes) QVERIFY(node.back() > -0.5 && node.back() < 10);
    }

    void aNoteDrawsFromTheNodesThatFeedIt() {
        std::vector<PowerFigures> power(2);
        int plates = 2; // the second channel's plates from the rectifier
        for (PowerFigures& p : power) {
            p.clipWatts = 10;
            p.clipMore = {{plates, false, 0.03}, {2, true, 0.006}, {3, false, -1e-5}};
            plates = 1;
        }
        const auto draws = fullPower(power);
        const auto at = [&](int node) {
            for (const Draw& d : draws)
                if (d.node == node) return d.amps;
            return -1.0;
        };
        QCOMPARE(at(1), 0.03);
        QVERIFY(std::abs(at(2) - 0.042) < 1e-12); // the other's plates, and both channels' screens
        QCOMPARE(at(3), 0.0);                     // the small valves draw a little less: nothing is put back
        power[1].clipWatts = unknown;             // a channel that was not solved draws nothing
        QVERIFY(fullPower(power).front().node == 2);
    }

    void fullPowerDrawsWhatItsWattsCost() {
        // Solved, not assumed: what the supply gives more, times its volts, is at least the output, and not ten times.
        const Build b = demoBuild();
        const Steady s = solved(b);
        const auto power = channelPower(b, catalogue, s);
        QVERIFY(power.size() == 2);
        for (const PowerFigures& p : power) {
            QVERIFY(std::isfinite(p.clipDraw(2)) && std::isfinite(p.clipScreens()));
            const double volts = s.nodes[1].mean;
            const double total = volts * (p.clipDraw(2) - p.clipScreens() + pointOf(b, s, "v3").plateAmps +
                                          pointOf(b, s, "v4").plateAmps);
            QVERIFY2(total > p.clipWatts && total < 4 * p.clipWatts, qPrintable(QString::number(total)));
            QVERIFY(p.clipScreens() > 0); // the plates swing below the screens and leave them the current
        }
    }
};

EMBER_TESTS(TestLegResistors)
#include "test_leg_resistors.moc"
