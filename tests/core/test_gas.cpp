// What gas is left in a valve: a current out of its grid, into the leak, that heats it.

#include "../support/demo.h"
#include "../support/shipped.h"
#include "../support/spice.h"
#include "../support/suite.h"

#include "core/catalogue/grid_current.h"
#include "core/catalogue/published.h"
#include "core/catalogue/this_valve.h"
#include "core/circuit/netlist_text.h"
#include "core/circuit/operating_point.h"
#include "core/diagnose/faults.h"
#include "core/plan/as_built.h"
#include "core/plan/solve.h"

#include <QTest>

#include <algorithm>
#include <array>
#include <cmath>

using namespace ember;
using namespace ember::circuit;

namespace {

PortLaw withGas(const std::string& type, double gas) {
    return lawOf(catalogue.valve(type)->section(1).law, {1, 1, 1, 1, gas});
}

/// A valve with its cathode at ground, its grid at -2 V (triode) or -9 V behind a leak.
struct Stage1 {
    Netlist n;
    Node grid = n.node("grid"), plate = n.node("plate"), screen = n.node("screen"), bias = n.node("bias");
    bool pentode;
    Stage1(const std::string& type, double gas, double leak) : pentode(catalogue.valve(type)->section(1).pentode) {
        n.add(VoltageSource{plate, ground, {250}});
        n.add(VoltageSource{bias, ground, {pentode ? -9.0 : -2.0}});
        n.add(Resistor{bias, grid, leak});
        if (pentode) {
            n.add(VoltageSource{screen, ground, {250}});
            n.add(NonlinearDevice{{grid, screen, plate, ground}, withGas(type, gas)});
        } else {
            n.add(Resistor{screen, ground, 1e6});
            n.add(NonlinearDevice{{grid, plate, ground}, withGas(type, gas)});
        }
    }
    [[nodiscard]] double gridVolts() const {
        const System s = assemble(n);
        const auto op = operatingPoint(s);
        if (!op) qFatal("no operating point");
        return op->volts(grid);
    }
};

} // namespace

class TestGas : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    /// The grid rises by the leak times gas times what the cathode then gives.
    void theGridRisesByItsLeak() {
        for (const auto& [type, gas, leak] : {std::tuple("ECC85", 1e-5, 1e6), {"EL84", 1e-5, 470e3}}) {
            const Stage1 stage(type, gas, leak), sound(type, 0, leak);
            const double at = stage.gridVolts(), still = sound.gridVolts();
            const ValveFigures f = figuresAt(withGas(type, 0), 250, at, 250);
            const double rise = at - still, expected = leak * gas * (f.plateAmps + f.screenAmps);
            QVERIFY2(rise > 0.01, qPrintable(QString::number(rise)));
            QVERIFY2(std::abs(rise / expected - 1) < 0.02, qPrintable(QString::number(rise / expected)));
        }
    }

    void slopesAreThoseOfTheCurrents() {
        for (const char* type : {"ECC85", "EL84"}) {
            const PortLaw law = withGas(type, 1e-4);
            const std::size_t ports = std::holds_alternative<PentodeLaw>(law) ? 3 : 2;
            std::array<double, 3> v{-3, ports == 3 ? 220.0 : 180.0, 180}, i{}, j{};
            std::array<double, 9> g{}, unused{};
            evaluate(law, 1, v.data(), i.data(), g.data());
            QVERIFY(i[0] < 0);
            for (std::size_t k = 0; k < ports; ++k) {
                auto moved = v;
                moved[k] += 1e-4;
                evaluate(law, 1, moved.data(), j.data(), unused.data());
                QVERIFY(std::abs((j[0] - i[0]) / 1e-4 - g[k]) < 1e-3 * std::abs(g[k]) + 1e-12);
            }
        }
    }

    /// A simulator that others wrote comes to the same grid.
    void aPeerAgrees() {
        for (const char* type : {"ECC85", "EL84"}) {
            const Stage1 stage(type, 2e-5, 680e3);
            const auto printed = spicePrint("* gas\n" + elementsText(stage.n) + ".op\n.options reltol=1e-6\n.end\n");
            if (!printed) QSKIP("ngspice is not installed");
            const auto peer = spiceVolts(*printed, QString::fromStdString(nodeText(stage.n, stage.grid)));
            QVERIFY2(peer, qPrintable(*printed));
            QVERIFY2(std::abs(*peer - stage.gridVolts()) < 2e-3, qPrintable(QString::number(*peer)));
        }
    }

    /// Sound valves have some, never less than none; the sick one draws more, and its bias is the more positive.
    void soundAndSickValvesInTheDemo() {
        const Build b = demoBuild();
        for (const std::uint64_t seed : {1, 2, 3}) {
            const Build built = plan::asBuilt(b, seed);
            for (std::size_t k = 0; k < b.bottles.size(); ++k)
                QVERIFY(built.bottles[k].gas >= 0 && built.bottles[k].gas <= b.bottles[k].gasTolerance);
        }
        const auto faults = diagnose::faultsOf(b, catalogue);
        const auto gas = std::find_if(faults.begin(), faults.end(), [](const auto& f) { return f.id == "gas/v3"; });
        QVERIFY(gas != faults.end());
        Build sick = b;
        gas->inflict(sick);
        const auto ill = plan::solveSteady(sick, catalogue, {230}), sound = plan::solveSteady(b, catalogue, {230});
        QVERIFY(ill && sound);
        const auto amps = [&](const plan::Steady& s) {
            double sum = 0;
            for (const plan::ValvePoint& v : s.channels[0].valves)
                if (b.bottles[v.bottle].id == "v3") sum += v.plateAmps;
            return sum;
        };
        QVERIFY2(amps(*ill) > 1.05 * amps(*sound), qPrintable(QString::number(amps(*ill) / amps(*sound))));
    }

    /// A larger cathode sends more electrons against the grid's volts: e-fold per kT/e = 1000 K / 11604 K/V.
    void gridCurrentBeginsByTheCathodesSize() {
        double least = 0, most = -10;
        for (const ValveType& t : catalogue.valves)
            for (int k = 1; k <= t.sections(); ++k) {
                const double at = gridVoltsTaking(t.section(k).law, 3e-7);
                if (t.heater.directlyHeated) continue;
                const double wanted = -0.664 - 1000.0 / 11604 * std::log(cathodeWatts(t, k) / 0.945);
                QVERIFY2(std::abs(at - wanted) < 0.02,
                         qPrintable(QString("%1: %2, %3 wanted").arg(t.type.c_str()).arg(at).arg(wanted)));
                least = std::min(least, at), most = std::max(most, at);
            }
        QVERIFY(most < -0.5 && least > -1.3 && most - least > 0.2); // sheets give -1.3 V as the most negative
    }
    /// Half of its filament is more negative than the middle, which the grid's volts are counted from.
    void aFilamentsGridTakesCurrentEarlier() {
        const auto onset = [](const char* type) {
            return gridVoltsTaking(catalogue.valve(type)->section(1).law, 3e-7);
        };
        QVERIFY(onset("10") < onset("45")); // 7.5 V and 2.5 V
        QVERIFY(onset("45") < -0.5);
    }
    void unlikeHalvesShareTheHeater() {
        const ValveType& t = *catalogue.valve("ECL86");
        QVERIFY(cathodeWatts(t, 2) > 2 * cathodeWatts(t, 1));
        QVERIFY(std::abs(cathodeWatts(t, 1) + cathodeWatts(t, 2) - t.heater.volts * t.heater.amps) < 1e-9);
    }
};

EMBER_TESTS(TestGas)
#include "test_gas.moc"
