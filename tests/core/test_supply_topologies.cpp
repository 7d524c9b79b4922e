// Every way to connect a winding, against closed forms and against each other.

#include "../support/demo.h"
#include "../support/suite.h"

#include "core/build/chain_edits.h"
#include "core/plan/amplifier_netlist.h"
#include "core/plan/disturbance.h"
#include "core/plan/solve.h"
#include "core/plan/supply_case.h"

#include <QTest>

#include <cmath>
#include <numbers>

using namespace ember;
using namespace ember::plan;

namespace {

Section capacitor(double farads, int inSeries = 1) {
    Section s;
    s.id = "c1";
    s.capacitance = farads;
    s.inSeries = inSeries;
    return s;
}

SupplyCase silicon(Connection connection, double emf, double ohms, double load) {
    SupplyCase c;
    c.supply.connection = connection;
    c.emf = emf;
    c.sourceOhms = ohms;
    c.rectifier = c.silicon = *Catalogue::shipped().rectifier("silicon");
    c.supply.sections = {capacitor(100e-6, connection == Connection::Doubler ? 2 : 1)};
    c.loads = {{1, load, 0}};
    return c;
}

double mean(const SupplyCase& c) {
    const auto f = solveCase(c);
    if (!f) qWarning("%s", f.problem().text().c_str());
    return f ? f->nodes.back().mean : NAN;
}

} // namespace

class TestSupplyTopologies : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void withoutALoadEachGivesItsCrest_data() {
        QTest::addColumn<int>("connection");
        QTest::addColumn<double>("crests");
        QTest::addColumn<double>("drops");
        QTest::newRow("centre tap") << int(Connection::CentreTapped) << 1.0 << 1.0;
        QTest::newRow("bridge") << int(Connection::Bridge) << 1.0 << 2.0;
        QTest::newRow("half wave") << int(Connection::HalfWave) << 1.0 << 1.0;
        QTest::newRow("hybrid bridge") << int(Connection::HybridBridge) << 1.0 << 2.0;
        QTest::newRow("doubler") << int(Connection::Doubler) << 2.0 << 2.0;
    }
    void withoutALoadEachGivesItsCrest() {
        QFETCH(int, connection);
        QFETCH(double, crests);
        QFETCH(double, drops);
        const double crest = crests * 200 * std::numbers::sqrt2;
        const double v = mean(silicon(static_cast<Connection>(connection), 200, 20, 1e8));
        QVERIFY2(v < crest && v > crest - 0.7 * drops, qPrintable(QString::number(v)));
    }

    void aBridgeIsACentreTapOfHalfTheResistance() {
        // Through a bridge both diodes are in series, and the whole winding conducts each time.
        SupplyCase bridge = silicon(Connection::Bridge, 250, 40, 3000),
                   tap = silicon(Connection::CentreTapped, 250, 40, 3000);
        tap.rectifier.junction.ideality *= 2;
        tap.rectifier.seriesOhms *= 2;
        QVERIFY(std::abs(mean(bridge) / mean(tap) - 1) < 2e-4);
    }

    void aHybridBridgeOfSiliconAloneIsABridge() {
        QVERIFY(std::abs(mean(silicon(Connection::HybridBridge, 250, 40, 3000)) /
                             mean(silicon(Connection::Bridge, 250, 40, 3000)) -
                         1) < 1e-6);
    }

    void aHybridBridgeDropsByItsValveAlone() {
        SupplyCase hybrid = silicon(Connection::HybridBridge, 250, 40, 3000),
                   all = silicon(Connection::Bridge, 250, 40, 3000);
        hybrid.rectifier = *Catalogue::shipped().rectifier("5V4G");
        all.rectifier = hybrid.rectifier;
        QVERIFY(mean(hybrid) > mean(all) + 5);
        QVERIFY(mean(hybrid) < mean(silicon(Connection::Bridge, 250, 40, 3000)) - 5);
    }

    void aDoublerGivesTwoHalfWaves() {
        // Each capacitor is a half-wave supply of its own with half the load's resistance... on the same current.
        SupplyCase half = silicon(Connection::HalfWave, 200, 20, 5000);
        half.supply.sections[0].capacitance = 100e-6;
        const double doubled = mean(silicon(Connection::Doubler, 200, 20, 10000));
        QVERIFY2(std::abs(doubled / (2 * mean(half)) - 1) < 0.01, qPrintable(QString::number(doubled)));
    }

    void twoInSeriesAreOneOfHalfTheCapacitance() {
        SupplyCase one = silicon(Connection::Bridge, 250, 40, 3000), two = one;
        two.supply.sections[0] = capacitor(200e-6, 2);
        const auto a = solveCase(one), b = solveCase(two);
        QVERIFY(a && b);
        QVERIFY(std::abs(a->nodes[0].mean / b->nodes[0].mean - 1) < 1e-4);
        QVERIFY(std::abs(a->nodes[0].rippleRms / b->nodes[0].rippleRms - 1) < 1e-3);
    }

    void aStringOfDiodesDropsSoManyTimesMore() {
        SupplyCase one = silicon(Connection::CentreTapped, 250, 40, 3000), four = one;
        four.supply.rectifier.inSeries = 4;
        const double fall = mean(one) - mean(four);
        QVERIFY2(fall > 3 * 0.6 && fall < 3 * 1.3, qPrintable(QString::number(fall)));
    }

    void anAmpleChokeInputGivesNineTenths() {
        SupplyCase c = silicon(Connection::CentreTapped, 300, 1, 2000);
        Section choke;
        choke.id = "l1";
        choke.kind = SectionKind::Choke;
        choke.inductance = 60;
        choke.resistance = 1;
        c.supply.sections.insert(c.supply.sections.begin(), choke);
        const double v = mean(c);
        QVERIFY2(std::abs(v / (300 * 2 * std::numbers::sqrt2 / std::numbers::pi) - 1) < 0.006,
                 qPrintable(QString::number(v)));
    }

    void energyBalances_data() {
        QTest::addColumn<int>("connection");
        for (int k = 0; k < 5; ++k) QTest::newRow(qPrintable(QString::number(k))) << k;
    }
    void energyBalances() {
        QFETCH(int, connection);
        // From a full load to one that makes the reservoir swing by a thousandth of its volts.
        for (const double load : {2500.0, 20e3, 90e3})
            for (const double ohms : {6.0, 30.0, 190.0})
                for (const double farads : {12e-6, 280e-6}) {
                    SupplyCase c = silicon(static_cast<Connection>(connection), 230, ohms, load);
                    c.supply.sections[0].capacitance = farads;
                    const auto f = solveCase(c);
                    QVERIFY(f);
                    QVERIFY2(std::abs(f->sourceWatts / f->lossWatts - 1) < 1e-3,
                             qPrintable(QString("%1 of %2 W, %3 ohm").arg(f->sourceWatts).arg(f->lossWatts).arg(load)));
                }
    }

    void aDoublerWithoutItsTwoCapacitorsIsRefused() {
        const auto edit = setText("", "/supply/connection", "doubler");
        const auto done = apply(demoBuild(), edit);
        QVERIFY(!done);
        QVERIFY2(done.problem().sentence.find("inSeries") != std::string::npos, done.problem().text().c_str());
    }

    void everyConnectionOfTheDemoSolves_data() {
        QTest::addColumn<QString>("connection");
        for (const char* c : {"centre-tapped", "bridge", "half-wave", "hybrid-bridge", "doubler"})
            QTest::newRow(c) << QString(c);
    }
    void everyConnectionOfTheDemoSolves() {
        QFETCH(QString, connection);
        Build b = demoBuild();
        b.transformer.plateVolts = 150;
        const auto so =
            apply(b, together("", {setWhole("", "/supply/sections/0/inSeries", connection == "doubler" ? 2 : 1),
                                   setText("", "/supply/connection", connection.toStdString())}));
        QVERIFY(so);
        const Figures f = solveFigures(*so, Catalogue::shipped());
        QVERIFY2(f.nominal.has_value(), f.failures.empty() ? "" : f.failures[0].c_str());
        QVERIFY(f.nominal->nodes[0].mean > 100);
        const auto on = switchOn(*so, Catalogue::shipped(), *f.nominal, 30);
        QVERIFY(on);
        QVERIFY2(std::abs(on->nodes[0].back() / f.nominal->nodes[0].mean - 1) < 0.06,
                 qPrintable(QString("%1 against %2").arg(on->nodes[0].back()).arg(f.nominal->nodes[0].mean)));
    }

    void biasIsNegativeFromEverySource_data() {
        QTest::addColumn<QString>("from");
        for (const char* c : {"winding", "plate-resistor", "plate-capacitor"}) QTest::newRow(c) << QString(c);
    }
    void biasIsNegativeFromEverySource() {
        QFETCH(QString, from);
        Build b = demoBuild();
        static const std::map<QString, BiasSource> sources{{"winding", BiasSource::Winding},
                                                           {"plate-resistor", BiasSource::PlateResistor},
                                                           {"plate-capacitor", BiasSource::PlateCapacitor}};
        b.bias.from = sources.at(from);
        b.bias.feed = 22e3;
        b.bias.feedCapacitance = 2.2e-7;
        Conditions c;
        c.mainsVolts = 230;
        const auto s = solveSteady(b, Catalogue::shipped(), c);
        QVERIFY2(s.ok(), s.ok() ? "" : s.problem().text().c_str());
        QVERIFY2(s->biasRail < -3, qPrintable(QString::number(s->biasRail)));
        for (const double w : s->wipers) QVERIFY(w < 0 && w >= s->biasRail - 1e-6);
    }

    void aStandbySwitchClosedLateKeepsTheStagesDark() {
        Build b = demoBuild();
        const auto with = apply(b, insertSection(b, 1, SectionKind::Switch));
        QVERIFY(with);
        Build late = *with;
        late.supply.sections[1].closes = 20;
        Conditions c;
        c.mainsVolts = 230;
        const auto s = solveSteady(late, Catalogue::shipped(), c);
        QVERIFY(s);
        const auto on = switchOn(late, Catalogue::shipped(), *s, 30);
        QVERIFY(on);
        const auto at = [&](std::size_t node, double t) {
            return on->nodes[node][static_cast<std::size_t>(
                std::lower_bound(on->seconds.begin(), on->seconds.end(), t) - on->seconds.begin())];
        };
        QVERIFY(at(0, 19) > 300); // unloaded behind the rectifier
        QVERIFY(at(1, 19) < 1);
        QVERIFY(std::abs(at(1, 29.5) / s->nodes[1].mean - 1) < 0.05);
    }

    void moreIsDrawnWhileTheNoteLastsAndNotAfter() {
        const Build b = demoBuild();
        Conditions c;
        c.mainsVolts = 230;
        const auto s = solveSteady(b, Catalogue::shipped(), c);
        QVERIFY(s);
        const auto curve = disturbed(b, Catalogue::shipped(), *s, {{{2, 0.05}}}, 2);
        QVERIFY(curve);
        const auto over = [&](double from, double to) {
            double sum = 0;
            int count = 0;
            for (std::size_t k = 0; k < curve->seconds.size(); ++k)
                if (curve->seconds[k] >= from && curve->seconds[k] < to) sum += curve->nodes[1][k], ++count;
            return sum / count;
        };
        QVERIFY(over(0.6, 0.7) < over(0.1, 0.2) - 5);
        QVERIFY(std::abs(over(1.8, 2.0) - over(0.1, 0.2)) < 1);
        QVERIFY(std::abs(over(0.1, 0.2) / s->nodes[1].mean - 1) < 0.01);
    }

    void aChokeKeepsTheRippleBackThatItsResistorLetsThrough() {
        const Build b = demoBuild();
        Conditions c;
        c.mainsVolts = 230;
        const auto s = solveSteady(b, Catalogue::shipped(), c);
        QVERIFY(s);
        const Disturbance none;
        const auto choke = disturbed(b, Catalogue::shipped(), *s, none, 0.2),
                   resistor = disturbed(withoutChokes(b), Catalogue::shipped(), *s, none, 0.2);
        QVERIFY(choke && resistor);
        const auto swing = [](const Curve& x) {
            const auto [least, most] = std::minmax_element(x.nodes[1].begin(), x.nodes[1].end());
            return *most - *least;
        };
        // X_L = 2 pi 100 Hz 5 H = 3.1 kohm against 95 ohm.
        QVERIFY2(swing(*resistor) > 10 * swing(*choke),
                 qPrintable(QString("%1 against %2").arg(swing(*resistor)).arg(swing(*choke))));
    }

    void theNetlistTextNamesEveryPart() {
        const Build b = demoBuild();
        const QString text = QString::fromStdString(supplyNetlistText(b, Catalogue::shipped(), {0.01, 0.08, 0.01}));
        QVERIFY(text.startsWith("* Larkfield"));
        QVERIFY(text.contains(".tran") && text.trimmed().endsWith(".end"));
        QVERIFY(text.contains("K") && text.contains("SIN(0 325.2"));
        QCOMPARE(text.count("*pow(max(V("), 2); // both plates
        for (const QString& line : text.split('\n', Qt::SkipEmptyParts))
            QVERIFY2(line.size() < 200 && !line.contains("nan"), qPrintable(line));
    }

    void theNetlistTextKnowsLegsTapsAndSinks() {
        const auto lines = [](const Build& b) {
            return QString::fromStdString(supplyNetlistText(b, Catalogue::shipped(), {0.01, 0.08, 0.01, 0.01}));
        };
        Build b = demoBuild();
        const QString plain = lines(b);
        b.supply.rectifier.legResistance = 47;
        QCOMPARE(lines(b).count(" 47\n"), plain.count(" 47\n") + 2); // one in each leg
        b.supply.loads.push_back({{}, "load", 1, 0.02, 0});
        QVERIFY(lines(b).contains("I=0.02*(1-exp(-max(V("));
        const Build tapped = *apply(b, insertSection(b, b.supply.sections.size(), SectionKind::Tap));
        QVERIFY(lines(tapped).count("\nD") >= lines(b).count("\nD") + 2); // silicon of its own
        QVERIFY(lines(tapped).count("\nL") >= lines(b).count("\nL") + 2); // and a stretch more of each leg
    }

    void surgeIsLargerThanWhatFlowsAndLessThanCopperAllows() {
        Build b = demoBuild();
        // A core that takes next to nothing: heaters and capacitors alone.
        b.transformer.ratedHertz = 16, b.transformer.magnetisingInductance = 1000;
        b.thermistor.cold = b.thermistor.hot = 0;
        const auto rush = inrushOf(b, Catalogue::shipped(), 230);
        QVERIFY(rush);
        // Heaters are six times hungrier when cold; the valve rectifier still keeps the capacitors from charging.
        QVERIFY(rush->peakAmps > 1 && rush->peakAmps < 230 * std::numbers::sqrt2 / b.transformer.primaryResistance);
        Build silicon = b;
        silicon.supply.rectifier.type = "silicon";
        const auto charging = inrushOf(silicon, Catalogue::shipped(), 230);
        QVERIFY(charging);
        QVERIFY(charging->peakAmps > 1.5 * rush->peakAmps);
        Build held = b;
        held.thermistor = {{}, "t1", 47, 2};
        const auto less = inrushOf(held, Catalogue::shipped(), 230);
        QVERIFY(less);
        QVERIFY(less->i2t < 0.9 * rush->i2t);
    }
};

EMBER_TESTS(TestSupplyTopologies)
#include "test_supply_topologies.moc"
