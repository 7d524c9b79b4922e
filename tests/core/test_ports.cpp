// The ports of nonlinear devices, solved alone: against closed forms, far from their start, and where the slopes break.

#include "../support/suite.h"

#include "core/catalogue/catalogue.h"
#include "core/circuit/operating_point.h"

#include <QTest>

#include <cmath>
#include <random>

using namespace ember;
using namespace ember::circuit;

namespace {

/// A device between a source behind a resistance and ground.
struct Divider {
    Netlist netlist;
    DeviceId device;
    System system;
    Divider(double volts, double ohms, PortLaw law) {
        const Node in = netlist.node("in"), out = netlist.node("out");
        netlist.add(VoltageSource{in, ground, {volts}});
        netlist.add(Resistor{in, out, ohms});
        device = netlist.add(NonlinearDevice{{out, ground}, std::move(law)});
        system = assemble(netlist);
    }
};

} // namespace

class TestPorts : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    /// i = K v^1.5 with v = E - R i: the solved pair satisfies both.
    void aRectifierBehindAResistance_data() {
        QTest::addColumn<double>("volts");
        QTest::addColumn<double>("ohms");
        for (const double e : {0.1, 10.0, 400.0, 5000.0})
            for (const double r : {1e-3, 100.0, 1e6, 1e9}) QTest::addRow("%g V, %g ohm", e, r) << e << r;
    }
    void aRectifierBehindAResistance() {
        QFETCH(double, volts);
        QFETCH(double, ohms);
        const double K = 1.4e-3;
        Divider d(volts, ohms, VacuumLaw{K});
        const auto op = operatingPoint(d.system);
        QVERIFY(op.ok());
        const double v = op->portVolts[0], i = op->portAmps[0];
        QVERIFY(std::abs(i - K * v * std::sqrt(v)) < 1e-9 + 1e-6 * i);
        QVERIFY(std::abs(volts - ohms * i - v) < 1e-6 * (1 + volts) + ohms * 1e-12 * volts * 2);
    }

    void aDiodeTakesSixtyMillivoltsADecadeAtIdealityOne() {
        const DiodeLaw law{1e-12, 1};
        const auto volts = [&](double ohms) {
            Divider d(100, ohms, law);
            return operatingPoint(d.system)->portVolts[0];
        };
        const double step = volts(100e3) - volts(1e6);
        QVERIFY2(std::abs(step - thermalVolts * std::log(10)) < 2e-4, qPrintable(QString::number(step)));
    }

    void backwardsNothingFlows() {
        Divider vacuum(-300, 1e3, VacuumLaw{1e-3}), silicon(-300, 1e3, DiodeLaw{});
        QCOMPARE(operatingPoint(vacuum.system)->portAmps[0], 0.0);
        QVERIFY(std::abs(operatingPoint(silicon.system)->portAmps[0]) < 1e-8);
    }

    void aColdCathodeIsOpen() {
        Netlist n;
        const Node in = n.node("in"), out = n.node("out");
        n.add(VoltageSource{in, ground, {300}});
        n.add(Resistor{in, out, 1e4});
        n.add(NonlinearDevice{{out, ground}, VacuumLaw{1e-3}, 0});
        const auto op = operatingPoint(assemble(n));
        QVERIFY(std::abs(op->volts(out) - 300) < 1e-4);
    }

    /// Whatever stands around a pentode, the answer is found and is one: started from anywhere it is the same.
    void aPentodeIsSolvedFromAnyStart() {
        const auto& law = Catalogue::shipped().valve("EL84")->section(1).law;
        std::mt19937 chance(5);
        std::uniform_real_distribution<double> spread(-1, 1);
        for (int k = 0; k < 40; ++k) {
            Netlist n;
            const Node g = n.node("g"), s = n.node("s"), p = n.node("p"), c = n.node("c");
            const auto feed = [&](Node to, double volts, double ohms) {
                const Node from = n.node("rail");
                n.add(VoltageSource{from, ground, {volts}});
                n.add(Resistor{from, to, ohms});
            };
            feed(g, 30 * spread(chance), std::pow(10, 3 + 2 * spread(chance)));
            feed(s, 250 + 200 * spread(chance), std::pow(10, 3 + 2 * spread(chance)));
            feed(p, 300 + 290 * spread(chance), std::pow(10, 3.5 + 2.5 * spread(chance)));
            n.add(Resistor{c, ground, std::pow(10, 2 + 2 * spread(chance))});
            n.add(NonlinearDevice{{g, s, p, c}, law});
            const System sys = assemble(n);
            const auto cold = operatingPoint(sys);
            QVERIFY2(cold.ok(), cold.ok() ? "" : cold.problem().text().c_str());
            for (int start = 0; start < 4; ++start) {
                Eigen::VectorXd guess(3);
                guess << 100 * spread(chance), 500 * spread(chance), 500 * spread(chance);
                const auto warm = operatingPoint(sys, &guess);
                QVERIFY(warm.ok());
                QVERIFY2((warm->portVolts - cold->portVolts).cwiseAbs().maxCoeff() < 1e-4,
                         qPrintable(QString("circuit %1").arg(k)));
            }
        }
    }

    /// Kirchhoff at the cathode: what enters by grid, screen and plate leaves there.
    void whatEntersAPentodeLeavesAtItsCathode() {
        const auto& law = Catalogue::shipped().valve("EL84")->section(1).law;
        Netlist n;
        const Node rail = n.node("rail"), p = n.node("p"), c = n.node("c"), g = n.node("g");
        n.add(VoltageSource{rail, ground, {300}});
        n.add(Resistor{rail, p, 2e3});
        n.add(Resistor{g, ground, 1e5});
        n.add(Resistor{c, ground, 270});
        const DeviceId valve = n.add(NonlinearDevice{{g, rail, p, c}, law});
        const System sys = assemble(n);
        const auto op = operatingPoint(sys);
        const double in = op->amps(sys, valve, 0) + op->amps(sys, valve, 1) + op->amps(sys, valve, 2);
        QVERIFY(std::abs(in - op->volts(c) / 270) < 1e-8);
    }

    void slopesAreTheDerivatives_data() {
        QTest::addColumn<QString>("type");
        for (const char* t : {"ECC85", "EL84"}) QTest::newRow(t) << QString(t);
    }
    void slopesAreTheDerivatives() {
        QFETCH(QString, type);
        const PortLaw& law = Catalogue::shipped().valve(type.toStdString())->section(1).law;
        const int n = portCount(law);
        for (const double grid : {-9.0, -2.5, 0.4})
            for (const double plate : {15.0, 120.0, 300.0}) {
                const std::array<double, 3> at = n == 2 ? std::array{grid, plate, 0.0} : std::array{grid, 250.0, plate};
                std::array<double, 3> i{}, up{}, down{};
                std::array<double, 9> g{}, scratch{};
                evaluate(law, 1, at.data(), i.data(), g.data());
                for (int k = 0; k < n; ++k) {
                    auto a = at, b = at;
                    const double h = 1e-5 * (1 + std::abs(at[static_cast<std::size_t>(k)]));
                    a[static_cast<std::size_t>(k)] += h;
                    b[static_cast<std::size_t>(k)] -= h;
                    evaluate(law, 1, a.data(), up.data(), scratch.data());
                    evaluate(law, 1, b.data(), down.data(), scratch.data());
                    for (int r = 0; r < n; ++r) {
                        const double slope =
                            (up[static_cast<std::size_t>(r)] - down[static_cast<std::size_t>(r)]) / (2 * h);
                        QVERIFY(std::abs(slope - g[static_cast<std::size_t>(r * n + k)]) <
                                1e-9 + 1e-4 * std::abs(slope));
                    }
                }
            }
    }

    /// A pentode from its bias into grid current and cut-off (at 200 V until no port has a slope) and back, stepped
    /// with the ports solved fully and to 1 mV: the plate is the same to a few mV at every step, and what is watched is
    /// what the unknowns are.
    void portsSolvedNearlyFollowTheFullOnes_data() {
        QTest::addColumn<double>("volts");
        for (const double v : {0.5, 4.0, 20.0, 200.0}) QTest::addRow("%g V", v) << v;
    }
    void portsSolvedNearlyFollowTheFullOnes() {
        QFETCH(double, volts);
        Netlist n;
        const Node rail = n.node("rail"), s = n.node("s"), p = n.node("p"), c = n.node("c"), g = n.node("g"),
                   in = n.node("in");
        n.add(VoltageSource{rail, ground, {300}});
        n.add(VoltageSource{in, ground, {0, volts, 1000}});
        n.add(Capacitor{in, g, 100e-9});
        n.add(Resistor{g, ground, 470e3});
        n.add(Resistor{rail, p, 5e3});
        n.add(Resistor{rail, s, 1e3});
        n.add(Resistor{c, ground, 150});
        n.add(Capacitor{c, ground, 100e-6});
        n.add(NonlinearDevice{{g, s, p, c}, Catalogue::shipped().valve("EL84")->section(1).law});
        const System sys = assemble(n);
        const auto rest = operatingPoint(sys);
        QVERIFY(rest.ok());
        const double h = 1e-5, good = 1e-3;
        Stepper full(sys, h, 1), near(sys, h, 1);
        near.solvePortsTo(Eigen::VectorXd::Constant(sys.portTotal(), good));
        near.watch({sys.row(p), sys.row(g)});
        State a{0, rest->y, Eigen::VectorXd::Zero(sys.states())}, b = a;
        full.portSolver().volts() = near.portSolver().volts() = rest->portVolts;
        QVERIFY(full.begin(a) && near.begin(b));
        Unknowns x, y;
        double lowest = 1e9, highest = 0;
        for (int k = 0; k < 400; ++k) {
            QVERIFY(full.step(a, 0) && near.step(b, 0));
            full.endUnknowns(x);
            near.endUnknowns(y);
            QVERIFY2(std::abs(x[sys.row(p)] - y[sys.row(p)]) < 10 * good,
                     qPrintable(QString("%1: %2 %3").arg(k).arg(x[sys.row(p)]).arg(y[sys.row(p)])));
            QVERIFY(std::abs(near.endWatched()[0] - y[sys.row(p)]) < 1e-7);
            QVERIFY(std::abs(near.endWatched()[1] - y[sys.row(g)]) < 1e-7);
            lowest = std::min(lowest, x[sys.row(p)]);
            highest = std::max(highest, x[sys.row(p)]);
        }
        if (volts > 10) QVERIFY(lowest < 40 && highest > 295);
    }

    void aNodeInTheAirIsSaid() {
        Netlist n;
        const Node a = n.node("a"), b = n.node("b");
        n.add(VoltageSource{a, ground, {10}});
        n.add(VoltageSource{a, ground, {20}}); // two sources across each other
        n.add(Resistor{a, b, 1e3});
        const auto op = operatingPoint(assemble(n));
        QVERIFY(!op.ok());
        QVERIFY(op.problem().sentence.find("shorted") != std::string::npos);
    }
};

EMBER_TESTS(TestPorts)
#include "test_ports.moc"
