// The linear circuit at any frequency against closed forms, and what a supply looks like to its stages.

#include "../support/demo.h"
#include "../support/suite.h"

#include "core/build/starts.h"
#include "core/circuit/small_signal.h"
#include "core/plan/impedance.h"
#include "core/schematic/path_schematic.h"
#include "core/schematic/solve.h"

#include <QTest>

#include <cmath>
#include <numbers>

using namespace ember;
using namespace ember::circuit;

class TestSmallSignal : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void aResistorAndACapacitorMeetAtTheirCorner() {
        Netlist n;
        const Node in = n.node("in"), out = n.node("out");
        const DeviceId source = n.add(VoltageSource{in, ground, {0}});
        n.add(Resistor{in, out, 1e3});
        n.add(Capacitor{out, ground, 1e-6});
        const System sys = assemble(n);
        const SmallSignal s(sys, Eigen::VectorXd());
        const double corner = 1 / (2 * std::numbers::pi * 1e-3);
        QVERIFY(std::abs(std::abs(s.gain(source, out, corner)) - 1 / std::numbers::sqrt2) < 1e-6);
        QVERIFY(std::abs(std::arg(s.gain(source, out, corner)) + std::numbers::pi / 4) < 1e-6);
        QVERIFY(std::abs(s.gain(source, out, 1e-3)) > 0.999999);
        // R and C in parallel, seen from the outside.
        const Complex z = s.impedance(out, corner);
        QVERIFY(std::abs(std::abs(z) - 1e3 / std::numbers::sqrt2) < 0.01);
    }

    void aCircuitOfLAndCRingsAtItsResonance() {
        Netlist n;
        const Node a = n.node("a");
        n.add(Inductor{a, ground, 10e-3, 0});
        n.add(Capacitor{a, ground, 1e-6});
        n.add(Resistor{a, ground, 1e5});
        const System sys = assemble(n);
        const SmallSignal s(sys, Eigen::VectorXd());
        const double resonance = 1 / (2 * std::numbers::pi * std::sqrt(10e-3 * 1e-6));
        QVERIFY(std::abs(std::abs(s.impedance(a, resonance)) / 1e5 - 1) < 1e-3);
        QVERIFY(std::abs(s.impedance(a, resonance / 10)) < 100);
    }

    /// Gain of a stage: mu R / (R + rp), with the slopes that the law has there.
    void aTriodeAmplifiesAsItsSlopesSay() {
        const ValveType* type = Catalogue::shipped().valve("ECC85");
        QVERIFY(type);
        Netlist n;
        const Node supply = n.node("supply"), grid = n.node("grid"), plate = n.node("plate");
        n.add(VoltageSource{supply, ground, {250}});
        const DeviceId drive = n.add(VoltageSource{grid, ground, {-1.5}});
        n.add(Resistor{supply, plate, 100e3});
        n.add(NonlinearDevice{{grid, plate, ground}, type->section(1).law});
        const System sys = assemble(n);
        const auto op = operatingPoint(sys);
        QVERIFY(op);
        const ValveFigures f = figuresAt(type->section(1).law, op->volts(plate), -1.5, 0);
        const SmallSignal s(sys, op->portVolts);
        QVERIFY(std::abs(s.gain(drive, plate, 1e3).real() / (-f.mu * 100e3 / (100e3 + f.rp)) - 1) < 1e-6);
        QVERIFY(std::abs(std::abs(s.impedance(plate, 1e3)) / (100e3 * f.rp / (100e3 + f.rp)) - 1) < 1e-6);
    }

    void whatReachesAnOutputIsTheSameForwardsAndBackwards() {
        // Every gain and transfer of every start by one solution each way, from 10 Hz to 20 kHz; farads beside siemens
        // leave not quite three digits of the worst.
        for (const Start& start : starts()) {
            for (std::size_t k = 0; k < start.build.channels.size(); ++k) {
                const auto c = schematic::channelSchematic(start.build, Catalogue::shipped(), k);
                schematic::Schematic held = c.schematic;
                for (const schematic::HeldNode& n : c.nodes) held.set(n.source, 250);
                schematic::Analysis analysis(held);
                const auto point = analysis.operatingPoint();
                if (!point) continue; // the plan's own volts are not asked for here
                const SmallSignal small(analysis.system(), point->portVolts);
                const auto node = [&](schematic::NetId n) {
                    return analysis.circuit().nodes[static_cast<std::size_t>(n.index)];
                };
                const Node output = node(c.output);
                const OutputReach reach(small, output);
                for (const double hertz : {10.0, 50.0, 600.0, 1e3, 2e4}) {
                    const auto at = reach.at(hertz);
                    double worst = 0, biggest = 0;
                    const auto compare = [&](const Complex& a, const Complex& b) {
                        worst = std::max(worst, std::abs(a - b));
                        biggest = std::max(biggest, std::abs(b));
                    };
                    for (std::size_t n = 1; n < held.nets().size(); ++n)
                        compare(reach.fromAmps(at, node({static_cast<int>(n)})),
                                small.transfer(node({static_cast<int>(n)}), output, hertz));
                    QVERIFY2(worst <= 2e-3 * biggest, qPrintable(QString("%1 at %2 Hz: %3 of %4")
                                                                     .arg(QString::fromStdString(start.id))
                                                                     .arg(hertz)
                                                                     .arg(worst)
                                                                     .arg(biggest)));
                    worst = biggest = 0;
                    for (std::size_t p = 0; p < held.parts().size(); ++p)
                        if (std::holds_alternative<schematic::Voltage>(held.parts()[p].element)) {
                            const DeviceId source = analysis.circuit().devices[p][0];
                            compare(reach.fromVolts(at, source), small.gain(source, output, hertz));
                        }
                    QVERIFY2(worst <= 1e-3 * std::max(1.0, biggest), start.id.c_str());
                }
            }
        }
    }
    void groundReachesNothing() {
        Netlist n;
        const Node a = n.node("a");
        n.add(Resistor{a, ground, 1e3});
        const System sys = assemble(n);
        const SmallSignal s(sys, Eigen::VectorXd());
        const OutputReach reach(s, a), none(s, ground);
        QVERIFY(std::abs(reach.fromAmps(reach.at(1e3), a) - 1e3) < 1e-6);
        QCOMPARE(reach.fromAmps(reach.at(1e3), ground), Complex(0));
        QCOMPARE(none.fromAmps(none.at(1e3), a), Complex(0));
    }

    void aSupplyIsItsRectifierSlowlyAndItsLastCapacitorFast() {
        const Build b = demoBuild();
        plan::Conditions c;
        c.mainsVolts = b.mains.volts;
        const auto steady = plan::solveSteady(b, Catalogue::shipped(), c);
        QVERIFY(steady);
        const auto z = plan::supplyImpedance(b, Catalogue::shipped(), *steady);
        QVERIFY2(z.ok(), z.ok() ? "" : z.problem().text().c_str());
        QVERIFY(z->sourceOhms > 100 && z->sourceOhms < 1500);
        // At 20 kHz the node is its capacitor: 1 / (2 pi f C).
        const double farads = b.supply.sections[2].capacitance;
        QVERIFY(std::abs(z->ohms[1].back() * 2 * std::numbers::pi * 20e3 * farads - 1) < 0.01);
        // Slowly the second node has the choke's copper on top of the first.
        QVERIFY(z->ohms[1].front() > z->ohms[0].front());
    }
};

EMBER_TESTS(TestSmallSignal)
#include "test_small_signal.moc"
