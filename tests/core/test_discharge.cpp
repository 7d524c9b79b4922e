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
        QCOMPARE(std::count_if(d->capacitors.begin(), d->capacitors.end(), [](const auto& x) { return x.id == "c1"; }),
                 2);
        QVERIFY(std::abs(c.to50 / (105e3 * 100e-6 * std::log(c.start / 50)) - 1) < 0.01);
    }

    void theSlowestIsTheOneToWaitFor() {
        const auto d = dischargeOf(demoBuild(), cold(demoBuild()));
        QVERIFY(d.ok());
        for (const CapacitorDischarge& c : d->capacitors) QVERIFY(!(c.to50 > d->slowest()->to50));
        QVERIFY2(d->slowest()->to50 < 60, "the demo's bleeder is there for that");
        QVERIFY(of(*d, "c4").node == 0 && of(*d, "c4").start > 10); // the bias supply's are followed too
    }

    /// After the stated seconds 5 V are left, and the first moment is within the short-time overload that IEC 60115-1
    /// tests (6.25 times the rated watts for 5 s).
    void byHandItIsDownInTimeAndTheResistorBearsIt() {
        for (const double farads : {10e-6, 47e-6, 220e-6, 1000e-6})
            for (const double volts : {60.0, 350.0, 600.0}) {
                const HandDischarge h = dischargeByHand(farads, volts);
                QVERIFY(std::abs(volts * std::exp(-h.seconds / (h.ohms * farads)) - 5) < 0.1);
                QVERIFY2(h.seconds < 8, qPrintable(QString::number(h.seconds)));
                QVERIFY(volts * volts / h.ohms <= 6.25 * h.watts || h.watts == 50);
                QCOMPARE(nearest(h.ohms, Series::E12), h.ohms);
            }
    }
};

EMBER_TESTS(TestDischarge)
#include "test_discharge.moc"
