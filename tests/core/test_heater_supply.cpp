// What stands between a heater winding and its heaters: windings in series, resistors, strings, direct current.

#include "../support/inspected.h"
#include "../support/shipped.h"
#include "../support/spice.h"
#include "../support/suite.h"
#include "../support/wired.h"

#include "core/chassis/bodies.h"
#include "core/circuit/netlist_text.h"
#include "core/circuit/periodic.h"
#include "core/plan/heater_feed.h"
#include "core/plan/regulator_heat.h"
#include "core/plan/steady.h"
#include "core/wires/heater_hum.h"

#include <QTest>

#include <cmath>
#include <numbers>

using namespace ember;

namespace {

using std::numbers::pi;
using std::numbers::sqrt2;

plan::Steady steadyOf(const Build& b, double mains) {
    plan::Conditions c;
    c.mainsVolts = mains;
    plan::SteadyOptions o;
    o.cycle = true;
    auto s = plan::solveSteady(b, catalogue, c, o);
    if (!s) throw std::runtime_error(s.problem().sentence);
    return *s;
}

/// The demo with the small valves on a winding of their own.
Build ownWinding(double volts, double amps = 3) {
    Build b = unwired();
    HeaterWinding w;
    w.id = "h3", w.volts = volts, w.resistance = 0.1, w.amps = amps, w.feeds = "signal";
    w.reference = HeaterReference::OneSide;
    b.transformer.heaters.push_back(w);
    for (Valve& v : b.bottles)
        if (v.id == "v2" || v.id == "v5") v.heater = "h3";
    return b;
}
HeaterWinding& third(Build& b) {
    return b.transformer.heaters.back();
}
Build regulated(HeaterRegulator kind, double volts = 8.5) {
    Build b = ownWinding(volts);
    HeaterWinding& w = third(b);
    w.rectifier = HeaterRectifier::Bridge;
    w.dc.regulator = kind;
    w.dc.dropout = kind == HeaterRegulator::LowDropout ? 0.5 : 2;
    return b;
}
const plan::HeaterFigures& small(const plan::Steady& s) {
    for (const plan::HeaterFigures& h : s.heaters)
        if (h.winding == "h3") return h;
    throw std::runtime_error("h3");
}

/// A feed by itself: a mains transformer of little resistance, one heater winding, a resistor as its heaters.
struct Alone {
    circuit::Netlist n;
    plan::HeaterFeed feed;
    circuit::DeviceId source = -1, iron = -1;
    circuit::System sys;
    /// From the mains' crest on, at which the iron's flux begins without an offset that would take seconds to go.
    Alone(const HeaterWinding& w, double loadOhms, double mains = 230) {
        PowerTransformer t;
        t.heaters = {w};
        const circuit::Node primary = n.node("primary");
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

class TestHeaterSupply : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    /// Two heaters of 0.435 A through a resistor in each lead: R = (V - Vh) / 2 I.
    void aResistorInEachLegTakesWhatIsTooMuch() {
        Build b = ownWinding(7.2);
        const plan::Steady high = steadyOf(b, 230);
        const double excess = small(high).volts - 6.3, ohms = excess / (2 * 2 * 0.435);
        QVERIFY2(excess > 0.5, qPrintable(QString::number(excess)));
        third(b).legResistance = ohms;
        const plan::Steady s = steadyOf(b, 230);
        QVERIFY2(std::abs(small(s).volts - 6.3) < 0.02, qPrintable(QString::number(small(s).volts)));
        QVERIFY(std::abs(s.heaterFeeds.at("h3").legWatts / (0.87 * 0.87 * ohms) - 1) < 0.01);
    }
    /// The finding finds that resistor by itself.
    void tooManyVoltsAreMendedByAResistorInEachLead() {
        Build b = ownWinding(7.4);
        const auto all = inspected(b);
        const auto* f = findingOf(all, "heater-volts/h3");
        QVERIFY(f && f->fix);
        const auto mended = apply(b, *f->fix);
        QVERIFY2(mended && mended->transformer.heaters.back().legResistance > 0.1, f->fix->name.c_str());
        const auto now = inspected(*mended);
        const auto* left = findingOf(now, "heater-volts/h3");
        QVERIFY2(!left, left ? (f->fix->name + ": " + left->title + left->text).c_str() : "");
        QVERIFY(!findingOf(inspected(*mended), "heater-leg-watts"));
    }

    /// Without load the volts of two windings add or are taken off; loaded, both carry the same current.
    void aWindingAgainstAnotherIsTakenOffAndTheWrongWayAdded() {
        Build b = ownWinding(9);
        HeaterWinding buck;
        buck.id = "h4", buck.volts = 2.4, buck.resistance = 0.05, buck.amps = 2, buck.feeds = "h3";
        b.transformer.heaters.push_back(buck);
        for (Valve& v : b.bottles) v.heater.clear(); // nothing hangs on it
        plan::Steady s = steadyOf(b, 230);
        const double share = s.primaryVolts / 230;
        QVERIFY(std::abs(s.heaterFeeds.at("h3").out / ((9 - 2.4) * share) - 1) < 0.02);
        b.transformer.heaters.back().opposed = false;
        s = steadyOf(b, 230);
        QVERIFY(std::abs(s.heaterFeeds.at("h3").out / ((9 + 2.4) * share) - 1) < 0.02);
        b.transformer.heaters.back().opposed = true;
        for (Valve& v : b.bottles)
            if (v.id == "v2" || v.id == "v5") v.heater = "h3";
        s = steadyOf(b, 230);
        const double drop = small(s).amps * 0.15; // both windings' copper
        QVERIFY2(std::abs(small(s).volts - ((9 - 2.4) * s.primaryVolts / 230 - drop)) < 0.12,
                 qPrintable(QString::number(small(s).volts)));
        const plan::Figures f = plan::solveFigures(b, catalogue);
        const wires::WireFigures w = wires::wireFigures(b, catalogue, f);
        QVERIFY(w.heaters.windings[3].partOfAnother);
        QVERIFY(std::abs(w.heaters.windings[3].nominal.amps / w.heaters.windings[2].nominal.amps - 1) < 0.01);
    }

    /// Two heaters of 6.3 V on 12.6 V: the same current through both; unlike ones share by their hot resistance.
    void heatersInAStringCarryTheSameCurrent() {
        Build b = ownWinding(13.1);
        for (Valve& v : b.bottles)
            if (v.heater == "h3") v.heaterString = "s1";
        const plan::Steady s = steadyOf(b, 230);
        std::vector<plan::HeaterFigures> string;
        for (const auto& h : s.heaters)
            if (h.string == "s1") string.push_back(h);
        QCOMPARE(string.size(), 2U);
        QVERIFY(std::abs(string[0].volts - string[1].volts) < 1e-9 && std::abs(string[0].volts - 6.4) < 0.25);
        QVERIFY(std::abs(s.heaterFeeds.at("h3").windingAmps / string[0].amps - 1) < 1e-3);
        // One of them another type, of more amperes: it is colder than it is made for, the other hotter.
        for (Valve& v : b.bottles)
            if (v.id == "v5") v.type = "EL84";
        const plan::Steady unlike = steadyOf(b, 230);
        std::map<std::string, plan::HeaterFigures> by;
        for (const auto& h : unlike.heaters)
            if (h.string == "s1") by[h.valve] = h;
        QVERIFY(std::abs(by["EL84"].amps / by["ECC85"].amps - 1) < 1e-3);
        QVERIFY(by["EL84"].volts < 5.5 && by["ECC85"].volts > 7);
        // Pulling one darkens the other.
        plan::Conditions c;
        c.mainsVolts = 230;
        c.pulled = {"v5"};
        const auto dark = plan::solveSteady(b, catalogue, c, {});
        QVERIFY(dark);
        for (const auto& h : dark->heaters) QVERIFY(h.string.empty());
    }
    void theWiresOfAStringJoinItsHeatersOneBehindTheOther() {
        Build b = ownWinding(13.1);
        for (Valve& v : b.bottles)
            if (v.heater == "h3") v.heaterString = "s1";
        const plan::Figures f = plan::solveFigures(b, catalogue);
        const wires::WireFigures w = wires::wireFigures(b, catalogue, f);
        int joints = 0;
        for (const wires::Run& r : w.harness.runs) joints += r.net == "heater string s1 1";
        QCOMPARE(joints, 1);
        const wires::HeatedWinding& x = w.heaters.windings[2];
        QCOMPARE(x.sockets.size(), 2U);
        // What the winding gives is at the two heaters and in the wires between.
        double lost = 0;
        for (const wires::Run& r : w.harness.runs)
            if (const auto amps = w.heaters.runAmps.find(r.wire.id);
                amps != w.heaters.runAmps.end() && (r.heater == "h3" || r.net.starts_with("heater string")))
                lost += amps->second * (r.ohms + 2 * wires::jointOhms);
        QVERIFY2(std::abs(x.nominal.volts - x.sockets[0].nominal - x.sockets[1].nominal - lost) < 1e-3,
                 qPrintable(QString("%1 %2").arg(x.nominal.volts).arg(lost)));
    }

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
    /// What the winding gives is what the heaters take and what copper, diodes, capacitor and regulator lose.
    void nothingIsLostBetweenWindingAndHeaters() {
        const plan::Steady s = steadyOf(regulated(HeaterRegulator::Linear, 9), 230);
        const plan::Steady without = [] {
            Build b = regulated(HeaterRegulator::Linear, 9);
            for (Valve& v : b.bottles) v.heaterString.clear();
            third(b).dc.volts = 0.5; // nearly nothing
            return steadyOf(b, 230);
        }();
        const plan::HeaterFeedFigures& f = s.heaterFeeds.at("h3");
        const double heaters = small(s).volts * small(s).amps, copper = f.windingAmps * f.windingAmps * 0.1;
        QVERIFY(f.boardWatts > 1.2 && f.boardWatts < 3); // two drops of some 0.85 V at 0.87 A
        const double all = heaters + copper + f.boardWatts + f.regulatorWatts;
        QVERIFY2(all > 6.3 * 0.87 + 3 && all < 1.3 * f.reservoir * f.windingAmps, qPrintable(QString::number(all)));
        QVERIFY(without.mainsWatts < s.mainsWatts - 5);
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

    /// With a divider from B+ the reference stands at its share, and the heaters' limit counts from there.
    void aDividerRaisesTheReference() {
        Build b = unwired();
        HeaterWinding& w = b.transformer.heaters[0];
        w.referenceNode = 2;
        w.lift = {{}, 220e3, 47e3, 10e-6};
        const plan::Steady s = steadyOf(b, 230);
        QVERIFY(std::abs(s.heaterReference(w) / (s.nodes[1].mean * 47 / 267) - 1) < 1e-6);
        const plan::Figures f = plan::solveFigures(b, catalogue);
        const auto x = wires::wireFigures(b, catalogue, f).heaters.windings[0];
        // Before the valves draw, the supply stands higher and every cathode at ground.
        QVERIFY(std::abs(x.sockets[0].heaterCathode / (f.cold->nodes[1].mean * 47 / 267) - 1) < 1e-3);
    }

    /// Ripple of regulated direct current is far below 6.3 V AC.
    void directCurrentTakesTheHeatersHumAway() {
        const auto heaters = [](const Build& b) {
            const plan::Figures f = plan::solveFigures(b, catalogue);
            return wires::wireFigures(b, catalogue, f).hum.channels[0].by[std::size_t(wires::HumSource::Heaters)];
        };
        const double ac = heaters(ownWinding(6.6)), dc = heaters(regulated(HeaterRegulator::LowDropout));
        QVERIFY2(dc < 0.5 * ac, qPrintable(QString("%1 %2").arg(ac).arg(dc)));
    }
    /// A filament heated by AC: the mean current along it, followed through a cycle, against the closed form.
    void aFilamentHumsAtTwiceTheMainsEvenWhenBalanced() {
        const ValveType& type = *catalogue.valve("300B");
        const circuit::PortLaw& law = type.section(1).law;
        plan::ValvePoint p;
        p.plate = 300, p.cathode = 0, p.grid = -60;
        const double volts = 5; // RMS
        constexpr int count = 256, along = 200;
        std::vector<double> amps;
        double slope = 0;
        for (int k = 0; k < count; ++k) {
            const double v = volts * sqrt2 * std::sin(2 * pi * k / count);
            double sum = 0;
            for (int x = 0; x < along; ++x) {
                const double here = v * ((x + 0.5) / along - 0.5), at[2] = {p.grid - here, p.plate - here};
                double i[2], g[4];
                circuit::evaluate(law, 1, at, i, g);
                sum += i[1] / along;
                if (k == 0) slope += g[2] / along;
            }
            amps.push_back(sum);
        }
        double second = 0;
        for (int k = 0; k < count; ++k) second += 2 * amps[std::size_t(k)] * std::cos(4 * pi * k / count) / count;
        const double asGrid = std::abs(second) / sqrt2 / slope, closed = wires::filamentSecondHarmonic(law, p, volts);
        QVERIFY2(closed > 1e-3 && std::abs(asGrid / closed - 1) < 0.15,
                 qPrintable(QString("%1 %2").arg(asGrid).arg(closed)));
    }

  private:
    static PlacedPart placed(const char* body, const char* of) {
        PlacedPart p = *chassis::makePart(body);
        p.id = "p-" + std::string(of), p.of = of;
        return p;
    }
};

EMBER_TESTS(TestHeaterSupply)
#include "test_heater_supply.moc"
