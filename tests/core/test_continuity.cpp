// What an ohmmeter should show at each wire, against resistances added by hand, and what mistakes turn it into.
#include "../support/shipped.h"
#include "../support/solved.h"
#include "../support/suite.h"
#include "../support/wired.h"

#include "core/build/starts.h"
#include "core/wires/continuity.h"

#include <QTest>

#include <cmath>

using namespace ember;

class TestContinuity : public QObject {
    Q_OBJECT
    const Build b = unwired();
    const wires::Harness h = wires::harnessOf(b, catalogue);
    const wires::ContinuityNetwork network{b, h};

    const wires::Run& on(const std::string& net) const {
        for (const wires::Run& r : h.runs)
            if (r.net == net) return r;
        qFatal("no wire on %s", net.c_str());
    }
    double sectionOhms(const char* id) const {
        for (const Section& s : b.supply.sections)
            if (s.id == id) return s.resistance;
        qFatal("%s", id);
    }

  private Q_SLOTS:
    void aGridLeakIsWhatTheInputShows() {
        const wires::Continuity c = network.of(on("Left input"));
        QVERIFY2(std::abs(c.ohms / 1e6 - 1) < 0.01, qPrintable(QString::number(c.ohms)));
    }

    void anOutputCathodeShowsItsSenseResistor() {
        for (const wires::Run& r : h.runs)
            if (r.net == "V3 cathode") {
                const wires::Continuity c = network.of(r);
                QVERIFY2(std::abs(c.ohms - 10) < 0.2, qPrintable(QString::number(c.ohms)));
            }
    }

    /// Behind the rectifier nothing leads to ground but the bleeder and the dividers: the chain is added up by hand.
    void aSupplyNodeShowsItsWayToTheBleeder() {
        QVERIFY(!b.supply.bleeders.empty());
        const Bleeder& bleeder = b.supply.bleeders[0];
        double chain = bleeder.inSeries * bleeder.resistor.resistance;
        QCOMPARE(bleeder.node, 1);
        for (std::size_t k = 0; k < b.supply.sections.size(); ++k)
            if (b.supply.sections[k].kind != SectionKind::Capacitor && nodeOfSection(b.supply, k) < 3)
                chain += b.supply.sections[k].resistance;
        const wires::Continuity c = network.of(on("B+3"));
        // The split load's valve is out: its plate resistor leads nowhere, its grid hangs on the first plate.
        QVERIFY2(std::abs(c.ohms / chain - 1) < 0.02, qPrintable(QString("%1, %2").arg(c.ohms).arg(chain)));
        QVERIFY(!c.charging.empty());
    }

    void returnsAreMilliohms() {
        for (const wires::Run& r : h.runs)
            if (r.kind == wires::RunKind::Ground) QVERIFY2(network.of(r).ohms < 0.2, r.wire.id.c_str());
    }

    /// From the inlet's earth through the bolt, the metal and the one bond to the star: milliohms, and none without.
    void theSafetyEarthReachesTheStarByTheBond() {
        for (const auto& [bond, least, most] : {std::tuple{Bond::Direct, 0.0, 0.1}, {Bond::Lifted, 10.0, 10.1}}) {
            Build of = b;
            of.wiring.bond = bond;
            const wires::Harness some = wires::harnessOf(of, catalogue);
            const wires::ContinuityNetwork net(of, some);
            for (const wires::Run& r : some.runs)
                if (r.kind == wires::RunKind::Earth) {
                    const wires::Continuity c = net.of(r);
                    QCOMPARE(c.at, std::string("inlet.E"));
                    QVERIFY2(c.ohms >= least && c.ohms < most, qPrintable(QString::number(c.ohms)));
                    QVERIFY(!c.wrong.empty() && std::isinf(c.wrong.front().ohms));
                }
        }
        Build none = b;
        none.wiring.bond = Bond::None;
        const wires::Harness some = wires::harnessOf(none, catalogue);
        for (const wires::Run& r : some.runs)
            if (r.kind == wires::RunKind::Earth) QVERIFY(std::isinf(wires::ContinuityNetwork(none, some).of(r).ohms));
    }

    /// Mains and secondary side have nothing in common.
    void theMainsSideIsOpenToTheStar() {
        for (const wires::Run& r : h.runs)
            if (r.kind == wires::RunKind::Mains) QVERIFY2(std::isinf(network.of(r).ohms), r.wire.id.c_str());
    }

    void aWireThatIsNotJoinedShows() {
        // Of every wire that joins something to its net alone: without it the reading is another, and it is said.
        int told = 0, all = 0;
        for (const wires::Run& r : h.runs) {
            if (r.kind != wires::RunKind::Signal && r.kind != wires::RunKind::HighVoltage &&
                r.kind != wires::RunKind::Ground)
                continue;
            const wires::Continuity c = network.of(r);
            ++all;
            told += std::any_of(c.wrong.begin(), c.wrong.end(),
                                [](const wires::WrongReading& w) { return w.cause == "this wire is not joined"; });
            for (const wires::WrongReading& w : c.wrong) QVERIFY(w.ohms >= 0 && !w.cause.empty());
        }
        QVERIFY2(told > 0.6 * all, qPrintable(QString("%1 of %2").arg(told).arg(all)));
    }

    void aBridgeBetweenPinsIsTheTwoInParallel() {
        // A cathode's pin bridged to another that is grounded by 1 Mohm or more changes little; the other way it is
        // all.
        bool found = false;
        for (const wires::Run& r : h.runs) {
            const wires::Continuity c = network.of(r);
            for (const wires::WrongReading& w : c.wrong)
                if (w.cause.rfind("a bridge to ", 0) == 0) {
                    found = true;
                    QVERIFY2(w.ohms <= c.ohms * 1.0001, qPrintable(QString::fromStdString(r.wire.id)));
                }
        }
        QVERIFY(found);
    }

    void everyStartCanBeChecked_data() {
        QTest::addColumn<QString>("id");
        for (const Start& s : starts()) QTest::newRow(s.id.c_str()) << QString::fromStdString(s.id);
    }
    void everyStartCanBeChecked() {
        QFETCH(QString, id);
        const Build& of = startOf(id.toStdString())->build;
        const wires::Harness some = wires::harnessOf(of, catalogue);
        const wires::ContinuityNetwork net(of, some);
        for (const wires::Run& r : some.runs) QVERIFY(net.of(r).ohms >= 0);
    }
};

EMBER_TESTS(TestContinuity)
#include "test_continuity.moc"
