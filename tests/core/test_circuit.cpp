#include "../support/suite.h"

#include "core/circuit/operating_point.h"
#include "core/circuit/periodic.h"
#include "core/circuit/transient.h"

#include <QTest>

#include <cmath>
#include <numbers>

using namespace ember::circuit;

namespace {

bool near(double have, double want, double share) {
    return std::abs(have - want) <= share * std::abs(want);
}

} // namespace

class TestCircuit : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void aDividerDividesByItsResistances() {
        Netlist n;
        const Node in = n.node("in"), out = n.node("out");
        n.add(VoltageSource{in, ground, {300}});
        n.add(Resistor{in, out, 2e3});
        n.add(Resistor{out, ground, 1e3});
        const auto op = operatingPoint(assemble(n));
        QVERIFY(op.ok());
        QVERIFY(near(op->volts(out), 100, 1e-8));
    }

    void aTransconductanceDrawsByAnotherNodesVolts() {
        Netlist n;
        const Node grid = n.node("grid"), plate = n.node("plate"), rail = n.node("rail");
        n.add(VoltageSource{grid, ground, {-2}});
        n.add(VoltageSource{rail, ground, {300}});
        n.add(Resistor{rail, plate, 47e3});
        n.add(Transconductance{plate, ground, grid, ground, 1.5e-3});
        const auto op = operatingPoint(assemble(n));
        QVERIFY(op.ok());
        QVERIFY(near(op->volts(plate), 300 + 2 * 1.5e-3 * 47e3, 1e-5)); // -3 mA flows out of the plate
    }

    void oneFactorServesManyOperatingPoints() {
        Netlist n;
        const Node anode = n.node("anode"), in = n.node("in");
        const DeviceId source = n.add(VoltageSource{in, ground, {0}});
        n.add(Resistor{in, anode, 1e3});
        const DeviceId diode = n.addVacuumRectifier(anode, ground, {1e-3});
        const System sys = assemble(n);
        DcSolver solver(sys);
        for (const double volts : {100.0, 101.0, 20.0, -50.0, 400.0}) {
            solver.setSource(source, volts);
            const auto op = solver.solve();
            QVERIFY(op.ok());
            const double v = op->volts(anode), i = v > 0 ? 1e-3 * std::pow(v, 1.5) : 0;
            QVERIFY(near(op->amps(sys, diode), i, 1e-9));
            QVERIFY(near(v, volts - 1e3 * i, 1e-5));
        }
    }

    void aLeakyCapacitorHoldsWhatTheDividerGives() {
        Netlist n;
        const Node in = n.node("in"), out = n.node("out");
        n.add(VoltageSource{in, ground, {100}});
        n.add(Resistor{in, out, 1e6});
        n.add(Capacitor{out, ground, 1e-6, 2, 1e6});
        const auto op = operatingPoint(assemble(n));
        QVERIFY(op.ok());
        QVERIFY(near(op->volts(out), 50, 1e-5));
    }

    void aCapacitorChargesByTheExponential() {
        Netlist n;
        const Node in = n.node("in"), out = n.node("out");
        n.add(VoltageSource{in, ground, {400}});
        n.add(Resistor{in, out, 1e4});
        n.add(Capacitor{out, ground, 10e-6});
        const System sys = assemble(n);
        Stepper stepper(sys, 0.02, 10);
        State s{0, Eigen::VectorXd::Zero(1), Eigen::VectorXd::Zero(1)};
        TransientOptions o;
        o.duration = 0.2;
        o.tolerance = 1e-6;
        QVERIFY(runTransient(stepper, s, o).ok());
        QVERIFY(near(s.y[0], 400 * (1 - std::exp(-2.0)), 1e-4));
    }

    void halvingTheStepQuartersTheError() {
        const auto errorWith = [](int steps) {
            Netlist n;
            const Node a = n.node("a");
            n.add(Capacitor{a, ground, 1e-6});
            n.add(Inductor{a, ground, 1, 0});
            const System sys = assemble(n);
            const double period = 2 * std::numbers::pi * 1e-3;
            Stepper stepper(sys, period / steps, 1);
            State s{0, Eigen::VectorXd::Zero(2), Eigen::VectorXd::Zero(2)};
            s.y[0] = 100;
            if (!stepper.begin(s)) return -1.0;
            for (int k = 0; k < steps; ++k)
                if (!stepper.step(s, 0)) return -1.0;
            return std::abs(s.y[0] - 100);
        };
        const double ratio = std::abs(errorWith(100)) / std::abs(errorWith(200));
        QVERIFY2(ratio > 3.4, qPrintable(QString::number(ratio)));
    }

    void aResistorOnASineTakesItsHeat() {
        Netlist n;
        const Node in = n.node("in");
        const DeviceId source = n.add(VoltageSource{in, ground, {0, 230 * std::numbers::sqrt2, 50, 0}});
        n.add(Resistor{in, ground, 100});
        const System sys = assemble(n);
        PeriodicOptions o;
        Recording r({nodeVolts(sys, in), branchAmps(sys, source)});
        Stepper stepper = periodicStepper(sys, o);
        QVERIFY(periodicSteadyState(stepper, Eigen::VectorXd::Zero(0), o, &r).ok());
        QVERIFY(near(r.rms(0), 230, 1e-4));
        QVERIFY(near(-r.meanProduct(0, 1), 529, 1e-4));
    }

    void aTransformerTurnsVoltsAndImpedances() {
        Netlist n;
        const Node in = n.node("in"), out = n.node("out");
        const DeviceId source = n.add(VoltageSource{in, ground, {0, 100, 50, 0}});
        n.add(Transformer{{{in, ground, 10, 0.5}, {out, ground, 1, 0.005}}, 300});
        n.add(Resistor{out, ground, 8});
        const System sys = assemble(n);
        PeriodicOptions o;
        Recording r({nodeVolts(sys, out), branchAmps(sys, source)});
        Stepper stepper = periodicStepper(sys, o);
        QVERIFY(periodicSteadyState(stepper, Eigen::VectorXd::Zero(sys.states()), o, &r).ok());
        QVERIFY(near(r.most(0), 10, 2e-3));
        QVERIFY(near(r.rms(1), 100 / 800.0 / std::numbers::sqrt2, 3e-3));
    }

    void aVacuumDiodeFollowsThreeHalves() {
        Netlist n;
        const Node in = n.node("in"), k = n.node("k");
        n.add(VoltageSource{in, ground, {60}});
        const double perveance = perveanceFromDrop(25, 0.175);
        const DeviceId v = n.addVacuumRectifier(in, k, {perveance});
        n.add(Resistor{k, ground, 200});
        const System sys = assemble(n);
        const auto op = operatingPoint(sys);
        QVERIFY(op.ok());
        const double drop = 60 - op->volts(k);
        QVERIFY(near(op->amps(sys, v), perveance * std::pow(drop, 1.5), 1e-7));
        QVERIFY(near(op->amps(sys, v), op->volts(k) / 200, 1e-7));
    }

    void aSiliconStringSharesItsCurrent() {
        Netlist n;
        const Node in = n.node("in"), mid = n.node("mid"), out = n.node("out");
        n.add(VoltageSource{in, ground, {10}});
        n.addDiode(in, mid, {}, 0.05);
        n.addDiode(mid, out, {}, 0.05);
        n.add(Resistor{out, ground, 1e3});
        const auto op = operatingPoint(assemble(n));
        QVERIFY(op.ok());
        QVERIFY(near(op->volts(in) - op->volts(mid), op->volts(mid) - op->volts(out), 1e-5));
        QVERIFY(op->volts(out) > 8.2 && op->volts(out) < 9);
    }

    void withNoLoadTheReservoirStandsAtTheCrest() {
        Netlist n;
        const Node emf = n.node("emf"), leg = n.node("leg"), out = n.node("out");
        n.add(VoltageSource{emf, ground, {0, 400, 50, 0}});
        n.add(Resistor{emf, leg, 50});
        n.addDiode(leg, out, {}, 0.05);
        n.add(Capacitor{out, ground, 33e-6, 0, 1e9});
        const System sys = assemble(n);
        PeriodicOptions o;
        Recording r({nodeVolts(sys, out)});
        Stepper stepper = periodicStepper(sys, o);
        Eigen::VectorXd guess(1);
        guess[0] = 380;
        const auto s = periodicSteadyState(stepper, guess, o, &r);
        QVERIFY2(s.ok(), s.ok() ? "" : s.problem().sentence.c_str());
        QVERIFY(near(r.mean(0), 400, 3e-3));
        QVERIFY(r.most(0) - r.least(0) < 0.01);
    }

    void aLampSettlesWhereItRadiatesWhatItTakes() {
        IncandescentLaw lamp{230, 60, 2700, 0.05, 2700};
        QVERIFY(near(lamp.ohms(), 230.0 * 230 / 60, 1e-12));
        QVERIFY(near(lamp.radiated(), 60, 1e-3));
        lamp.kelvin = 293;
        const double ratio = 230.0 * 230 / 60 / lamp.ohms();
        QVERIFY2(ratio > 12 && ratio < 15, "a cold filament has a twelfth to a fifteenth of its hot resistance");
    }

    void aTubeLawAgreesWithItsOwnSlopes_data() {
        QTest::addColumn<double>("plate");
        QTest::addColumn<double>("grid");
        for (const double p : {20.0, 100.0, 300.0})
            for (const double g : {-12.0, -5.0, -0.5, 0.8}) QTest::addRow("plate %g grid %g", p, g) << p << g;
    }
    void aTubeLawAgreesWithItsOwnSlopes() {
        QFETCH(double, plate);
        QFETCH(double, grid);
        const PentodeLaw law{20, 1.35, 60, 500, 0.9, 15, 1e-4, 5e-4};
        double v[3] = {grid, 250, plate}, i[3], g[9], up[3], down[3], ignored[9];
        evaluate(law, 1, v, i, g);
        for (int k = 0; k < 3; ++k) {
            const double h = 1e-4;
            v[k] += h;
            evaluate(law, 1, v, up, ignored);
            v[k] -= 2 * h;
            evaluate(law, 1, v, down, ignored);
            v[k] += h;
            for (int r = 0; r < 3; ++r)
                QVERIFY(std::abs((up[r] - down[r]) / (2 * h) - g[3 * r + k]) < 1e-6 + 1e-3 * std::abs(g[3 * r + k]));
        }
    }

    void lawsStayFiniteEverywhere() {
        double i[3], g[9];
        for (const double a : {-1e5, -300.0, 0.0, 1e-9, 5.0, 1e5})
            for (const double b : {-1e5, 0.0, 250.0, 1e5})
                for (const double c : {-1e5, 0.0, 1e-12, 1e5}) {
                    const double v[3] = {a, b, c};
                    for (const PortLaw& law :
                         {PortLaw(VacuumLaw{}), PortLaw(DiodeLaw{}), PortLaw(TriodeLaw{}), PortLaw(PentodeLaw{})}) {
                        evaluate(law, 1, v, i, g);
                        for (int k = 0; k < portCount(law); ++k) QVERIFY(std::isfinite(i[k]));
                        for (int k = 0; k < portCount(law) * portCount(law); ++k) QVERIFY(std::isfinite(g[k]));
                    }
                }
    }

    void shortedSourcesAreAProblemNotANumber() {
        Netlist n;
        const Node a = n.node("a");
        n.add(VoltageSource{a, ground, {10}});
        n.add(VoltageSource{a, ground, {20}});
        QVERIFY(!operatingPoint(assemble(n)).ok());
    }
};

EMBER_TESTS(TestCircuit)
#include "test_circuit.moc"
