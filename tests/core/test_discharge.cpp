// What capacitors hold after switch-off, at worst, against R C ln(V / v); and how to take one down by hand.

#include "../support/demo.h"
#include "../support/parts.h"
#include "../support/solved.h"
#include "../support/suite.h"

#include "core/plan/discharge.h"
#include "core/quantity/quantity.h"

#include <QTest>

#include <algorithm>

#include <cmath>

using namespace ember;
using namespace ember::plan;

namespace {

const CapacitorDischarge& of(const Discharge& d, const std::string& id) {
    for (const CapacitorDischarge& c : d.capacitors)
        if (c.id == id) return c;
    qFatal("no %s", id.c_str());
}

/// The supply with nothing on it, mains at the high end.
Steady cold(const Build& b) {
    return solved(b, {b.mains.high, false, true, false, false});
}

/// One capacitor behind the rectifier.
Build single(double farads, double tolerance) {
    Build b = demoWithoutBleeder();
    b.channels.clear();
    b.supply.sections.resize(1);
    b.supply.sections[0].capacitance = farads;
    b.supply.sections[0].tolerance = tolerance;
    return b;
}

} // namespace

class TestDischarge : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void oneCapacitorFallsByTheExponentialOfItsBleeder() {
        Build b = single(47e-6, 0.2);
        b.supply.bleeders = {{{}, 1, {{}, "rb", 220e3, 2, 0.05}, 1}};
        const Steady s = cold(b);
        const auto d = dischargeOf(b, s);
        QVERIFY(d.ok());
        const double constant = 220e3 * 1.05 * 47e-6 * 1.2; // both at the top of their tolerance
        const auto& c = of(*d, "c1");
        QVERIFY(std::abs(c.to50 / (constant * std::log(c.start / 50)) - 1) < 0.01);
        QVERIFY(std::abs(c.to10 / (constant * std::log(c.start / 10)) - 1) < 0.01);
        QVERIFY2(std::abs(c.start / s.nodes[0].most - 1) < 1e-9, "from the highest volts on");
    }

    /// Neither leakage nor a load is a path to rely on.
    void leakageAndLoadsDoNotCount() {
        Build b = single(47e-6, 0.2);
        b.supply.sections[0].leakageResistance = 1e5;
        b.supply.loads = {{{}, "load", 1, 0.01, 10e3}};
        const auto d = dischargeOf(b, cold(b));
        QVERIFY(d.ok() && std::isnan(of(*d, "c1").to50));
        QVERIFY(of(*d, "c1").volts.back() > 0.999 * of(*d, "c1").start);
    }

    /// A fuse that opened, or standby, leaves what stands behind it to itself.
    void behindAnOpenFuseACapacitorKeepsItsCharge() {
        Build b = demoBuild();
        Section fuse;
        fuse.id = "f2";
        fuse.kind = SectionKind::Fuse;
        fuse.resistance = 1;
        b.supply.sections.insert(b.supply.sections.begin() + 2, fuse);
        feed(b, 3, 4);
        const auto d = dischargeOf(b, cold(b));
        QVERIFY(d.ok());
        QVERIFY(of(*d, "c1").to50 < 60);
        QVERIFY(std::isnan(of(*d, "c2").to50) && std::isnan(of(*d, "c3").to50));
        QVERIFY2(d->slowest()->id == "c2" || d->slowest()->id == "c3", d->slowest()->id.c_str());
    }

    void balancingResistorsAreAPath() {
        Build b = single(100e-6, 0);
        b.supply.sections[0].inSeries = 2;
        b.supply.sections[0].balancing = 100e3;
        const auto d = dischargeOf(b, cold(b));
        QVERIFY(d.ok());
        const auto& c = of(*d, "c1");
        QVERIFY(std::abs(c.to50 / (105e3 * 100e-6 * std::log(c.start / 50)) - 1) < 0.01);
    }

    /// Two in series are read from the plus of the one to the minus of the other: the node's volts, half the farads.
    void aStringIsReadFromEndToEnd() {
        Build b = single(100e-6, 0);
        b.supply.sections[0].inSeries = 2;
        b.supply.sections[0].balancing = 100e3;
        const Steady s = cold(b);
        const auto d = dischargeOf(b, s);
        QVERIFY(d.ok());
        QCOMPARE(std::count_if(d->capacitors.begin(), d->capacitors.end(), [](const auto& x) { return x.id == "c1"; }),
                 1);
        QVERIFY(std::abs(of(*d, "c1").start / s.nodes[0].most - 1) < 1e-9);
        QVERIFY(std::abs(of(*d, "c1").farads / 50e-6 - 1) < 1e-9);
    }

    void theSlowestIsTheOneToWaitFor() {
        const auto d = dischargeOf(demoBuild(), cold(demoBuild()));
        QVERIFY(d.ok());
        for (const CapacitorDischarge& c : d->capacitors) QVERIFY(!(c.to50 > d->slowest()->to50));
        QVERIFY2(d->slowest()->to50 < 60, "the demo's bleeder is there for that");
        QVERIFY(of(*d, "c4").node == 0 && of(*d, "c4").start > 10); // the bias supply's are followed too
    }

    /// One capacitor by itself: after the stated seconds 5 V are left, by V exp(-t / RC), or a little less.
    void byHandItIsDownInTimeAndTheResistorBearsIt() {
        for (const double farads : {10e-6, 47e-6, 220e-6, 1000e-6}) {
            Build b = single(farads, 0.2);
            b.transformer.biasVolts = 0;
            const Steady s = cold(b);
            const auto h = dischargeByHand(b, s);
            QVERIFY(h.ok() && h->whole);
            QVERIFY2(h->holds[0].capacitor == "c1" && h->from > 400, h->holds[0].capacitor.c_str());
            const double ohms = h->ohms * h->inSeries, volts = s.nodes[0].most, constant = ohms * farads * 1.2;
            const double left = volts * std::exp(-h->holds[0].seconds / constant);
            QVERIFY2(left < 5.05 && left > 3, qPrintable(QString::number(left))); // at the end of a step of the solver
            QVERIFY2(h->holds[0].seconds < 8, qPrintable(QString::number(h->holds[0].seconds)));
            QVERIFY(volts * volts / ohms / h->inSeries <= 6.25 * h->watts || h->watts == 50);
            QCOMPARE(nearest(h->ohms, Series::E12), h->ohms);
        }
    }

    /// Two capacitors joined by a resistor R2, the discharge resistor R on the first: two time constants, the slower
    /// one by the characteristic equation. The one that is not held refills the one that is.
    void theOthersRefillTheOneThatIsHeld() {
        Build b = demoWithoutBleeder();
        b.channels.clear();
        b.supply.sections.resize(3);
        Section &c1 = b.supply.sections[0], &r = b.supply.sections[1], &c2 = b.supply.sections[2];
        r = Section{};
        r.id = "r9", r.kind = SectionKind::Resistor, r.resistance = 10e3, r.tolerance = 0, r.watts = 5;
        c2.kind = SectionKind::Capacitor;
        c1.capacitance = 47e-6, c2.capacitance = 220e-6;
        c1.tolerance = c2.tolerance = 0;
        const auto h = dischargeByHand(b, cold(b));
        QVERIFY(h.ok() && h->whole && !h->holds.empty());
        const double R = h->ohms * h->inSeries;
        double all = 0;
        for (const HandDischarge::Hold& x : h->holds) all += x.seconds;
        // Nothing is faster than both through their own resistors at once, or the larger one through R and R2.
        const double volts = cold(b).nodes[0].most, larger = (R + 10e3) * 220e-6 * std::log(volts / 5);
        QVERIFY2(all > 0.7 * std::min(larger, R * 267e-6 * std::log(volts / 5)), qPrintable(QString::number(all)));
        QVERIFY2(all > 5, "the other's charge comes through 10 kohm: a time for one capacitor alone is too short");
    }

    /// Behind an open fuse nothing comes down by a resistor elsewhere: each is held by itself.
    void whatNoPathJoinsIsHeldByItself() {
        Build b = demoWithoutBleeder();
        Section fuse;
        fuse.id = "f2";
        fuse.kind = SectionKind::Fuse;
        fuse.resistance = 1;
        b.supply.sections.insert(b.supply.sections.begin() + 2, fuse);
        feed(b, 3, 4);
        const auto d = dischargeOf(b, cold(b));
        QVERIFY(d.ok() && d->byHand && d->byHand->whole);
        QVERIFY2(d->byHand->holds.size() >= 2, inWords(d->byHand).c_str());
        QVERIFY(inWords(d->byHand).find("plus and minus of C") != std::string::npos);
    }

    /// From the highest volts that the capacitors can stand at: mains at its high end, no valve drawing.
    void theClockBeginsAtTheHighestVolts() {
        const Build b = demoBuild();
        const Steady s = solved(b, worstCharged(b, Conditions{230, true}));
        const double high = solved(b, {b.mains.high, false, true, false, false}).nodes[0].most;
        QVERIFY2(s.nodes[0].most > 0.999 * high, qPrintable(QString("%1 %2").arg(s.nodes[0].most).arg(high)));
        QVERIFY(s.nodes[0].most > 1.2 * solved(b, {230}).nodes[0].most);
    }
};

EMBER_TESTS(TestDischarge)
#include "test_discharge.moc"
