// Taps of the plate winding with rectifiers of their own: against the plain supply that each must equal.

#include "../support/demo.h"
#include "../support/shipped.h"
#include "../support/solved.h"
#include "../support/suite.h"

#include "core/build/chain_edits.h"
#include "core/plan/impedance.h"
#include "core/plan/solve.h"

#include <QTest>

#include <cmath>

using namespace ember;
using namespace ember::plan;

namespace {

Section capacitor(const char* id, double farads) {
    Section s;
    s.id = id;
    s.capacitance = farads;
    return s;
}

/// Silicon and one capacitor; nothing draws.
Build plain(Connection connection, double volts, double ohms) {
    Build b = demoBuild();
    b.channels.clear();
    b.transformer.heaters.clear();
    b.transformer.biasVolts = 0;
    b.supply.connection = connection;
    b.supply.rectifier.type = "silicon";
    b.transformer.plateVolts = volts;
    b.transformer.plateResistance = ohms;
    b.supply.sections = {capacitor("c1", 47e-6)};
    b.supply.bleeders.clear();
    b.supply.loads.clear();
    return b;
}

/// The same with a tap, or a winding of its own, whose capacitor is node 2.
Build tapped(Connection connection, double volts, double ohms, double load) {
    Build b = plain(connection, 260, 60);
    Section tap;
    tap.id = "tap1";
    tap.kind = SectionKind::Tap;
    tap.volts = volts;
    tap.resistance = ohms;
    b.supply.sections.push_back(tap);
    b.supply.sections.push_back(capacitor("c2", 47e-6));
    b.supply.loads = {{{}, "load", 2, 0, load}};
    return b;
}

} // namespace

class TestTaps : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void aLoadedTapIsASupplyOfItsOwnVolts_data() {
        QTest::addColumn<int>("connection");
        QTest::newRow("of each leg") << int(Connection::CentreTapped);
        QTest::newRow("a winding of its own") << int(Connection::Bridge);
    }
    void aLoadedTapIsASupplyOfItsOwnVolts() {
        QFETCH(int, connection);
        const auto c = static_cast<Connection>(connection);
        Build alone = plain(c, 180, 40);
        alone.supply.loads = {{{}, "load", 1, 0, 3000}};
        const Steady a = solved(alone), t = solved(tapped(c, 180, 40, 3000));
        QVERIFY2(std::abs(t.nodes[1].mean / a.nodes[0].mean - 1) < 2e-4, qPrintable(QString::number(t.nodes[1].mean)));
        QVERIFY(std::abs(t.nodes[1].rippleRms / a.nodes[0].rippleRms - 1) < 2e-3);
        const TapFigures& f = t.taps.at("tap1");
        QVERIFY(std::abs(f.peak / a.rectifierPeak - 1) < 0.01);
        QVERIFY(std::abs(f.mean / (t.nodes[1].mean / 3000) - 1) < 2e-3); // charge balance
        QVERIFY(std::abs(f.rms / a.legRms - 1) < 0.01);
        QVERIFY(std::abs(t.mainsWatts / a.mainsWatts - 1) < 0.01);
    }

    void whatATapDrawsItsLegMisses() {
        // The copper from the centre to the tap carries both.
        Build idle = tapped(Connection::CentreTapped, 180, 40, 1e8),
              drawn = tapped(Connection::CentreTapped, 180, 40, 2000);
        for (Build* b : {&idle, &drawn}) b->supply.loads.push_back({{}, "main", 1, 0, 3000});
        const Steady a = solved(idle), z = solved(drawn);
        QVERIFY(z.nodes[0].mean < a.nodes[0].mean - 2);
        QVERIFY(z.legRms > 1.5 * a.legRms);
        QVERIFY(std::abs(z.rectifierMean / (z.nodes[0].mean / 3000) - 1) < 2e-3);
    }

    void throughTimeATapEndsWhereTheSteadyStateSays() {
        const Build b = tapped(Connection::CentreTapped, 180, 40, 3000);
        const Steady s = solved(b);
        const auto on = switchOn(b, catalogue, s, 3);
        QVERIFY(on.ok());
        // The stretches' share of the primary's copper is an approximation (docs/models.md).
        for (std::size_t n = 0; n < 2; ++n)
            QVERIFY2(std::abs(on->nodes[n].back() / s.nodes[n].mean - 1) < 0.02,
                     qPrintable(QString::number(on->nodes[n].back())));
        const auto off = switchOff(b, catalogue, s, true, 5);
        QVERIFY(off.ok());
        // Only its own load takes it down: R C ln(V / 50).
        const double want = 3000 * 47e-6 * std::log(s.nodes[1].mean / 50);
        QVERIFY(std::abs(off->below(1, 50) / want - 1) < 0.01);
        QVERIFY(std::isnan(off->below(0, 50)));
    }

    void aTapsImpedanceIsItsOwnFallWithCurrent() {
        Build b = tapped(Connection::CentreTapped, 180, 40, 3000);
        b.supply.loads.push_back({{}, "main", 1, 0, 3000});
        const Steady s = solved(b);
        const auto z = supplyImpedance(b, catalogue, s, 20);
        QVERIFY(z.ok());
        b.supply.loads.push_back({{}, "more", 2, 1e-3, 0});
        const double fall = (s.nodes[1].mean - solved(b).nodes[1].mean) / 1e-3;
        QVERIFY2(std::abs(z->ohms[1].front() / fall - 1) < 0.05, qPrintable(QString::number(fall)));
    }

    void aTapMayHaveAValve_data() { aLoadedTapIsASupplyOfItsOwnVolts_data(); }
    void aTapMayHaveAValve() {
        QFETCH(int, connection);
        const auto c = static_cast<Connection>(connection);
        // The same valve with the same heater, once for the whole supply and once for the tap.
        const auto withValve = [](Build b, const char* feeds) {
            HeaterWinding w;
            w.id = "h5", w.volts = 5.2, w.resistance = 0.04, w.amps = 3, w.feeds = feeds;
            b.transformer.heaters = {w};
            return b;
        };
        Build alone = withValve(plain(c, 180, 40), "rectifier"), t = withValve(tapped(c, 180, 40, 3000), "tap1");
        alone.supply.rectifier.type = t.supply.sections[1].type = "5V4G";
        if (c == Connection::Bridge) alone.supply.connection = Connection::HybridBridge;
        alone.supply.loads = {{{}, "load", 1, 0, 3000}};
        const Steady a = solved(alone), z = solved(t);
        QVERIFY2(std::abs(z.nodes[1].mean / a.nodes[0].mean - 1) < 3e-4, qPrintable(QString::number(z.nodes[1].mean)));
        QVERIFY(std::abs(z.taps.at("tap1").peak / a.rectifierPeak - 1) < 0.01);
        QVERIFY(z.heaters.size() == 1 && z.heaters[0].valve == "5V4G" && z.heaters[0].winding == "h5");
        // It warms as a valve does; silicon is there at once.
        const auto on = switchOn(t, catalogue, z, 30);
        QVERIFY(on.ok());
        const auto at = [&](double seconds, std::size_t node) {
            const auto k = std::lower_bound(on->seconds.begin(), on->seconds.end(), seconds) - on->seconds.begin();
            return on->nodes[node][static_cast<std::size_t>(k)];
        };
        QVERIFY(at(1, 0) > 300); // the silicon of the whole leg
        QVERIFY2(at(1, 1) < 20, qPrintable(QString::number(at(1, 1))));
        QVERIFY(std::abs(at(29.5, 1) / z.nodes[1].mean - 1) < 0.03);
    }

    void aValveOutOfItsSocketFeedsNothing() {
        Build b = tapped(Connection::CentreTapped, 180, 40, 3000);
        b.supply.sections[1].type = "5V4G";
        Conditions out;
        out.mainsVolts = b.mains.volts;
        out.rectifierIn = false;
        const auto s = solveSteady(b, catalogue, out);
        QVERIFY(s.ok());
        QVERIFY(s->nodes[0].mean > 300); // silicon is always in
        QVERIFY(s->nodes[1].mean < 1);
    }

    void anUnknownRectifierIsNamed() {
        const auto refused = apply(tapped(Connection::CentreTapped, 180, 40, 3000),
                                   setText("", "/supply/sections/1/type", "unobtainium"));
        QVERIFY(!refused.ok());
        QCOMPARE(refused.problem().where, std::string("/supply/sections/1/type"));
    }

    void aTapLiesWithinItsLeg() {
        const Build b = tapped(Connection::CentreTapped, 180, 40, 3000);
        const auto refused = apply(b, setValue("", "/supply/sections/1/volts", 300));
        QVERIFY(!refused.ok());
        QCOMPARE(refused.problem().where, std::string("/supply/sections/1/volts"));
        QVERIFY(apply(tapped(Connection::Bridge, 180, 40, 3000), setValue("", "/supply/sections/1/volts", 300)).ok());
    }

    void theDemosSmallValvesHangOnATap() {
        // Inserted as a user would: at the end, with its capacitor, and the stages moved to its node.
        Build b = demoBuild();
        const auto edit = apply(b, insertSection(b, b.supply.sections.size(), SectionKind::Tap));
        QVERIFY2(edit.ok(), edit.ok() ? "" : edit.problem().text().c_str());
        b = *edit;
        const int node = supplyNodes(b.supply);
        for (Channel& ch : b.channels) ch.stages[0].node = ch.stages[1].node = node;
        const Figures f = solveFigures(b, catalogue);
        QVERIFY(f.nominal && f.cold);
        const std::string id = b.supply.sections[b.supply.sections.size() - 2].id;
        const double drawn = f.nominal->nodes[static_cast<std::size_t>(node - 1)].load;
        QVERIFY(drawn > 1e-3);
        const double leaks =
            f.nominal->nodes[static_cast<std::size_t>(node - 1)].mean / b.supply.sections.back().leakageResistance;
        QVERIFY(std::abs(f.nominal->taps.at(id).mean / (drawn + leaks) - 1) < 3e-3);
    }
};

EMBER_TESTS(TestTaps)
#include "test_taps.moc"
