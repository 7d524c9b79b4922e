// Supplies of our own against an independent integration.

#include "../support/suite.h"

#include "../../bench/cvode_supply.h"

#include <QTest>

#include <cmath>
#include <random>

using namespace ember;
using namespace ember::plan;

namespace {

Section part(SectionKind kind, const std::string& id, double value, double ohms = 0) {
    Section s;
    s.id = id;
    s.kind = kind;
    if (kind == SectionKind::Capacitor) s.capacitance = value;
    if (kind == SectionKind::Resistor) s.resistance = value;
    if (kind == SectionKind::Choke) {
        s.inductance = value;
        s.resistance = ohms;
    }
    return s;
}

/// A supply as somebody might build it, from a seed.
SupplyCase drawn(unsigned seed) {
    std::mt19937 chance(seed);
    const auto between = [&](double a, double b) {
        return a * std::pow(b / a, std::uniform_real_distribution<double>(0, 1)(chance));
    };
    SupplyCase c;
    c.name = "seed " + std::to_string(seed);
    c.frequency = seed % 2 ? 50 : 60;
    c.emf = between(60, 500);
    c.sourceOhms = between(15, 250);
    static const Connection connections[] = {Connection::CentreTapped, Connection::Bridge, Connection::HalfWave};
    c.supply.connection = connections[seed % 3];
    const bool vacuum = seed % 4 < 2 && c.supply.connection != Connection::Bridge;
    const Catalogue& all = Catalogue::shipped();
    c.rectifier = *all.rectifier(!vacuum ? "silicon" : seed % 5 ? "5V4G" : "EZ81");
    c.supply.sections = {part(SectionKind::Capacitor, "c1", between(8e-6, 100e-6))};
    const int more = 1 + static_cast<int>(seed % 3);
    for (int k = 0; k < more; ++k) {
        if ((seed + static_cast<unsigned>(k)) % 3 == 0)
            c.supply.sections.push_back(
                part(SectionKind::Choke, "l" + std::to_string(k), between(2, 15), between(50, 200)));
        else
            c.supply.sections.push_back(part(SectionKind::Resistor, "r" + std::to_string(k), between(100, 3000)));
        c.supply.sections.push_back(part(SectionKind::Capacitor, "d" + std::to_string(k), between(10e-6, 60e-6)));
    }
    c.loads = {{more + 1, c.emf / between(0.02, 0.1), 0}};
    return c;
}

} // namespace

class TestIntegrator : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void drawnSuppliesAgree_data() {
        QTest::addColumn<unsigned>("seed");
        for (unsigned k = 1; k <= 12; ++k) QTest::newRow(qPrintable(QString("seed %1").arg(k))) << k;
    }
    void drawnSuppliesAgree() {
        QFETCH(unsigned, seed);
        const SupplyCase c = drawn(seed);
        const auto ours = solveCase(c);
        QVERIFY2(ours.ok(), ours.ok() ? "" : ours.problem().text().c_str());
        const auto theirs = bench_peer::integrateFinely(c);
        const auto close = [](const char* what, double a, double b, double share) {
            if (std::abs(a / b - 1) <= share) return true;
            qWarning("%s: %.6g against %.6g", what, a, b);
            return false;
        };
        QVERIFY(close("mean", ours->nodes[0].mean, theirs.mean, 5e-4));
        QVERIFY(close("ripple p-p", ours->nodes[0].ripplePp, theirs.ripplePp, 5e-3));
        QVERIFY(close("ripple RMS", ours->nodes[0].rippleRms, theirs.rippleRms, 5e-3));
        QVERIFY(close("peak", ours->rectifierPeak, theirs.peakAmps, 5e-3));
        // Each leg of a centre tap has half of the heat; a bridge's winding has all of it.
        const double legs = c.supply.connection == Connection::CentreTapped ? std::sqrt(2.0) : 1;
        QVERIFY(close("RMS", ours->windingRms * legs, theirs.rmsAmps, 5e-3));
        QVERIFY(close("energy", ours->sourceWatts, ours->lossWatts, 1e-3));
    }
};

EMBER_TESTS(TestIntegrator)
#include "test_integrator.moc"
