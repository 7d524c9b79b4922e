// Mains as they are, the power transformer's core on them, chokes that saturate, windings with capacitance.

#include "../support/demo.h"
#include "../support/inspected.h"
#include "../support/parts.h"
#include "../support/shipped.h"
#include "../support/spice.h"
#include "../support/suite.h"

#include "core/build/edit.h"
#include "core/build/starts.h"
#include "core/chassis/layout_figures.h"
#include "core/circuit/choke.h"
#include "core/circuit/periodic.h"
#include "core/circuit/record.h"
#include "core/circuit/small_signal.h"
#include "core/circuit/transient.h"
#include "core/plan/fuse_advice.h"
#include "core/plan/mains_iron.h"
#include "core/plan/stage_figures.h"
#include "core/plan/supply_circuit.h"
#include "core/schematic/solve.h"

#include <QTest>

#include <cmath>
#include <numbers>

using namespace ember;
using namespace ember::circuit;

namespace {

using std::numbers::pi;
using std::numbers::sqrt2;

/// Amps of a core in percent of its rated flux.
double coreAmps(const CoreLaw& law, double share) {
    const double percent = 100 * share;
    double amps = 0, slope = 0;
    evaluate(law, 1, &percent, &amps, &slope);
    return amps;
}

} // namespace

class TestMainsIron : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    /// The wave has the volts and the crest that were asked for, and no dip in its middle.
    void mainsHaveTheirVoltsAndTheirCrest_data() {
        QTest::addColumn<double>("crest");
        for (const double crest : {sqrt2, 1.39, 1.36, 1.26}) QTest::addRow("%g", crest) << crest;
    }
    void mainsHaveTheirVoltsAndTheirCrest() {
        QFETCH(double, crest);
        const Waveform w = plan::mainsWave(230, 50, crest);
        double squares = 0, most = 0, middle = w.at(0.005);
        for (int k = 0; k < 2000; ++k) {
            const double v = w.at(k * 1e-5);
            squares += v * v / 2000;
            most = std::max(most, v);
        }
        QVERIFY(std::abs(std::sqrt(squares) / 230 - 1) < 1e-6);
        QVERIFY(std::abs(most / 230 - crest) < 1e-6);
        QVERIFY(std::abs(middle - most) < 1e-6);
    }

    /// An unloaded capacitor charges to the crest; a heater is warmed by the RMS.
    void capacitorsFollowTheCrestAndHeatersTheVolts() {
        const Build b = startOf("supply-alone")->build;
        const auto at = [&](double crest) {
            plan::Conditions c;
            c.crest = crest, c.rectifierIn = true, c.smallIn = c.outputsIn = false;
            Build x = b;
            x.supply.loads.clear();
            for (Bleeder& bleeder : x.supply.bleeders) bleeder.resistor.resistance = 10e6;
            auto s = plan::solveSteady(x, catalogue, c);
            if (!s) qFatal("%s", s.problem().text().c_str());
            return std::move(*s);
        };
        const plan::Steady sine = at(sqrt2), flat = at(1.36);
        const double fall = flat.nodes[0].mean / sine.nodes[0].mean;
        QVERIFY2(std::abs(fall / (1.36 / sqrt2) - 1) < 0.004, qPrintable(QString::number(fall)));
        for (std::size_t k = 0; k < sine.heaters.size(); ++k)
            QVERIFY(std::abs(flat.heaters[k].volts / sine.heaters[k].volts - 1) < 0.004);
    }

    /// The plan's low end has the flattest mains, its high end a sine.
    void thePlanSpansTheCrest() {
        Build b = demoBuild();
        b.mains.low = b.mains.high = b.mains.volts = 230;
        b.mains.low = 229.999, b.mains.high = 230.001;
        const plan::Figures f = plan::solveFigures(b, catalogue);
        QVERIFY(f.low && f.nominal && f.high);
        QVERIFY(f.low->nodes[0].mean < 0.99 * f.nominal->nodes[0].mean);
        QVERIFY(f.high->nodes[0].mean > 1.008 * f.nominal->nodes[0].mean);
    }

    /// Flux is volts over frequency. At the rated ones the current is that of the inductance and as much again at the
    /// crest: with i = I (cos x + cos^9 x), i^2 has the mean I^2 (1/2 + 2 * 63/256 + 12155/65536).
    void fluxFollowsVoltsOverFrequency() {
        Build b = demoBuild();
        b.mains.crest = b.mains.flattest = sqrt2;
        plan::Steady s;
        s.conditions.mainsVolts = b.transformer.primaryVolts;
        const auto at = [&](double rated) {
            b.transformer.ratedHertz = rated;
            return plan::mainsIron(b, s);
        };
        const plan::MainsIron right = at(50), american = at(60);
        QVERIFY(std::abs(right.flux - 1) < 1e-9);
        QVERIFY(std::abs(american.flux - 1.2) < 1e-9);
        const double inductive = sqrt2 * 230 / (2 * pi * 50 * b.transformer.magnetisingInductance),
                     magnetising = inductive * std::sqrt(0.5 + 2 * 63 / 256.0 + 12155 / 65536.0),
                     loss = right.coreWatts / 230;
        QVERIFY2(std::abs(right.noLoadAmps / std::hypot(magnetising, loss) - 1) < 0.002,
                 qPrintable(QString("%1 %2").arg(right.noLoadAmps).arg(magnetising)));
        QVERIFY(american.noLoadAmps > 2 * right.noLoadAmps);
        // Loss with frequency^1.3 and flux squared: a core for 60 Hz at 50.
        QVERIFY(std::abs(american.coreWatts / right.coreWatts - std::pow(50.0 / 60, 1.3) * 1.44) < 1e-6);
    }

    /// Switched on with flux left over: the same current as the flux's own equation, stepped finely, has.
    void inrushIsTheFluxsOwnEquation() {
        PowerTransformer t;
        const plan::MainsCore core = plan::mainsCore(t);
        const double ohms = 9, henries = t.magnetisingInductance;
        const Waveform mains = plan::mainsWave(253, 50, sqrt2);
        Netlist n;
        const Node in = n.node("in");
        const DeviceId source = n.add(VoltageSource{in, ground, mains});
        const DeviceId iron =
            n.add(Transformer{{{in, ground, 230, ohms}}, henries, core.ratedFlux, {core.saturationAmps}, 0});
        const System sys = assemble(n);
        Stepper stepper(sys, 1e-4, 8);
        State state{0, Eigen::VectorXd::Zero(sys.states()), Eigen::VectorXd::Zero(sys.states())};
        state.y[sys.stateOf[static_cast<std::size_t>(iron)]] = 230 * plan::remanence * core.ratedFlux / henries;
        double crest = 0;
        Unknowns x;
        TransientOptions o;
        o.duration = 0.1, o.largestStep = 1e-4, o.levels = 8, o.tolerance = 1e-5;
        o.onStep = [&](Stepper& s, const State&, double) {
            s.endUnknowns(x);
            crest = std::max(crest, std::abs(x[sys.branchOf[static_cast<std::size_t>(source)]]));
            return true;
        };
        QVERIFY(runTransient(stepper, state, o).ok());
        double flux = plan::remanence * core.ratedFlux, most = 0;
        const auto amps = [&](double f) { return f / henries + coreAmps({core.saturationAmps}, f / core.ratedFlux); };
        constexpr double step = 2e-7;
        for (double at = 0; at < 0.1; at += step) {
            most = std::max(most, std::abs(amps(flux)));
            const double half = flux + step / 2 * (mains.at(at) - ohms * amps(flux));
            flux += step * (mains.at(at + step / 2) - ohms * amps(half));
        }
        QVERIFY2(std::abs(crest / most - 1) < 0.005, qPrintable(QString("%1 A, %2 A").arg(crest).arg(most)));
        QVERIFY(most > 10 && most < sqrt2 * 253 / ohms);
    }

    /// A thermistor holds the surge back, and the demo's fuse bears what is left; without it the fuse would not.
    void theSurgeOfTheDemo() {
        Build b = demoBuild();
        b.thermistor.cold = b.thermistor.hot = 0;
        const auto bare = plan::inrushOf(b, catalogue, 253);
        b.thermistor.cold = 33, b.thermistor.hot = 1;
        const auto held = plan::inrushOf(b, catalogue, 253);
        QVERIFY(bare.ok() && held.ok());
        QVERIFY(bare->peakAmps < sqrt2 * 253 / (b.transformer.primaryResistance + b.mains.loop()));
        QVERIFY(held->peakAmps < 0.6 * bare->peakAmps);
        const Build demo = demoBuild();
        const auto own = plan::inrushOf(demo, catalogue, demo.mains.high);
        const double bears = plan::fuseBears(demo.fuse.amps, demo.fuse.slow);
        QVERIFY2(own.ok() && own->i2t < bears && bare->i2t > bears, qPrintable(QString::number(bears)));
    }

    /// A choke has its rated inductance at its rated current and its idle one without; the flux is the area under it.
    void aChokeHasWhatIsPrintedOnIt() {
        const Choke c{10, 25, 0.1, 200};
        QVERIFY(std::abs(inductanceAt(c, 0) / 25 - 1) < 1e-6);
        QVERIFY(std::abs(inductanceAt(c, 0.1) / 10 - 1) < 1e-3);
        QVERIFY(inductanceAt(c, 0.2) < 5);
        double last = 1e9, flux = 0;
        for (int k = 0; k < 2000; ++k) {
            const double henries = inductanceAt(c, (k + 0.5) * 1e-4);
            QVERIFY(henries <= last);
            last = henries;
            flux += henries * 1e-4;
        }
        QVERIFY(std::abs(flux / (25 * chokeState(c, 0.2)) - 1) < 1e-3);
        QCOMPARE(inductanceAt({10, 0, 0, 200}, 5), 10.0); // of a core nothing is known
    }

    /// For small changes around a direct current the solver sees the inductance that is left there.
    void rippleSeesTheInductanceThatIsLeft() {
        const Choke c{10, 11, 0.1, 200};
        for (const double amps : {0.0, 0.1, 0.2}) {
            Netlist n;
            const Node a = n.node("a"), z = n.node("z");
            n.add(CurrentSource{ground, a, {amps}});
            n.add(Resistor{a, ground, 1e9});
            n.add(chokeBetween(a, z, c));
            n.add(Resistor{z, ground, 1e-3});
            const System sys = assemble(n);
            const auto point = operatingPoint(sys);
            QVERIFY(point.ok());
            const double seen = std::imag(SmallSignal(sys, point->portVolts).impedance(a, 100)) / (2 * pi * 100);
            QVERIFY2(std::abs(seen / inductanceAt(c, amps) - 1) < 0.005,
                     qPrintable(QString("%1 A: %2 H, %3 H").arg(amps).arg(seen).arg(inductanceAt(c, amps))));
        }
    }

    /// Flattened mains into a choke that saturates, in another simulator: current within 0.5 %.
    void anotherSimulatorHasTheSameChoke() {
        Netlist n;
        const Node in = n.node("in"), out = n.node("out");
        Waveform mains = plan::mainsWave(230, 50, 1.36);
        mains.dc = 100;
        const DeviceId source = n.add(VoltageSource{in, ground, mains});
        n.add(chokeBetween(in, out, {2, 2.6, 0.2, 60}));
        n.add(Resistor{out, ground, 240});
        const System sys = assemble(n);
        const auto point = operatingPoint(sys);
        QVERIFY(point.ok());
        PeriodicOptions o;
        o.period = 0.02;
        o.tolerance = 1e-6;
        Recording record({branchAmps(sys, source), nodeVolts(sys, in)});
        Stepper stepper = periodicStepper(sys, o);
        QVERIFY(periodicSteadyState(stepper, point->y, o, &record).ok());
        QVERIFY(std::abs(record.rms(1) / std::hypot(230, 100) - 1) < 1e-3);
        const auto printed = spicePrint(
            "* a choke\n" + elementsText(n, {{source, "drive"}}) +
            "\n.options reltol=1e-5 method=gear\n.tran 20u 1 0.9 20u\n.control\nrun\nmeas tran drawn RMS i(vdrive)\n"
            "meas tran crest MIN i(vdrive)\n.endc\n.end\n");
        if (!printed) QSKIP("ngspice is not installed");
        const auto said = [&](const char* what) {
            return QRegularExpression(QString("%1\\s*=\\s*([-+0-9.eE]+)").arg(what))
                .match(*printed)
                .captured(1)
                .toDouble();
        };
        // The source's current runs into +: what it gives is negative.
        QVERIFY2(std::abs(record.rms(0) / said("drawn") - 1) < 0.005,
                 qPrintable(QString("%1 %2\n%3").arg(record.rms(0)).arg(said("drawn")).arg(printed->right(500))));
        QVERIFY2(std::abs(record.least(0) / said("crest") - 1) < 0.005,
                 qPrintable(QString("%1 %2").arg(record.least(0)).arg(said("crest"))));
        QVERIFY(record.least(0) < -1.4 * 0.2); // well beyond its rated current
    }

    /// Beyond its current a choke passes more ripple, and the finding says how much inductance is left.
    void anOverloadedChokePassesRipple() {
        Build b = demoBuild();
        const auto section = std::find_if(b.supply.sections.begin(), b.supply.sections.end(),
                                          [](const Section& s) { return s.kind == SectionKind::Choke; });
        QVERIFY(section != b.supply.sections.end());
        const auto ripple = [&](double amps) {
            section->amps = amps;
            const auto s = plan::solveSteady(b, catalogue, {230});
            if (!s) qFatal("%s", s.problem().text().c_str());
            return s->nodes[1].rippleRms;
        };
        const double ample = ripple(1), small = ripple(0.06);
        QVERIFY2(small > 1.5 * ample, qPrintable(QString("%1 V, %2 V").arg(ample).arg(small)));
        const auto all = inspected(b);
        const auto* f = findingOf(all, "choke-amps/");
        QVERIFY(f && f->text.find("are left") != std::string::npos);
        const auto mended = apply(b, *f->fix);
        QVERIFY(mended.ok());
        QVERIFY(!findingOf(inspected(*mended), "choke-amps/"));
    }

    void ironForOtherMainsIsAFinding() {
        QVERIFY(!findingOf(inspected(demoBuild()), "mains-flux"));
        Build b = demoBuild();
        b.transformer.ratedHertz = 60;
        auto all = inspected(b);
        const auto* f = findingOf(all, "mains-flux");
        QVERIFY(f && f->fix && f->level == rules::Level::Stop);
        QVERIFY(!findingOf(inspected(*apply(b, *f->fix)), "mains-flux"));
        b = demoBuild();
        b.transformer.primaryVolts = 200;
        all = inspected(b);
        f = findingOf(all, "mains-flux");
        QVERIFY(f && f->fix);
    }

    /// More copper loss warms the iron by the layout's own conductances, and past its class that is said.
    void hotterThanItsInsulation() {
        Build b = demoBuild();
        plan::Figures f = plan::solveFigures(b, catalogue);
        QVERIFY(f.layout && f.layout->mainsIron);
        const auto cool = *f.layout->mainsIron;
        QVERIFY(cool.kelvin > b.chassis.ambient + 5 && cool.kelvin < b.chassis.ambient + 60);
        for (PlacedPart& p : b.chassis.parts)
            if (p.of == b.transformer.id) p.heat = 42; // of something that is wrong inside
        b.transformer.insulation = InsulationClass::A;
        f = plan::solveFigures(b, catalogue);
        const double kelvin = f.layout->mainsIron->kelvin;
        const auto all = inspected(b);
        const auto* x = findingOf(all, "insulation");
        QVERIFY2(x && x->fix, qPrintable(QString("%1 K").arg(kelvin)));
        const Build better = *apply(b, *x->fix);
        QVERIFY(hottestSpot(better.transformer.insulation) > 105);
        QVERIFY(!findingOf(inspected(better), "insulation"));
    }

    /// A winding's capacitance behind a source's resistance, with the leakage and the load beside it: one closed form.
    void windingsHaveTheirCapacitance() {
        using namespace schematic;
        Schematic s;
        const NetId drive = s.net("drive", NetKind::Signal), in = s.net("in", NetKind::Signal),
                    out = s.net("out", NetKind::Signal);
        const PartId source = s.add(voltage("e", drive, Schematic::ground, {}));
        s.add(resistor("rs", drive, in, 2000));
        Windings w;
        w.inductance = 50;
        w.coils = {{0, 1, 20, 100, 0.02, 400e-12}, {2, 3, 1, 0, 0}};
        Part iron;
        iron.id = "t", iron.element = w;
        iron.pins = {{"1", in}, {"2", Schematic::ground}, {"3", out}, {"4", Schematic::ground}};
        s.add(std::move(iron));
        s.add(resistor("load", out, Schematic::ground, 10));
        Analysis a(s);
        const auto point = a.operatingPoint();
        QVERIFY(point.ok());
        for (const double hz : {1e3, 2e4, 5.6e4, 2e5}) {
            const Complex j(0, 2 * pi * hz), core = 50.0 * j * 4000.0 / (50.0 * j + 4000.0),
                                             behind = 100.0 + 0.02 * j + core, cap = 1.0 / (400e-12 * j),
                                             seen = behind * cap / (behind + cap),
                                             expected = seen / (seen + 2000.0) * core / behind / 20.0;
            const Complex found = a.gain(*point, source, out, hz);
            QVERIFY2(std::abs(found - expected) < 1e-5 * std::abs(expected),
                     qPrintable(QString("%1 Hz: %2, %3").arg(hz).arg(std::abs(found)).arg(std::abs(expected))));
        }
    }

    /// Without its damping the demo's feedback rises where the iron resonates; each fix takes some feedback off.
    void feedbackThatReachesTheResonanceIsAFinding() {
        const auto resonance = [&](const Build& b, std::vector<plan::LeakageResonance>* all = nullptr) {
            plan::Figures f = plan::solveFigures(b, catalogue);
            f.oscillations = plan::oscillationsOf(b, catalogue, *f.nominal);
            std::erase_if(f.oscillations, [](const plan::Oscillation& o) { return o.how != std::string("as built"); });
            f.resonances = plan::resonancesOf(b, catalogue, *f.nominal);
            if (all) *all = f.resonances;
            const auto findings = rules::inspect(b, catalogue, f);
            const auto* x = findingOf(findings, "leakage-resonance/");
            return x ? std::optional(*x) : std::nullopt;
        };
        Build b = demoBuild();
        std::vector<plan::LeakageResonance> found;
        QVERIFY(!resonance(b, &found));
        QCOMPARE(found.size(), std::size_t(2));
        QVERIFY(std::abs(found[0].hertz * 2 * pi * std::sqrt(0.02 * 150e-12) - 1) < 1e-9);
        QVERIFY(found[0].feedbackDb > 0);
        for (LoosePart& l : b.loose)
            if (auto* c = std::get_if<CapacitorPart>(&l.part)) c->capacitance = 220e-12;
        auto x = resonance(b, &found);
        QVERIFY2(x && x->fix, qPrintable(QString("%1 dB at %2 Hz").arg(found[0].peakDb).arg(found[0].peakHertz)));
        for (int k = 0; k < 16 && x; ++k) { // channel by channel
            b = *apply(b, *x->fix);
            x = resonance(b);
        }
        QVERIFY(!x);
    }
};

EMBER_TESTS(TestMainsIron)
#include "test_mains_iron.moc"
