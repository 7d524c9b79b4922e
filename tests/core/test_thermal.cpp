// Filaments through time: their steady state, their inrush, their time constant; the lamp in front of the whole
// amplifier.

#include "../support/demo.h"
#include "../support/shipped.h"
#include "../support/suite.h"

#include "core/circuit/operating_point.h"
#include "core/circuit/thermal.h"
#include "core/circuit/transient.h"
#include "core/plan/heater.h"
#include "core/plan/solve.h"
#include "core/procedure/first_power.h"

#include <QTest>

#include <cmath>
#include <numbers>

using namespace ember;
using namespace ember::circuit;

namespace {

struct Lamp {
    Netlist netlist;
    DeviceId device;
};

Lamp across(const Waveform& volts, double startKelvin) {
    Lamp l;
    const Node in = l.netlist.node("in");
    l.netlist.add(VoltageSource{in, ground, volts});
    IncandescentLaw law{230, 100, 2780, 0.06, startKelvin};
    l.device = l.netlist.add(NonlinearDevice{{in, ground}, law});
    return l;
}

/// The temperature after `seconds`, and the largest current on the way.
std::pair<double, double> after(const Lamp& l, double seconds, double largest = 1e-3) {
    const System sys = assemble(l.netlist);
    Filaments filaments(sys);
    Stepper stepper(sys, largest, 4);
    State s{0, Eigen::VectorXd::Zero(sys.states()), Eigen::VectorXd::Zero(sys.states())};
    double peak = 0;
    TransientOptions o;
    o.duration = seconds;
    o.largestStep = largest;
    o.levels = 4;
    o.onStep = [&](Stepper& run, const State&, double h) {
        peak = std::max(peak, std::abs(run.portSolver().amps()[0]));
        filaments.step(run.portSolver(), h);
        return true;
    };
    if (!runTransient(stepper, s, o)) qFatal("not solved");
    return {filaments.kelvin(sys, l.device), peak};
}

} // namespace

class TestThermal : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    /// Steady V ~ T^2.6, from R ~ T^1.2 and P ~ T^4.
    void aLampSettlesWhereItsLawsSay_data() {
        QTest::addColumn<double>("volts");
        for (const double v : {30.0, 71.0, 115.0, 230.0}) QTest::addRow("%g V", v) << v;
    }
    void aLampSettlesWhereItsLawsSay() {
        QFETCH(double, volts);
        const double kelvin = after(across({volts}, 293), 8).first;
        const double want = 2780 * std::pow(volts / 230, 1 / 2.6);
        QVERIFY2(std::abs(kelvin / want - 1) < 0.005, qPrintable(QString("%1 K, %2 K").arg(kelvin).arg(want)));
    }

    void aColdLampDrawsTwelveToFifteenTimes() {
        const double hot = 100.0 / 230, peak = after(across({230}, 293), 0.5).second;
        QVERIFY2(peak / hot > 12 && peak / hot < 16, qPrintable(QString::number(peak / hot)));
    }

    /// 63 % of a small step after one time constant at the rated point.
    void aSmallStepTakesTheTimeConstant() {
        const double from = 2780, to = 2780 * std::pow(1.02, 1 / 2.6);
        const double now = after(across({230 * 1.02}, from), 0.06 / 1.0, 5e-4).first;
        // A filament's own temperature coefficient shortens it: dP/dT of both sides, (4 + 1.2) instead of 4.
        const double share = (now - from) / (to - from);
        QVERIFY2(share > 0.63 && share < 0.78, qPrintable(QString::number(share)));
    }

    void onTheMainsItGlowsAsOnTheSameDc() {
        const double ac = after(across({0, 115 * std::numbers::sqrt2, 50, 0}, 293), 4, 5e-4).first;
        const double dc = after(across({115}, 293), 4).first;
        QVERIFY2(std::abs(ac / dc - 1) < 0.01, qPrintable(QString("%1 K on AC, %2 K on DC").arg(ac).arg(dc)));
    }

    void unpluggedItCoolsToTheRoom() {
        const double warm = after(across({0}, 2000), 1).first, cold = after(across({0}, 2000), 60).first;
        QVERIFY(warm < 1400 && warm > 300);
        QVERIFY(cold < 500 && cold >= 293);
    }

    /// The run through time and the averaged steady state are two ways to one answer.
    void theAmplifierBehindTheLampSettlesToItsSteadyState_data() {
        QTest::addColumn<int>("stage");
        for (const int k : {3, 4}) QTest::addRow("stage %d", k) << k;
    }
    void theAmplifierBehindTheLampSettlesToItsSteadyState() {
        QFETCH(int, stage);
        const Build b = demoBuild();
        const auto steady = plan::solveSteady(b, catalogue, procedure::stageConditions(b, stage, 230));
        QVERIFY(steady.ok());
        const auto curve = plan::lampSwitchOn(b, catalogue, *steady, 60);
        QVERIFY2(curve.ok(), curve.ok() ? "" : curve.problem().text().c_str());
        QVERIFY2(std::abs(curve->kelvin.back() / steady->lamp.kelvin - 1) < 0.01,
                 qPrintable(QString("%1 K against %2 K").arg(curve->kelvin.back()).arg(steady->lamp.kelvin)));
        QVERIFY2(curve->flashKelvin > 1.2 * steady->lamp.kelvin, "cold heaters and empty capacitors flash it first");
        QVERIFY(curve->flashSeconds < curve->settledSeconds && curve->settledSeconds < 40);
    }

    void aSmallerLampTakesMoreAndGlowsBrighter() {
        Build b = demoBuild();
        const auto at = [&](double watts) {
            b.limiter.watts = watts;
            const auto s = plan::solveSteady(b, catalogue, {230, true, true, true, true});
            if (!s) qFatal("not solved");
            return s->lamp;
        };
        const auto small = at(60), large = at(150);
        QVERIFY(small.volts > large.volts && small.kelvin > large.kelvin);
    }

    void aCancelledRunSaysSo() {
        const Build b = demoBuild();
        const auto steady = plan::solveSteady(b, catalogue, procedure::stageConditions(b, 3, 230));
        std::stop_source stop;
        stop.request_stop();
        QVERIFY(!plan::lampSwitchOn(b, catalogue, *steady, 60, stop.get_token()).ok());
    }
};

EMBER_TESTS(TestThermal)
#include "test_thermal.moc"
