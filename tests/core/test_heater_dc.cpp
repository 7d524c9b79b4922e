// Direct current for heaters: rectifier, reservoir, regulator and its heat, against hand cases and another simulator.

#include "../support/heated.h"
#include "../support/inspected.h"
#include "../support/shipped.h"
#include "../support/spice.h"
#include "../support/suite.h"

#include "core/chassis/bodies.h"
#include "core/circuit/netlist_text.h"
#include "core/circuit/periodic.h"
#include "core/plan/heater_feed.h"
#include "core/plan/regulator_heat.h"

#include <QTest>

#include <cmath>
#include <numbers>

using namespace ember;

namespace {

using std::numbers::pi;
using std::numbers::sqrt2;

/// A feed by itself: a mains transformer of little resistance, one heater winding, a resistor as its heaters.
struct Alone {
    circuit::Netlist n;
    plan::HeaterFeed feed;
    circuit::Node primary = circuit::ground;
    circuit::DeviceId source = -1, iron = -1;
    circuit::System sys;
    /// From the mains' crest on, at which the iron's flux begins without an offset that would take seconds to go.
    Alone(const HeaterWinding& w, double loadOhms, double mains = 230) {
        PowerTransformer t;
        t.heaters = {w};
        primary = n.node("primary");
        source = n.add(circuit::VoltageSource{primary, circuit::ground, {0, mains * sqrt2, 50, pi / 2}});
        circuit::Transformer core;
        core.inductance = 12;
        core.windings.push_back({primary, circuit::ground, 230, 8});
        feed = plan::addHeaterFeed(n, core, t, 0, catalogue);
        iron = n.add(core);
        n.add(circuit::Resistor{feed.out, circuit::ground, loadOhms});
        sys = circuit::assemble(n);
    }
    [[nodiscard]] circuit::Recording solve(std::vector<circuit::Probe> probes) const {
        circuit::PeriodicOptions o;
        o.steps = 192, o.levels = 6, o.residual = 1e-8;
        Eigen::VectorXd guess = Eigen::VectorXd::Zero(sys.states());
        if (feed.capacitor >= 0) guess[sys.stateOf[static_cast<std::size_t>(feed.capacitor)]] = 8;
        circuit::Stepper stepper = circuit::periodicStepper(sys, o);
        circuit::Recording r(std::move(probes));
        const auto found = circuit::periodicSteadyState(stepper, guess, o, &r);
        if (!found) throw std::runtime_error(found.problem().sentence);
        return r;
    }
};

} // namespace

class TestHeaterDc : public QObject {
    Q_OBJECT
  private Q_SLOTS:

    /// In regulation it holds its volts but for its output resistance; below its dropout it follows its input; shorted
    /// it gives its limit; backwards nothing.
    void aRegulatorRegulatesDropsOutAndLimits() {
        const circuit::RegulatorLaw law{6.3, 0.01, 1.3, 0.25, 3};
        const auto amps = [&](double input, double output) {
            const double v[2] = {input - output, -output};
            double i[2], g[4];
            circuit::evaluate(law, 1, v, i, g);
            // Slopes against differences.
            for (int port : {0, 1}) {
                double moved[2] = {v[0], v[1]}, j[2], unused[4];
                moved[port] += 1e-7;
                circuit::evaluate(law, 1, moved, j, unused);
                if (std::abs((j[0] - i[0]) / 1e-7 - g[port]) > 1e-3 * (1 + std::abs(g[port]))) return -1.0;
            }
            return i[0];
        };
        QVERIFY(std::abs(amps(12, 6.29) - 1) < 0.01);     // 10 mV low is 1 A
        QVERIFY(std::abs(amps(7.6, 6.0) - 1.2) < 0.01);   // 1.6 V from input to output: (1.6 - 1.3) / 0.25
        QVERIFY(std::abs(amps(12, 0) - 3) < 0.02);        // shorted
        QVERIFY(amps(12, 7) < 0.01 && amps(5, 6) < 0.01); // too high already; backwards
    }
    void rectifiedAndRegulatedVoltsAreTheRegulators() {
        for (const auto kind : {HeaterRegulator::Linear, HeaterRegulator::LowDropout}) {
            const plan::Steady s = steadyOf(regulated(kind), 230);
            QVERIFY2(std::abs(small(s).volts - 6.3) < 0.02, qPrintable(QString::number(small(s).volts)));
            const plan::HeaterFeedFigures& f = s.heaterFeeds.at("h3");
            QVERIFY(f.headroom > 0 && f.ripplePp < 0.01);
            // Heat: the mean across it times what the heaters draw.
            QVERIFY(std::abs(f.regulatorWatts / ((f.reservoir - f.out) * 0.87) - 1) < 0.02);
            // A capacitor-fed winding carries well more than the direct current.
            QVERIFY2(f.windingAmps > 1.4 * 0.87 && f.windingAmps < 2.6 * 0.87,
                     qPrintable(QString::number(f.windingAmps)));
        }
        Build b = regulated(HeaterRegulator::CurrentSource, 12);
        third(b).dc.amps = 0.87;
        QVERIFY(std::abs(small(steadyOf(b, 230)).volts - 6.3) < 0.1);
    }
    /// The reservoir falls by I t / C between the crests: the instant at which the next half wave meets it, by
    /// bisection.
    void theLowestInstantOfTheReservoirIsThatOfAHandCase() {
        HeaterWinding w;
        w.id = "h", w.volts = 9, w.resistance = 0.02, w.feeds = "signal";
        w.rectifier = HeaterRectifier::Bridge;
        w.dc.reservoir = 4.7e-3, w.dc.reservoirEsr = 0;
        w.dc.regulator = HeaterRegulator::CurrentSource;
        w.dc.amps = 1, w.dc.dropout = 0.5;
        PowerTransformer iron;
        const Alone alone(w, 3);
        const auto r = alone.solve(
            {circuit::nodeVolts(alone.sys, alone.feed.reservoir), circuit::nodeVolts(alone.sys, alone.feed.out)});
        QVERIFY(std::abs(r.mean(1) - 3) < 0.01);
        // From the crest that the reservoir reaches on; two diodes begin to conduct at some 0.65 V each.
        const double top = r.most(0), drops = 1.3;
        double from = 0.005, to = 0.015; // of the next half wave's rise, counted from the crest
        for (int k = 0; k < 60; ++k) {
            const double t = 0.5 * (from + to), wave = 9 * sqrt2 * std::abs(std::cos(2 * pi * 50 * t)) - drops;
            (wave > top - t / 4.7e-3 * 1 ? to : from) = t;
        }
        const double least = top - 0.5 * (from + to) / 4.7e-3;
        // In the middle between two crests it falls by I / C.
        const auto middle = r.evenly(0, 0.0005, 0.0095, 100);
        double steepest = 0;
        for (std::size_t k = 1; k < middle.size(); ++k)
            steepest = std::max(steepest, (middle[k - 1] - middle[k]) / (0.009 / 100));
        QVERIFY2(std::abs(steepest * 4.7e-3 - 1) < 0.02, qPrintable(QString::number(steepest * 4.7e-3)));
        // It discharges later than from the crest on, because the charge goes on for a while.
        QVERIFY2(std::abs((top - r.least(0)) / (top - least) - 1) < 0.08,
                 qPrintable(QString("%1 %2").arg(top - r.least(0)).arg(top - least)));
    }
    void aDirectCurrentSupplyAgreesWithAnotherSimulator_data() {
        QTest::addColumn<int>("rectifier");
        QTest::addColumn<int>("regulator");
        QTest::addColumn<QString>("diode");
        QTest::newRow("bridge, silicon, filter")
            << int(HeaterRectifier::Bridge) << int(HeaterRegulator::None) << "silicon 3 A";
        QTest::newRow("full wave, Schottky, low dropout")
            << int(HeaterRectifier::FullWave) << int(HeaterRegulator::LowDropout) << "Schottky 3 A";
        QTest::newRow("bridge, Schottky, linear, at its limit")
            << int(HeaterRectifier::Bridge) << int(HeaterRegulator::Linear) << "Schottky 3 A";
    }
    void aDirectCurrentSupplyAgreesWithAnotherSimulator() {
        QFETCH(int, rectifier);
        QFETCH(int, regulator);
        QFETCH(QString, diode);
        HeaterWinding w;
        w.id = "h", w.resistance = 0.15, w.feeds = "signal";
        w.rectifier = static_cast<HeaterRectifier>(rectifier);
        w.volts = w.rectifier == HeaterRectifier::Bridge ? 8 : 16;
        w.dc.diode = diode.toStdString();
        w.dc.regulator = static_cast<HeaterRegulator>(regulator);
        w.dc.dropout = w.dc.regulator == HeaterRegulator::LowDropout ? 0.5 : 2;
        if (w.dc.regulator == HeaterRegulator::None) w.dc.series = 0.5, w.dc.second = 4.7e-3;
        if (w.dc.regulator == HeaterRegulator::Linear) w.dc.reservoir = 2.2e-3; // it falls out in each cycle
        const Alone alone(w, 6.3);
        std::vector<circuit::Probe> probes{circuit::nodeVolts(alone.sys, alone.feed.out),
                                           circuit::nodeVolts(alone.sys, alone.feed.reservoir),
                                           circuit::branchAmps(alone.sys, alone.source)};
        const auto r = alone.solve(probes);
        const QString out = QString::fromStdString(circuit::nodeText(alone.n, alone.feed.out)),
                      reservoir = QString::fromStdString(circuit::nodeText(alone.n, alone.feed.reservoir));
        const int settled = w.dc.regulator == HeaterRegulator::None ? 800 : 240; // [ms]
        std::string shunts; // where both diodes block, nothing but capacitance says what an end's volts are
        for (circuit::Node k = 1; k < alone.n.nodeCount(); ++k)
            shunts += "Cs" + std::to_string(k) + " " + circuit::nodeText(alone.n, k) + " 0 1n\n";
        const auto printed = spicePrint(
            "* heaters\n" + circuit::elementsText(alone.n) + shunts +
            QString(".options reltol=1e-5 method=gear\n.tran 20u %3m %4m 20u uic\n"
                    ".meas tran mean_out avg v(%1) from=%4m to=%3m\n.meas tran pp_out pp v(%1) from=%4m to=%3m\n"
                    ".meas tran mean_res avg v(%2) from=%4m to=%3m\n.meas tran pp_res pp v(%2) from=%4m to=%3m\n.end\n")
                .arg(out, reservoir)
                .arg(settled)
                .arg(settled - 20)
                .toStdString());
        if (!printed) QSKIP("ngspice is not installed");
        const auto measured = [&](const char* name) {
            const auto m = QRegularExpression(QString("%1\\s*=\\s*([-+0-9.eE]+)").arg(name)).match(*printed);
            return m.hasMatch() ? m.captured(1).toDouble() : NAN;
        };
        const auto near = [&](const char* what, double own, double other, double within) {
            QVERIFY2(std::abs(own - other) < within,
                     qPrintable(QString("%1: %2, other %3").arg(what).arg(own).arg(other)));
        };
        near("mean", r.mean(0), measured("mean_out"), 0.005 * r.mean(0));
        near("reservoir", r.mean(1), measured("mean_res"), 0.005 * r.mean(1));
        near("its ripple", r.most(1) - r.least(1), measured("pp_res"), 0.02 * (r.most(1) - r.least(1)));
        near("ripple", r.most(0) - r.least(0), measured("pp_out"), 0.02 * (r.most(0) - r.least(0)) + 1e-3);
    }
    /// What the mains give is what the heaters take and what copper, diodes, capacitor and regulator lose; and the
    /// plan's figures of the same supply say the same of its board and its regulator.
    void nothingIsLostBetweenWindingAndHeaters() {
        Build b = regulated(HeaterRegulator::Linear, 9);
        b.mains.crest = sqrt2; // as the supply beside it has
        const plan::Steady s = steadyOf(b, 230);
        const plan::HeaterFeedFigures& f = s.heaterFeeds.at("h3");
        HeaterWinding w = b.transformer.heaters.back();
        const double load = small(s).volts / small(s).amps;
        const Alone alone(w, load, s.primaryVolts);
        const auto diode = [&](std::size_t k) { return alone.feed.diodes[k]; };
        std::vector<circuit::Probe> probes{circuit::nodeVolts(alone.sys, alone.primary),
                                           circuit::branchAmps(alone.sys, alone.source),
                                           circuit::branchAmps(alone.sys, alone.iron, 0),
                                           circuit::branchAmps(alone.sys, alone.iron, 1),
                                           circuit::nodeVolts(alone.sys, alone.feed.reservoir),
                                           circuit::nodeVolts(alone.sys, alone.feed.out),
                                           circuit::portAmps(alone.sys, alone.feed.regulator),
                                           circuit::capacitorAmps(alone.sys, alone.feed.capacitor, w.dc.reservoir)};
        for (std::size_t k = 0; k < 4; ++k) {
            probes.push_back(circuit::portVolts(alone.sys, diode(k)));
            probes.push_back(circuit::portAmps(alone.sys, diode(k)));
        }
        const auto r = alone.solve(probes);
        const double given = -r.meanProduct(0, 1),
                     copper = 8 * std::pow(r.rms(2), 2) + w.resistance * std::pow(r.rms(3), 2),
                     heaters = r.meanProduct(5, 5) / load, regulator = r.meanProduct(4, 6) - r.meanProduct(5, 6);
        double board = w.dc.reservoirEsr * std::pow(r.rms(7), 2);
        for (std::size_t k = 0; k < 4; ++k)
            board += r.meanProduct(8 + 2 * k, 9 + 2 * k) + alone.feed.diodeOhms * std::pow(r.rms(9 + 2 * k), 2);
        QVERIFY2(std::abs((copper + heaters + regulator + board) / given - 1) < 1e-3,
                 qPrintable(QString("%1 of %2 W").arg(copper + heaters + regulator + board).arg(given)));
        // In the amplifier the high voltage's pulses flatten the crests that this supply has to itself here.
        QVERIFY2(f.regulatorWatts < regulator && f.regulatorWatts > 0.94 * regulator &&
                     std::abs(f.boardWatts / board - 1) < 0.02,
                 qPrintable(QString("%1 %2, %3 %4").arg(f.regulatorWatts).arg(regulator).arg(f.boardWatts).arg(board)));
    }

    void aSupplyThatFallsOutOfRegulationIsFoundAndMended() {
        const Build b = regulated(HeaterRegulator::Linear, 7.4);
        const auto all = inspected(b, true);
        const auto* f = findingOf(all, "heater-headroom/h3");
        QVERIFY(f);
        Build better = b;
        for (int k = 0; k < 4; ++k) {
            const auto now = inspected(better, true);
            const auto* left = findingOf(now, "heater-headroom/h3");
            if (!left || !left->fix) break;
            better = *apply(better, *left->fix);
        }
        QVERIFY(!findingOf(inspected(better, true), "heater-headroom/h3"));
        // A grounded tap behind a bridge is a short.
        Build tap = regulated(HeaterRegulator::Linear);
        third(tap).reference = HeaterReference::CentreTap;
        const auto tapped = inspected(tap, true);
        const auto* shorted = findingOf(tapped, "heater-centre-bridge/h3");
        QVERIFY(shorted && shorted->level == rules::Level::Stop);
        QVERIFY(!findingOf(inspected(*apply(tap, *shorted->fix), true), "heater-centre-bridge/h3"));
    }
    void aWindingInSeriesWithHalfOfAnotherIsAStop() {
        Build b = regulated(HeaterRegulator::LowDropout, 16);
        third(b).rectifier = HeaterRectifier::FullWave;
        QVERIFY(!findingOf(inspected(b), "heater-series-halves"));
        HeaterWinding more;
        more.id = "h4", more.volts = 2, more.amps = 3, more.feeds = "h3", more.opposed = false;
        b.transformer.heaters.push_back(more);
        const auto all = inspected(b);
        const auto* f = findingOf(all, "heater-series-halves/h3");
        QVERIFY(f && f->level == rules::Level::Stop && f->fix);
        QVERIFY(!findingOf(inspected(*apply(b, *f->fix)), "heater-series-halves"));
    }
    /// Tj = Ta + P (theta jc + cs + sa); on a board P theta ja; the finding's sink keeps it within its limit.
    void theRegulatorsHeatIsAChain() {
        HeaterDc d;
        QCOMPARE(plan::junctionOnSink(d, 4, 298), 298 + 4 * (2 + 0.5 + 6.0));
        QCOMPARE(plan::junctionOnBoard(d, 4, 298), 298 + 4 * 50.0);
        QCOMPARE(plan::sinkNeeded(d, 4, 298), 100 / 4.0 - 2.5);
        Build b = regulated(HeaterRegulator::LowDropout, 11);
        third(b).dc.mount = RegulatorMount::Board;
        const auto all = inspected(b, true);
        const auto* f = findingOf(all, "heater-regulator-heat/h3");
        QVERIFY(f && f->level == rules::Level::Stop && f->fix);
        QVERIFY(!findingOf(inspected(*apply(b, *f->fix), true), "heater-regulator-heat/h3"));
        // On the chassis it is far cooler than on the board: the plate is a large sink.
        PlacedPart board = placed("board-heater", "h3");
        board.x = 0.03, board.y = 0.05;
        b.chassis.parts.push_back(board);
        const plan::Figures figures = plan::solveFigures(b, catalogue);
        const auto w = wires::wireFigures(b, catalogue, figures);
        const wires::RegulatorHeat& heat = *w.heaters.windings[2].regulator;
        QVERIFY2(heat.chassis < heat.board - 50 && heat.chassis > b.chassis.ambient + 2.5 * heat.watts,
                 qPrintable(QString("%1 %2").arg(heat.chassis).arg(heat.board)));
    }

  private:
    static PlacedPart placed(const char* body, const char* of) {
        PlacedPart p = *chassis::makePart(body);
        p.id = "p-" + std::string(of), p.of = of;
        return p;
    }
};

EMBER_TESTS(TestHeaterDc)
#include "test_heater_dc.moc"
