// Typical operations and resistance-coupled stages as published, said with kinds of stage.
#include "../support/shipped.h"
#include "../support/stage_bench.h"
#include "../support/suite.h"

#include "core/schematic/solve.h"

#include <QTest>

#include <numbers>

using namespace ember;
using namespace ember::schematic;

namespace {

/// A path at rest, its nodes held at these volts.
struct Rest {
    plan::HeldChannel channel;
    Analysis analysis;
    Expected<Point> point;
    Rest(const Bench& x, const std::vector<double>& nodes)
        : channel(held(x.b, catalogue, nodes)),
          analysis(channel.schematic),
          point(analysis.operatingPoint()) {}
    [[nodiscard]] NetId net(const char* name) const { return *channel.schematic.findNet(name); }
    [[nodiscard]] double volts(const char* name) const { return point->volts(net(name)); }
    [[nodiscard]] double gain(NetId to) { return std::abs(analysis.gain(*point, channel.source, to, 1000)); }
};

/// Watts in 8 ohm of a tone of this crest at the input.
double watts(const Bench& x, const std::vector<double>& nodes, double crest) {
    const plan::HeldChannel h = held(x.b, catalogue, nodes, {0, crest, 1000, 0});
    const auto tone = steadyTone(h.schematic, 1000, h.output);
    return tone ? tone->outputRms * tone->outputRms / 8 : std::nan("");
}

/// A transformer that is nearly ideal, as published operations take it.
StagePart ideal(double primary) {
    return iron(primary, 8, 1e3, 0.01 * primary, 0.05, 1e-4);
}

} // namespace

class TestPublished : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    /// Resistance-coupled triodes: supply, plate load, cathode resistor, next grid's leak; current and gain. The fit of
    /// this type gives the small currents at high gain an eighth too little.
    void aResistanceCoupledTriode_data() {
        for (const char* column : {"supply", "plate", "cathode", "leak", "amps", "gain"})
            QTest::addColumn<double>(column);
        QTest::newRow("250 V, 47 k") << 250.0 << 47e3 << 1200.0 << 150e3 << 1.18e-3 << 37.5;
        QTest::newRow("250 V, 100 k") << 250.0 << 100e3 << 1500.0 << 330e3 << 0.86e-3 << 54.5;
        QTest::newRow("350 V, 100 k") << 350.0 << 100e3 << 1000.0 << 330e3 << 1.4e-3 << 61.0;
        QTest::newRow("300 V, 220 k") << 300.0 << 220e3 << 2200.0 << 680e3 << 0.63e-3 << 72.0;
    }
    void aResistanceCoupledTriode() {
        QFETCH(double, supply);
        QFETCH(double, plate);
        QFETCH(double, cathode);
        QFETCH(double, leak);
        QFETCH(double, amps);
        QFETCH(double, gain);
        Bench x;
        triode(x, "ECC83", plate, cathode, 1e-3, 1, 1e6);
        x.stage("line out").parts = {c("coupling", 1e-6), r("load", leak)};
        Rest rest(x, {supply});
        QVERIFY(rest.point.ok());
        QVERIFY(near((supply - rest.volts("V1 plate 1")) / plate, amps, 0.15, 0, "plate current"));
        QVERIFY(near(rest.gain(rest.channel.output), gain, 0.13, 0, "gain"));
    }

    /// A cathode-coupled phase splitter, its first grid 65 V up: 1.0 mA in both together, 25 times to either plate.
    void aPhaseSplitter() {
        Bench x;
        Stage& s = x.stage("long-tailed pair");
        x.valve(s, "ECC83", "a");
        x.valve(s, "ECC83", "b", true);
        s.parts = {c("coupling", 1e-6, "a"), c("grid capacitor", 1e-6), r("plate", 100e3, "a"), r("plate", 100e3, "b"),
                   r("tail", 68e3)};
        // In the published circuit the first grid stands on the plate of the stage before; here on a divider.
        x.loose("B+1", "V1 grid 1", ohms(1.85e6));
        x.loose("V1 grid 1", "ground", ohms(650e3));
        x.loose("V1 grid 1", "V1 grid 2", ohms(1e6));
        Rest rest(x, {250});
        QVERIFY(rest.point.ok());
        const double amps = rest.volts("One s1 cathodes") / 68e3;
        QVERIFY(near(amps, 1.0e-3, 0.08, 0, "current"));
        for (const char* plate : {"V1 plate 1", "V1 plate 2"})
            // The published figure has the next valves' grid leaks on it, which are not stated.
            QVERIFY(near(rest.gain(rest.net(plate)), 25, 0.15, 0, plate));
    }

    /// Output valves by themselves: plate volts, cathode resistor, primary; current in the resistor, crest, power.
    void aSingleEndedStage_data() {
        QTest::addColumn<QString>("type");
        for (const char* column : {"plate", "cathode", "primary", "plateAmps", "amps", "crest", "power"})
            QTest::addColumn<double>(column);
        QTest::newRow("pentode") << "EL84" << 250.0 << 7.3 / 53.5e-3 << 5200.0 << 48e-3 << 53.5e-3
                                 << 4.3 * std::numbers::sqrt2 << 5.7;
        QTest::newRow("triode") << "2A3" << 250.0 << 750.0 << 2500.0 << 60e-3 << 60e-3 << 45.0 << 3.5;
    }
    void aSingleEndedStage() {
        QFETCH(QString, type);
        QFETCH(double, plate);
        QFETCH(double, cathode);
        QFETCH(double, primary);
        QFETCH(double, plateAmps);
        QFETCH(double, amps);
        QFETCH(double, crest);
        QFETCH(double, power);
        Bench x;
        Stage& s = x.stage("single-ended");
        x.valve(s, type.toStdString(), "a1");
        s.parts = {c("coupling", 1e-6, "a1"),
                   r("grid leak", 470e3, "a1"),
                   r("cathode", cathode),
                   c("bypass", 1e-2),
                   ideal(primary),
                   r("load", 8)};
        if (catalogue.valve(type.toStdString())->section(1).pentode) s.parts.push_back(r("screen", 1, "a1"));
        // Published are plate to cathode volts; the supply gives the cathode's and the copper's too.
        const std::vector<double> nodes{plate + amps * cathode + 0.01 * primary / 2 * plateAmps};
        Rest rest(x, nodes);
        QVERIFY(rest.point.ok());
        QVERIFY(near(rest.volts("One s1 cathodes") / cathode, amps, 0.1, 0, "current"));
        QVERIFY(near(watts(x, nodes, crest), power, 0.15, 0, "power"));
    }

    /// Two pentodes on one cathode resistor: supply, resistor, plate to plate, currents at rest, crest per grid, power.
    void aPushPullPair_data() {
        for (const char* column : {"supply", "cathode", "load", "amps", "crest", "power"})
            QTest::addColumn<double>(column);
        QTest::newRow("250 V") << 250.0 << 130.0 << 8000.0 << 69e-3 << 11.3 << 11.0;
        QTest::newRow("300 V") << 300.0 << 130.0 << 8000.0 << 80e-3 << 14.15 << 17.0;
    }
    void aPushPullPair() {
        QFETCH(double, supply);
        QFETCH(double, cathode);
        QFETCH(double, load);
        QFETCH(double, amps);
        QFETCH(double, crest);
        QFETCH(double, power);
        Bench x;
        idealPhases(x);
        Stage& s = x.stage("push-pull");
        x.valve(s, "EL84", "a1");
        x.valve(s, "EL84", "b1");
        s.parts = {c("coupling", 1e-6, "a1"),
                   c("coupling", 1e-6, "b1"),
                   r("grid leak", 470e3, "a1"),
                   r("grid leak", 470e3, "b1"),
                   r("screen", 1, "a1"),
                   r("screen", 1, "b1"),
                   r("cathode", cathode),
                   c("bypass", 1e-2),
                   ideal(load),
                   r("load", 8)};
        const std::vector<double> nodes{supply + cathode * amps};
        Rest rest(x, nodes);
        QVERIFY(rest.point.ok());
        QVERIFY(near(rest.volts("One s2 cathodes") / cathode, amps, 0.1, 0, "current"));
        QVERIFY(near(watts(x, nodes, crest), power, 0.15, 0, "power"));
    }
};

EMBER_TESTS(TestPublished)
#include "test_published.moc"
