// Fields, return networks and noise against closed forms and equations solved in another way.

#include "../support/shipped.h"
#include "../support/suite.h"
#include "../support/wired.h"

#include "core/quantity/weighting.h"

#include <QTest>

#include <cmath>
#include <numbers>
#include <random>

using namespace ember;
using namespace ember::wires;
using Complex = std::complex<double>;

namespace {

using std::numbers::pi;

std::vector<Vector> circle(const Vector& centre, const Vector& normal, double radius) {
    const Vector a = normal.unitOrthogonal(), z = normal.cross(a).normalized();
    std::vector<Vector> out;
    for (int k = 0; k <= 400; ++k)
        out.push_back(centre + radius * (std::cos(2 * pi * k / 400) * a + std::sin(2 * pi * k / 400) * z));
    return out;
}

} // namespace

class TestInduction : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void fluxThroughALoopIsTheFieldTimesItsArea() {
        const chassis::Dipole d{0, {0.02, -0.01, 0.03}, Vector(1, 2, -1).normalized(), 0.4, 0.005};
        for (const Vector& at : {Vector(0.2, 0.1, 0), Vector(-0.1, 0.15, 0.1), Vector(0.05, -0.2, -0.05)}) {
            const Vector normal = Vector(0.3, -1, 0.5).normalized();
            const double radius = 0.002;
            const FieldSource s{false, {d}, {}, {}, {}};
            const double flux = linkage(s, circle(at, normal, radius));
            QVERIFY2(std::abs(flux / (pi * radius * radius * fieldAt(d, at).dot(normal)) - 1) < 0.002, "curl A = B");
        }
    }
    void aDipolesFluxThroughACoaxialLoopHasItsClosedForm() {
        // mu0 m r^2 / (2 (r^2 + z^2)^1.5) (Jackson, Classical Electrodynamics, 5.6).
        const chassis::Dipole d{0, Vector::Zero(), Vector::UnitZ(), 1.7, 0.005};
        const double r = 0.06, z = 0.09;
        const double flux = linkage({false, {d}, {}, {}, {}}, circle({0, 0, z}, Vector::UnitZ(), r));
        QVERIFY(std::abs(flux / (4e-7 * pi * 1.7 * r * r / (2 * std::pow(r * r + z * z, 1.5))) - 1) < 1e-3);
    }
    void twoLongWiresLinkARectangleAsTheLogarithm() {
        // mu0 I l / 2 pi ln(b/a) of one long wire; the second, far away, takes its own off.
        FieldSource s;
        s.wires = {{{-50, 0, 0}, {50, 0, 0}}};
        const double a = 0.02, z = 0.07, l = 0.1;
        const double flux = linkage(s, {{0, a, 0}, {l, a, 0}, {l, z, 0}, {0, z, 0}, {0, a, 0}});
        QVERIFY(std::abs(std::abs(flux) / (2e-7 * l * std::log(z / a)) - 1) < 1e-3);
    }
    void aStraightPairIsItsDipolesAndATwistedOneFarLess() {
        const std::vector<Vector> along{{-1, 0, 0}, {1, 0, 0}};
        FieldSource straight, twisted, wires;
        straight.pairs = pairLoops(along, 0.004, 0);
        twisted.pairs = pairLoops(along, 0.004, 0.02);
        wires.wires = {{{-1, -0.002, 0}, {1, -0.002, 0}}, {{1, 0.002, 0}, {-1, 0.002, 0}}};
        const std::vector<Vector> loop{
            {-0.03, 0.03, 0}, {0.04, 0.03, 0}, {0.04, 0.05, 0}, {-0.03, 0.05, 0}, {-0.03, 0.03, 0}};
        const double one = linkage(straight, loop), exact = linkage(wires, loop), two = linkage(twisted, loop);
        QVERIFY2(std::abs(one / exact - 1) < 0.02, qPrintable(QString("%1 %2").arg(one).arg(exact)));
        QVERIFY2(std::abs(two) < std::abs(one) / 50, qPrintable(QString::number(one / two)));
        // 4 mm from the middle of the pair, where no dipole would do.
        const std::vector<Vector> beside{{-0.05, 0.004, 0}, {0.05, 0.004, 0}};
        QVERIFY(std::abs(linkage(straight, beside) / linkage(wires, beside) - 1) < 0.03);
    }

    void randomReturnNetworksAgreeWithKirchhoffsEquations() {
        // Branch currents as unknowns beside the node volts: the sparse tableau, solved by QR.
        std::mt19937 dice(7);
        std::uniform_real_distribution<double> ohms(1e-3, 0.1), henries(1e-8, 5e-7), part(-1, 1);
        for (int net = 0; net < 20; ++net) {
            GroundNetwork g;
            g.points = 4 + static_cast<std::size_t>(net % 7);
            const auto nodes = g.points + 1;
            for (std::size_t k = 1; k < nodes; ++k)
                g.branches.push_back({k, dice() % k, 0, ohms(dice), henries(dice)}); // a tree
            for (int k = 0; k < net % 5; ++k) {
                const std::size_t a = dice() % nodes, z = dice() % nodes;
                if (a != z) g.branches.push_back({a, z, 0, ohms(dice), henries(dice)});
            }
            const auto n = static_cast<Eigen::Index>(nodes), m = static_cast<Eigen::Index>(g.branches.size());
            Eigen::VectorXcd amps = Eigen::VectorXcd::Zero(n - 1), emf(m);
            for (auto& x : amps) x = {part(dice), part(dice)};
            amps[0] -= amps.sum(); // what comes out of the parts goes back into them
            for (auto& x : emf) x = 0.001 * Complex(part(dice), part(dice));
            const double hertz = 250;
            const Complex s(0, 2 * pi * hertz);
            Eigen::MatrixXcd T = Eigen::MatrixXcd::Zero(n + m, n + m);
            Eigen::VectorXcd right = Eigen::VectorXcd::Zero(n + m);
            for (Eigen::Index k = 0; k < m; ++k) {
                const GroundBranch& b = g.branches[static_cast<std::size_t>(k)];
                const auto a = static_cast<Eigen::Index>(b.from), z = static_cast<Eigen::Index>(b.to);
                T(a, n + k) += 1, T(z, n + k) -= 1; // currents out of each node
                T(n + k, a) = 1, T(n + k, z) = -1, T(n + k, n + k) = -(b.ohms + s * b.henries);
                right[n + k] = -emf[k];
            }
            right.head(n - 1) = amps;
            T.row(n - 1).setZero(); // the chassis is the zero
            T(n - 1, n - 1) = 1;
            const Eigen::VectorXcd exact = T.colPivHouseholderQr().solve(right);
            const Eigen::VectorXcd volts = groundVolts(g, amps, emf, hertz);
            for (Eigen::Index k = 0; k < n - 1; ++k)
                QVERIFY2(std::abs(volts[k] - exact[k]) < 1e-6 * (1e-3 + std::abs(exact[k])), "node volts");
            for (Eigen::Index k = 0; k < m; ++k)
                QVERIFY(std::abs(branchAmps(g, static_cast<std::size_t>(k), volts, emf[k], hertz) - exact[n + k]) <
                        1e-4 * (1 + std::abs(exact[n + k])));
        }
    }
    void whatChargesTheCapacitorsComesBackByTheCentreTap() {
        const Build b = unwired();
        const WireFigures w = wired(b);
        const auto returns = returnCurrents(b, w.harness, *unwiredFigures().nominal);
        QCOMPARE(returns.size(), 12U);
        double square = 0;
        for (const Eigen::VectorXcd& i : returns) {
            QVERIFY(std::abs(i.sum()) < 1e-9);
            for (Eigen::Index k = 0; k < i.size(); ++k)
                if (w.harness.points[static_cast<std::size_t>(k)].what == Returns::Winding) square += std::norm(i[k]);
        }
        // The same from the rectifier's own waveform: its RMS without its mean, less what flows on through the choke.
        const plan::Cycle& c = unwiredFigures().nominal->cycle;
        double mean = 0, all = 0;
        for (const double i : c.rectifierAmps) mean += i / static_cast<double>(c.rectifierAmps.size());
        for (const double i : c.rectifierAmps)
            all += (i - mean) * (i - mean) / static_cast<double>(c.rectifierAmps.size());
        QVERIFY2(std::abs(std::sqrt(square) / std::sqrt(all) - 1) < 0.05,
                 qPrintable(QString("%1 %2").arg(std::sqrt(square)).arg(std::sqrt(all))));
    }

    void aResistorsNoiseIsJohnsonsAndItsWeightingTheStandards() {
        // IEC 61672-1 table: A weighting at 100 Hz, 1 kHz, 10 kHz: -19.1, 0, -2.5 dB.
        for (const auto& [hertz, db] : {std::pair{100.0, -19.1}, {1000.0, 0.0}, {10000.0, -2.5}, {31.623, -39.4}})
            QVERIFY(std::abs(20 * std::log10(weightA(hertz)) - db) < 0.1);
    }
    void aTriodeStagesNoiseIsItsValvesAndItsPlateResistors() {
        // One common cathode stage of the demo alone: noise at the plate by hand from its gain, gm and plate load.
        Build b = unwired();
        b.channels.resize(1);
        b.channels[0].stages.resize(1);
        b.loose.clear();
        const plan::Figures f = plan::solveFigures(b, catalogue);
        QVERIFY(f.nominal);
        const Harness h = harnessOf(b, catalogue);
        const auto reach = reachesOf(b, catalogue, h, *f.nominal);
        QVERIFY(reach.size() == 1 && reach[0].harmonics.size() == 12);
        const auto at = reach[0].harmonics[11]; // 600 Hz: the bypass holds the cathode, but for its foot
        const double gain = std::abs(at.input);
        const plan::ValvePoint& p = f.nominal->channels[0].valves[0];
        const circuit::TriodeLaw law = std::get<circuit::TriodeLaw>(catalogue.valve("ECC85")->section(1).law);
        const double v[2] = {p.grid - p.cathode, p.plate - p.cathode};
        double i[2], g[4];
        circuit::evaluate(law, 1, v, i, g);
        const double gm = g[2], ra = 1 / g[3], load = 270e3, foot = 100;
        const double byHand = gm * ra / (ra + load + foot * (1 + gm * ra)) * load;
        QVERIFY2(std::abs(gain / byHand - 1) < 0.01, qPrintable(QString("%1 %2").arg(gain).arg(byHand)));
        // Volts at the plate: valve and foot amplified, the plate resistor into its own parallel with what the valve
        // shows.
        const double k = 1.380649e-23, seen = ra + foot * (1 + gm * ra), parallel = load * seen / (load + seen);
        const double white = 4 * k * 290 * 2.5 / gm * gain * gain + 4 * k * 310 * foot * gain * gain +
                             4 * k * 310 / load * parallel * parallel;
        const double flicker = 4 * k * 290 * 2.5 / gm * gain * gain * flickerCorner * std::log(1000.0);
        const double total = std::sqrt(white * (20000 - 20) + flicker);
        QVERIFY2(std::abs(reach[0].noise / total - 1) < 0.06,
                 qPrintable(QString("%1 %2").arg(reach[0].noise).arg(total)));
        // Ripple at its supply node reaches the plate by the divider of valve and resistor.
        const double share = seen / (seen + load);
        QVERIFY(std::abs(std::abs(at.nodes[static_cast<std::size_t>(b.channels[0].stages[0].node) - 1]) / share - 1) <
                0.02);
    }
    void withNoRippleAndNoFieldNoiseIsLeft() {
        Build b = unwired();
        for (PlacedPart& p : b.chassis.parts) p.voltAmperes = 0;
        b.transformer.heaters[0].volts = 6.3;
        plan::Figures f = unwiredFigures();
        for (plan::NodeFigures& n : f.nominal->nodes) std::fill(n.ripple.begin(), n.ripple.end(), 0.0);
        std::fill(f.nominal->biasRailRipple.begin(), f.nominal->biasRailRipple.end(), 0.0);
        std::fill(f.nominal->biasReservoirRipple.begin(), f.nominal->biasReservoirRipple.end(), 0.0);
        const auto c = wireFigures(b, catalogue, f).hum.channels[0];
        QVERIFY(c.by[0] == 0 && c.by[2] == 0 && c.by[3] == 0 && c.by[4] > 1e-7);
    }
};

EMBER_TESTS(TestInduction)
#include "test_induction.moc"
