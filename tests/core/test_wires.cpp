// Wires: what is proposed joins every net; fields, returns, heaters and noise against answers found in other ways.

#include "../support/demo.h"
#include "../support/inspected.h"

#include "core/build/starts.h"
#include "core/plan/heater.h"
#include "core/plan/solve.h"
#include "core/quantity/weighting.h"
#include "core/wires/helps.h"

#include <QTest>

#include <cmath>
#include <map>
#include <numbers>
#include <random>
#include <set>

using namespace ember;
using namespace ember::wires;
using Complex = std::complex<double>;

namespace {

const Catalogue& catalogue = Catalogue::shipped();
constexpr double pi = std::numbers::pi;

/// The demo wired as proposed, without the mistake that it is shipped with.
Build sound() {
    Build b = demoBuild();
    b.wiring.wires.clear();
    return b;
}

const plan::Figures& plan0() {
    static const plan::Figures f = plan::solveFigures(sound(), catalogue);
    return f;
}

WireFigures wired(const Build& b) {
    return wireFigures(b, catalogue, plan0());
}

std::vector<rules::Finding> findings(const Build& b) {
    plan::Figures f = plan0();
    f.wires = std::make_shared<const WireFigures>(wired(b));
    return rules::inspect(b, catalogue, f);
}

double hum(const Build& b, std::size_t channel) {
    return wired(b).hum.channels[channel].rms;
}

std::vector<Vector> circle(const Vector& centre, const Vector& normal, double radius) {
    const Vector a = normal.unitOrthogonal(), z = normal.cross(a).normalized();
    std::vector<Vector> out;
    for (int k = 0; k <= 400; ++k)
        out.push_back(centre + radius * (std::cos(2 * pi * k / 400) * a + std::sin(2 * pi * k / 400) * z));
    return out;
}

PlacedPart& placed(Build& b, const std::string& id) {
    for (PlacedPart& p : b.chassis.parts)
        if (p.id == id) return p;
    throw std::logic_error(id);
}

} // namespace

class TestWires : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void everyNetIsJoinedAndNothingElse() {
        const Harness h = harnessOf(sound(), catalogue);
        QVERIFY(h.problems.empty());
        QVERIFY2(h.runs.size() > 50, qPrintable(QString::number(h.runs.size())));
        // Places that wires join, and those that a net has, must be the same.
        std::map<std::string, std::set<std::size_t>> places;
        std::map<std::string, std::vector<const Run*>> runs;
        for (const Terminal& t : h.terminals.list)
            if (t.net.index > 0) places[h.terminals.whole.schematic[t.net].name].insert(t.spot);
        for (const Run& r : h.runs) {
            const Terminal *from = h.terminals.find(r.wire.from), *to = h.terminals.find(r.wire.to);
            if (from && to) QVERIFY2(from->net == to->net, r.wire.id.c_str());
            runs[r.net].push_back(&r);
        }
        for (const auto& [net, spots] : places) {
            std::set<std::size_t> reached{*spots.begin()};
            for (std::size_t pass = 0; pass < spots.size(); ++pass)
                for (const Run* r : runs[net])
                    if (reached.contains(r->fromSpot) || reached.contains(r->toSpot))
                        reached.insert({r->fromSpot, r->toSpot});
            QVERIFY2(reached == spots, net.c_str());
            if (net.find("heater") == std::string::npos)
                QCOMPARE(runs[net].size(), spots.size() - 1); // a tree: no loop
        }
        for (const Run& r : h.runs) {
            const double straight = (r.path.front() - r.path.back()).norm();
            QVERIFY2(r.length >= straight + 2 * (dress + strip) - 1e-9, r.wire.id.c_str());
            QCOMPARE(r.ohms, 0.01724e-6 * r.length / r.wire.area);
        }
    }
    void heatersGoInPairsOutputValvesFirst() {
        const Harness h = harnessOf(sound(), catalogue);
        std::vector<std::string> order;
        for (const Run& r : h.runs) {
            if (r.kind != RunKind::Heater) continue;
            const Run* other = h.find(r.twistedWith);
            QVERIFY(other && other->twistedWith == r.wire.id && other->wire.pitch == r.wire.pitch &&
                    other->net != r.net);
            if (r.net == "heater h1 a") order.push_back(r.wire.to.substr(0, 2));
        }
        QCOMPARE(order.size(), 6U);
        for (std::size_t k = 0; k < order.size(); ++k) QCOMPARE(order[k] == "v2" || order[k] == "v5", k >= 4);
    }
    void wiresGoRoundWhatStandsInTheWay() {
        const Build b = sound();
        const Obstacles obstacles(b.chassis);
        for (const Run& r : harnessOf(b, catalogue).runs)
            QVERIFY2(obstacles.hit(r.path, r.fromSpot, r.toSpot).empty(), r.wire.id.c_str());
    }
    void aBuildersWireReplacesTheProposal() {
        Build b = sound();
        Wire thick;
        thick.id = "c2.-_c1.-", thick.area = 2.5e-6, thick.colour = "green";
        Wire gone;
        gone.id = "c3.-_c2.-", gone.removed = true;
        Wire own;
        own.id = "mine", own.from = "c3.-", own.to = "c1.-";
        Wire wrong;
        wrong.id = "nowhere", wrong.from = "c9.-", wrong.to = "c1.-";
        Wire crossed;
        crossed.id = "crossed", crossed.from = "c3.+", crossed.to = "c1.-";
        b.wiring.wires = {thick, gone, own, wrong, crossed};
        const Harness h = harnessOf(b, catalogue);
        QVERIFY(h.find("c2.-_c1.-") && h.find("c2.-_c1.-")->wire.area == 2.5e-6 &&
                h.find("c2.-_c1.-")->wire.colour == "green");
        QVERIFY(!h.find("c3.-_c2.-"));
        QVERIFY(h.find("mine") && h.find("mine")->kind == RunKind::Ground && h.find("mine")->own);
        QCOMPARE(h.problems.size(), 2U);
        QVERIFY(h.problems[0].sentence.find("c9.-") != std::string::npos);
        QVERIFY(h.problems[1].sentence.find("keeps apart") != std::string::npos);
    }

    void fluxThroughALoopIsTheFieldTimesItsArea() {
        const chassis::Dipole d{0, {0.02, -0.01, 0.03}, Vector(1, 2, -1).normalized(), 0.4, 0.005};
        for (const Vector& at : {Vector(0.2, 0.1, 0), Vector(-0.1, 0.15, 0.1), Vector(0.05, -0.2, -0.05)}) {
            const Vector normal = Vector(0.3, -1, 0.5).normalized();
            const double radius = 0.002;
            const FieldSource s{"", false, {d}, {}, {}, {}};
            const double flux = linkage(s, circle(at, normal, radius));
            QVERIFY2(std::abs(flux / (pi * radius * radius * fieldAt(d, at).dot(normal)) - 1) < 0.002, "curl A = B");
        }
    }
    void aDipolesFluxThroughACoaxialLoopHasItsClosedForm() {
        // mu0 m r^2 / (2 (r^2 + z^2)^1.5) (Jackson, Classical Electrodynamics, 5.6).
        const chassis::Dipole d{0, Vector::Zero(), Vector::UnitZ(), 1.7, 0.005};
        const double r = 0.06, z = 0.09;
        const double flux = linkage({"", false, {d}, {}, {}, {}}, circle({0, 0, z}, Vector::UnitZ(), r));
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
        const Build b = sound();
        const WireFigures w = wired(b);
        const auto returns = returnCurrents(b, w.harness, *plan0().nominal);
        QCOMPARE(returns.size(), 12U);
        double square = 0;
        for (const Eigen::VectorXcd& i : returns) {
            QVERIFY(std::abs(i.sum()) < 1e-9);
            for (Eigen::Index k = 0; k < i.size(); ++k)
                if (w.harness.points[static_cast<std::size_t>(k)].what == Returns::Winding) square += std::norm(i[k]);
        }
        // The same from the rectifier's own waveform: its RMS without its mean, less what flows on through the choke.
        const plan::Cycle& c = plan0().nominal->cycle;
        double mean = 0, all = 0;
        for (const double i : c.rectifierAmps) mean += i / static_cast<double>(c.rectifierAmps.size());
        for (const double i : c.rectifierAmps)
            all += (i - mean) * (i - mean) / static_cast<double>(c.rectifierAmps.size());
        QVERIFY2(std::abs(std::sqrt(square) / std::sqrt(all) - 1) < 0.05,
                 qPrintable(QString("%1 %2").arg(std::sqrt(square)).arg(std::sqrt(all))));
    }

    void chargingPulsesInTheInputsReturnAreFoundAndCured() {
        Build b = sound();
        Wire gone, wrong;
        gone.id = "pt1.centre_c1.-", gone.removed = true;
        wrong.id = "centre-tap", wrong.from = "pt1.centre", wrong.to = "r12.2"; // the lug of the first stage
        b.wiring.wires = {gone, wrong};
        const auto all = findings(b);
        const auto* f = findingOf(all, "charging-return");
        QVERIFY(f && f->fix && f->level == rules::Level::Warn);
        const auto mended = apply(b, *f->fix);
        QVERIFY(mended && !findingOf(findings(*mended), "charging-return"));
        QVERIFY2(hum(*mended, 0) < 0.1 * hum(b, 0), qPrintable(QString::number(hum(b, 0))));
    }
    void theDemoIsShippedWithThisMistake() {
        const Build b = demoBuild();
        const auto all = findings(b);
        const auto* f = findingOf(all, "charging-return");
        QVERIFY(f && f->fix);
        const auto mended = apply(b, *f->fix);
        QVERIFY(mended && hum(*mended, 0) < 0.2 * hum(b, 0));
    }
    void aStraightHeaterPairBesideAGridIsFoundAndCured() {
        // In an amplifier that is quiet otherwise.
        Build b = sound();
        b.bias.reservoir.capacitance = b.bias.second.capacitance = 470e-6;
        b.supply.sections[4].capacitance = 100e-6;
        placed(b, "p-pt1").angle = 90;
        const plan::Figures quiet = plan::solveFigures(b, catalogue);
        const Harness h = harnessOf(b, catalogue);
        // The pair of all six valves is laid along the right channel's grid lead, 3 mm from it.
        const auto loops = gridLoops(b, catalogue, h, 1);
        QVERIFY(loops[0].valve == "V5/1" && loops[0].path.size() == 3);
        for (const Run& r : h.runs) {
            if (r.kind != RunKind::Heater || !r.wire.id.starts_with("pt1.h1")) continue;
            Wire w;
            w.id = r.wire.id, w.straight = true;
            for (std::size_t k = 0; k < 2; ++k) {
                Corner c;
                c.x = loops[0].path[k].x() + 0.003, c.y = loops[0].path[k].y(), c.z = loops[0].path[k].z();
                w.by.push_back(c);
            }
            b.wiring.wires.push_back(w);
        }
        const auto all = findings(b);
        const auto* f = findingOf(all, "heater-straight");
        QVERIFY(f && f->fix);
        const auto mended = apply(b, *f->fix);
        QVERIFY(mended);
        const auto before = wireFigures(b, catalogue, quiet).hum.channels[1],
                   after = wireFigures(*mended, catalogue, quiet).hum.channels[1];
        QVERIFY2(after.rms < 0.5 * before.rms, qPrintable(QString("%1 %2").arg(before.rms).arg(after.rms)));
    }
    void twoBondsInAStrayFieldAreFoundAndCured() {
        // Jacks beside the power transformer that touch the panel: a loop round its field.
        Build b = sound();
        b.wiring.insulatedJacks = false;
        for (const char* id : {"p-in1", "p-in2"})
            placed(b, id).face = Face::Right, placed(b, id).x = id[4] == '1' ? 0.14 : 0.2;
        const auto all = findings(b);
        const auto* f = findingOf(all, "bond/several");
        QVERIFY(f && f->fix);
        const auto w = wired(b);
        QVERIFY(w.hum.bonds.size() == 3 && w.hum.loops.size() == 2 && w.hum.loops[0].area > 0);
        const auto mended = apply(b, *f->fix);
        QVERIFY(mended && !findingOf(findings(*mended), "bond/several"));
        QVERIFY(wired(*mended).hum.loops.empty());
        double worst = 0, best = 0;
        for (const GroundLoop& l : w.hum.loops) worst = std::max(worst, l.induced);
        QVERIFY(worst > 1e-6 && best == 0);
    }
    void withoutABondOrAReturnThereIsAStop() {
        Build b = sound();
        b.wiring.bond = Bond::None;
        QVERIFY(findingOf(findings(b), "bond/none")->level == rules::Level::Stop);
        b = sound();
        Wire gone;
        gone.id = "c3.-_c2.-", gone.removed = true;
        b.wiring.wires = {gone};
        QVERIFY(findingOf(findings(b), "unconnected/"));
        gone.id = "inlet.E_earth.bolt";
        b.wiring.wires = {gone};
        QVERIFY(findingOf(findings(b), "earth/none")->level == rules::Level::Stop);
    }

    void aHeaterBehindItsWireHasTheVoltsOfADivider() {
        // The rectifier alone on its winding: E through copper and two wires into a filament, by bisection.
        const Build b = sound();
        const WireFigures w = wired(b);
        const HeatedWinding* h2 = nullptr;
        for (const HeatedWinding& x : w.heaters.windings)
            if (x.id == "h2") h2 = &x;
        QVERIFY(h2 && h2->sockets.size() == 1);
        double wires = 0;
        for (const Run& r : w.harness.runs)
            if (r.heater == "h2") wires += r.ohms + 2 * jointOhms;
        const RectifierType& type = *catalogue.rectifier("5V4G");
        const double copper2 = b.transformer.heaters[1].resistance,
                     emf = h2->nominal.volts + h2->nominal.amps * copper2;
        double low = 1, high = 6;
        for (int k = 0; k < 80; ++k) {
            const double v = 0.5 * (low + high);
            // Rated ohms as the power 0.46 of the volts.
            const double ohms = type.heater.volts / type.heater.amps * std::pow(v / type.heater.volts, 1.2 / 2.6);
            (v + v / ohms * (wires + copper2) > emf ? high : low) = v;
        }
        QVERIFY2(std::abs(h2->sockets[0].nominal - low) < 1e-4,
                 qPrintable(QString("%1 %2").arg(h2->sockets[0].nominal).arg(low)));
        QVERIFY(h2->sockets[0].low < h2->sockets[0].nominal && h2->sockets[0].nominal < h2->sockets[0].high);
        QVERIFY(h2->coldAmps > 4 * h2->nominal.amps && h2->coldAmps < 8 * h2->nominal.amps);
    }
    void theFurtherAlongTheHeatersTheLess() {
        const WireFigures w = wired(sound());
        const auto& sockets = w.heaters.windings[0].sockets;
        QCOMPARE(sockets.size(), 6U);
        for (std::size_t k = 1; k < sockets.size(); ++k) QVERIFY(sockets[k].nominal < sockets[k - 1].nominal);
        // Watts: what the winding gives is what the heaters take and the wires lose.
        double taken = 0;
        for (const SocketVolts& s : sockets) {
            const ValveType* type = catalogue.valve(s.valve == "v2" || s.valve == "v5" ? "ECC85" : "EL84");
            taken += s.nominal * type->heater.amps * std::pow(s.nominal / 6.3, 1 - 1.2 / 2.6);
        }
        for (const Run& r : w.harness.runs)
            if (r.heater == "h1") taken += r.amps * r.amps * (r.ohms + 2 * jointOhms);
        QVERIFY(std::abs(taken / (w.heaters.windings[0].nominal.volts * w.heaters.windings[0].nominal.amps) - 1) <
                1e-4);
    }
    void thinHeaterWireIsAFindingThatThickerWireMends() {
        Build b = sound();
        for (const Run& r : harnessOf(b, catalogue).runs)
            if (r.kind == RunKind::Heater) {
                Wire w;
                w.id = r.wire.id, w.area = 0.22e-6;
                b.wiring.wires.push_back(w);
            }
        const auto all = findings(b);
        const auto* f = findingOf(all, "heater-drop/h1");
        QVERIFY(f && f->fix);
        const auto mended = apply(b, *f->fix);
        QVERIFY(mended && !findingOf(findings(*mended), "heater-drop/h1"));
    }
    void aFloatingHeaterWindingIsAStop() {
        Build b = sound();
        b.transformer.heaters[0].reference = HeaterReference::Floating;
        const auto all = findings(b);
        const auto* f = findingOf(all, "heater-floating/h1");
        QVERIFY(f && f->level == rules::Level::Stop && f->fix);
        QVERIFY(std::isnan(wired(b).heaters.windings[0].sockets[0].heaterCathode));
    }

    void aResistorsNoiseIsJohnsonsAndItsWeightingTheStandards() {
        // IEC 61672-1 table: A weighting at 100 Hz, 1 kHz, 10 kHz: -19.1, 0, -2.5 dB.
        for (const auto& [hertz, db] : {std::pair{100.0, -19.1}, {1000.0, 0.0}, {10000.0, -2.5}, {31.623, -39.4}})
            QVERIFY(std::abs(20 * std::log10(weightA(hertz)) - db) < 0.1);
    }
    void aTriodeStagesNoiseIsItsValvesAndItsPlateResistors() {
        // One common cathode stage of the demo alone: noise at the plate by hand from its gain, gm and plate load.
        Build b = sound();
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
        Build b = sound();
        for (PlacedPart& p : b.chassis.parts) p.voltAmperes = 0;
        b.transformer.heaters[0].volts = 6.3;
        plan::Figures f = plan0();
        for (plan::NodeFigures& n : f.nominal->nodes) std::fill(n.ripple.begin(), n.ripple.end(), 0.0);
        std::fill(f.nominal->biasRailRipple.begin(), f.nominal->biasRailRipple.end(), 0.0);
        std::fill(f.nominal->biasReservoirRipple.begin(), f.nominal->biasReservoirRipple.end(), 0.0);
        const auto c = wireFigures(b, catalogue, f).hum.channels[0];
        QVERIFY(c.by[0] == 0 && c.by[2] == 0 && c.by[3] == 0 && c.by[4] > 1e-7);
    }
    void everySourceIsInTheSumAndHelpsHelp() {
        const Build b = demoBuild();
        plan::Figures f = plan0();
        const auto helps = whatHelps(b, catalogue, f);
        QVERIFY(!helps.empty() && helps.size() <= 3);
        for (const Help& h : helps) {
            const auto changed = apply(b, h.edit);
            QVERIFY(changed);
            const auto worst = [&](const Build& x) { return std::max(hum(x, 0), hum(x, 1)); };
            if (h.edit.name.find("F") == std::string::npos) // one that leaves the supply as it is
                QVERIFY(std::abs(20 * std::log10(worst(b) / worst(*changed)) - h.decibels) < 0.01);
        }
        for (const ChannelHum& c : wired(b).hum.channels)
            for (const HumLine& l : c.lines) QVERIFY(l.least <= l.rms * (1 + 1e-9) && l.rms <= l.most * (1 + 1e-9));
    }
    void startsWithoutALayoutHaveHeatersAndHumButNoWires() {
        for (const Start& s : starts()) {
            const plan::Figures f = plan::solveFigures(s.build, catalogue);
            const WireFigures w = wireFigures(s.build, catalogue, f);
            QVERIFY2(w.harness.runs.empty() && w.harness.problems.empty(), s.id.c_str());
            if (!f.nominal) continue;
            for (const HeatedWinding& x : w.heaters.windings)
                for (const SocketVolts& v : x.sockets) QVERIFY2(std::abs(v.nominal / v.rated - 1) < 0.12, s.id.c_str());
            if (s.build.bottles.empty()) continue;
            for (const ChannelHum& c : w.hum.channels)
                QVERIFY2(std::isfinite(c.rms) && c.rms > 0, (s.id + " " + std::to_string(c.rms)).c_str());
        }
    }
};

QTEST_GUILESS_MAIN(TestWires)
#include "test_wires.moc"
