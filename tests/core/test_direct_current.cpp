// Direct current in the power transformer's windings, and what it does to the core.

#include "../support/demo.h"
#include "../support/inspected.h"
#include "../support/shipped.h"
#include "../support/suite.h"

#include "core/build/edit.h"
#include "core/plan/mains_iron.h"

#include <QTest>

#include <cmath>
#include <numbers>

using namespace ember;

namespace {

using std::numbers::pi;
using std::numbers::sqrt2;

/// Amps of a core beyond its inductance, at a share of its rated flux.
double beyondInductance(double atRated, double share) {
    return atRated * std::pow(share, 9);
}

} // namespace

class TestDirectCurrent : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    /// Direct current in a winding: the flux's own equation, stepped until it repeats, draws the same current from the
    /// mains. What flows in the winding has no path back but by the core's own current.
    void directCurrentShiftsTheFlux_data() {
        QTest::addColumn<double>("direct");
        for (const double amps : {0.02, 0.06, 0.15}) QTest::addRow("%g A", amps) << amps;
    }
    void directCurrentShiftsTheFlux() {
        QFETCH(double, direct);
        Build b = demoBuild();
        b.mains.crest = b.mains.flattest = sqrt2;
        plan::Steady s;
        s.conditions.mainsVolts = b.transformer.primaryVolts;
        const double without = plan::mainsIron(b, s).noLoadAmps;
        s.coreDc = -direct; // it may flow either way
        const plan::MainsIron iron = plan::mainsIron(b, s);
        const plan::MainsCore core = plan::mainsCore(b.transformer);
        const double henries = b.transformer.magnetisingInductance;
        const auto amps = [&](double f) {
            return f / henries + beyondInductance(core.saturationAmps, f / core.ratedFlux) - direct;
        };
        constexpr double step = 2e-5, until = 10, ohms = 2, crest = 230 * sqrt2;
        double flux = 0, squares = 0, mean = 0;
        for (double t = 0; t < until; t += step) {
            const double volts = crest * std::cos(2 * pi * 50 * t),
                         half = flux + step / 2 * (volts - ohms * amps(flux));
            flux += step * (crest * std::cos(2 * pi * 50 * (t + step / 2)) - ohms * amps(half));
            if (t < until - 0.02) continue;
            squares += amps(flux) * amps(flux) * step / 0.02;
            mean += amps(flux) * step / 0.02;
        }
        QVERIFY2(std::abs(mean) < 1e-3, qPrintable(QString::number(mean)));
        const double magnetising = std::sqrt(std::pow(iron.noLoadAmps, 2) - std::pow(iron.coreWatts / 230, 2));
        QVERIFY2(std::abs(magnetising / std::sqrt(squares) - 1) < 0.03,
                 qPrintable(QString("%1 A, %2 A").arg(magnetising).arg(std::sqrt(squares))));
        QCOMPARE(iron.withoutDirect, without);
        QVERIFY(iron.noLoadAmps > without && iron.direct > 0 && iron.direct < 1);
    }

    /// A half-wave rectifier's mean flows in the winding, as seen by the primary in the ratio of turns; both halves of
    /// a centre tap cancel. The bias supply's half wave is a tenth of it at most.
    void aHalfWaveRectifierMagnetisesTheCore() {
        Build b = demoBuild();
        const auto at = [&](Connection c) {
            b.supply.connection = c;
            b.supply.rectifier.type = "silicon", b.supply.rectifier.inSeries = 3;
            const auto s = plan::solveSteady(b, catalogue, {230});
            if (!s) qFatal("%s", s.problem().text().c_str());
            return *s;
        };
        const plan::Steady half = at(Connection::HalfWave), both = at(Connection::CentreTapped);
        const double seen = half.rectifierMean * b.transformer.plateVolts / b.transformer.primaryVolts;
        QVERIFY2(std::abs(std::abs(half.coreDc) / seen - 1) < 0.1,
                 qPrintable(QString("%1 A, %2 A").arg(half.coreDc).arg(seen)));
        QVERIFY2(std::abs(both.coreDc) < 0.1 * seen, qPrintable(QString::number(both.coreDc)));
        b.supply.connection = Connection::HalfWave;
        const auto all = inspected(b);
        const auto* f = findingOf(all, "core-direct");
        QVERIFY(f && f->fix);
        QVERIFY(!findingOf(inspected(*apply(b, *f->fix)), "core-direct"));
        // Silicon loses its forward volts times the mean current; its pulses a little more.
        const double drop = both.rectifierWatts / both.rectifierMean;
        QVERIFY2(drop > 3 * 0.6 && drop < 3 * 1.1, qPrintable(QString::number(drop)));
    }
};

EMBER_TESTS(TestDirectCurrent)
#include "test_direct_current.moc"
