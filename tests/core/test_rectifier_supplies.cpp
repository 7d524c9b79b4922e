// Every case of the reference figures, which an independent integration gave.

#include "../support/suite.h"

#include "core/plan/supply_case.h"

#include <QFile>
#include <QTest>
#include <nlohmann/json.hpp>

#include <cmath>

using namespace ember;

namespace {

std::string text(const char* name) {
    QFile f(QString(TEST_DATA "/") + name);
    return f.open(QIODevice::ReadOnly) ? f.readAll().toStdString() : std::string();
}

} // namespace

class TestRectifierSupplies : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void initTestCase() {
        const auto read = plan::supplyCasesFromText(text("rectifier_supplies.json"));
        QVERIFY(read.ok());
        cases = *read;
        expected = Json::parse(text("rectifier_supplies.json")).at("cases");
    }

    void meetsTheReference_data() {
        QTest::addColumn<int>("index");
        for (std::size_t k = 0; k < cases.size(); ++k) QTest::newRow(cases[k].name.c_str()) << static_cast<int>(k);
    }
    void meetsTheReference() {
        QFETCH(int, index);
        const auto k = static_cast<std::size_t>(index);
        const auto f = plan::solveCase(cases[k]);
        QVERIFY2(f.ok(), f.ok() ? "" : f.problem().text().c_str());
        const Json& want = expected[k].at("expected");
        const auto within = [](double have, const Json& w, double share, const char* what) {
            const double off = std::abs(have / w.get<double>() - 1);
            if (off > share) qWarning("%s: %g against %g", what, have, w.get<double>());
            return off <= share;
        };
        for (std::size_t n = 0; n < f->nodes.size(); ++n) {
            QVERIFY(within(f->nodes[n].mean, want["nodes"][n]["mean"], 0.0005, "mean"));
            QVERIFY(within(f->nodes[n].ripplePp, want["nodes"][n]["ripple_pp"], 0.01, "ripple p-p"));
            QVERIFY(within(f->nodes[n].rippleRms, want["nodes"][n]["ripple_rms"], 0.01, "ripple RMS"));
        }
        QVERIFY(within(f->rectifierPeak, want["rectifier_peak_current"], 0.01, "peak"));
        QVERIFY(within(f->rectifierMean, want["rectifier_mean_current_total"], 0.005, "rectifier mean"));
        QVERIFY(within(f->windingRms, want["winding_rms_current_per_leg"], 0.01, "winding RMS"));
        for (std::size_t n = 0; n < f->chokeAmps.size(); ++n)
            QVERIFY(within(f->chokeAmps[n], want["choke_mean_current"][n], 0.001, "choke"));
    }

    void energyBalances_data() { meetsTheReference_data(); }
    void energyBalances() {
        QFETCH(int, index);
        const auto f = plan::solveCase(cases[static_cast<std::size_t>(index)]);
        QVERIFY(f.ok());
        QVERIFY2(std::abs(f->lossWatts / f->sourceWatts - 1) < 0.001,
                 qPrintable(QString("%1 W in, %2 W out").arg(f->sourceWatts).arg(f->lossWatts)));
    }

    void aLargeFirstCapacitorRipplesLessAndPeaksMore() {
        plan::SupplyCase c = cases[0];
        const auto small = plan::solveCase(c);
        c.supply.sections[0].capacitance *= 3;
        const auto large = plan::solveCase(c);
        QVERIFY(small.ok() && large.ok());
        QVERIFY(large->nodes[0].ripplePp < 0.5 * small->nodes[0].ripplePp);
        QVERIFY(large->rectifierPeak > small->rectifierPeak);
    }

    void aChokeOfTheSameResistanceCutsRippleMore() {
        plan::SupplyCase c = cases[1];
        const auto choke = plan::solveCase(c);
        c.supply.sections[1].kind = SectionKind::Resistor;
        const auto resistor = plan::solveCase(c);
        QVERIFY(choke.ok() && resistor.ok());
        QVERIFY(choke->nodes[1].rippleRms < 0.1 * resistor->nodes[1].rippleRms);
    }

    void anIdealBridgeEqualsAnIdealCentreTap() {
        plan::SupplyCase c = cases[3];
        c.rectifier.seriesOhms = 0;
        c.rectifier.junction.ideality = 0.5; // half a drop each: two in series are one
        c.supply.connection = Connection::Bridge;
        const auto bridge = plan::solveCase(c);
        c.rectifier.junction.ideality = 1.0;
        c.supply.connection = Connection::CentreTapped;
        const auto tap = plan::solveCase(c);
        QVERIFY2(bridge.ok() && tap.ok(), bridge.ok() ? "" : bridge.problem().text().c_str());
        QVERIFY(std::abs(bridge->nodes[0].mean / tap->nodes[0].mean - 1) < 1e-4);
    }

    void aWrongFileNamesThePlace() {
        const auto p = plan::supplyCasesFromText(
            R"({"mains":{"frequency":50},"secondary":{"connection":"centre-tapped","emf_rms_per_leg":272,
            "source_resistance_per_leg":96},"rectifier":{"kind":"vacuum","perveance":0.0014},"sections":[{"kind":"capacitor","capacitance":0}],"loads":[]})");
        QVERIFY(!p.ok());
        QCOMPARE(p.problem().where, std::string("/sections/0/capacitance"));
    }

  private:
    std::vector<plan::SupplyCase> cases;
    Json expected;
};

EMBER_TESTS(TestRectifierSupplies)
#include "test_rectifier_supplies.moc"
