// Cores: flux against volts, energy, and the same transformer in another simulator.

#include "../support/demo.h"
#include "../support/parts.h"
#include "../support/shipped.h"
#include "../support/suite.h"
#include "../support/wait.h"

#include "core/build/starts.h"
#include "core/circuit/netlist_text.h"
#include "core/circuit/operating_point.h"
#include "core/circuit/periodic.h"
#include "core/circuit/record.h"
#include "core/plan/mains_iron.h"
#include "core/plan/solve.h"
#include "core/plan/tone.h"
#include "core/rules/findings.h"
#include "core/schematic/channel_parts.h"

#include <QProcess>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <QTest>

#include <cmath>
#include <numbers>

using namespace ember;
using namespace ember::circuit;

namespace {

using std::numbers::pi;

/// A transformer 10 : 1 with 100 ohm of copper on 8 ohm, driven by a sine of `volts` crest.
struct IronOnLoad {
    Netlist n;
    Node in = n.node("in"), out = n.node("out");
    DeviceId source, iron;
    Transformer core{{{in, ground, 10, 100}, {out, ground, 1, 0.5}}, 20, 0.9, {0.25 * 0.9 / 20}, 40e3};

    explicit IronOnLoad(double volts, double hertz, double load = 8, double dc = 0) {
        source = n.add(VoltageSource{in, ground, {dc, volts, hertz, 0}});
        iron = n.add(core);
        n.add(Resistor{out, ground, load});
    }
};

struct ToneTaken {
    Recording record{std::vector<Probe>{}};
    bool ok = false;
};

/// A steady period; probes: source current, volts in and out, winding currents, the core's port amps and percent.
ToneTaken run(const IronOnLoad& b, double hertz) {
    ToneTaken out;
    const System sys = assemble(b.n);
    const auto op = operatingPoint(sys);
    PeriodicOptions o;
    o.period = 1 / hertz;
    o.tolerance = 1e-6;
    out.record =
        Recording({branchAmps(sys, b.source), nodeVolts(sys, b.in), nodeVolts(sys, b.out), branchAmps(sys, b.iron, 0),
                   branchAmps(sys, b.iron, 1), portAmps(sys, b.iron), portVolts(sys, b.iron)});
    if (!op) return out;
    Stepper stepper = periodicStepper(sys, o);
    stepper.portSolver().volts() = op->portVolts;
    out.ok = periodicSteadyState(stepper, op->y, o, &out.record).ok();
    return out;
}

} // namespace

class TestIron : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    /// The flux is the integral of the volts over the winding, and beyond the constant inductance the core draws the
    /// ninth power of it.
    void theFluxIsTheIntegralOfTheVolts() {
        const double volts = 250, hertz = 50;
        IronOnLoad b(volts, hertz, 1e9);
        const ToneTaken r = run(b, hertz);
        QVERIFY(r.ok);
        const auto percent = r.record.evenly(6, 0, 1 / hertz, 256), drawn = r.record.evenly(5, 0, 1 / hertz, 256),
                   amps = r.record.evenly(3, 0, 1 / hertz, 256);
        // Volts less copper, summed over the period: half of the flux from its least to its most is its crest.
        double flux = 0, least = 0, greatest = 0, most = 0;
        for (std::size_t k = 0; k < 256; ++k) {
            flux += (volts * std::sin(2 * pi * static_cast<double>(k) / 256) - 100 * amps[k]) / hertz / 256;
            least = std::min(least, flux);
            greatest = std::max(greatest, flux);
            most = std::max(most, percent[k]);
        }
        const double crest = (greatest - least) / 2;
        QVERIFY2(std::abs(most / (100 * crest / 0.9) - 1) < 0.01, qPrintable(QString("%1 %").arg(most)));
        for (std::size_t k = 0; k < 256; k += 7)
            QVERIFY(std::abs(drawn[k] - b.core.saturation.amps * std::pow(percent[k] / 100, 9)) <
                    1e-6 + 1e-3 * std::abs(drawn[k]));
    }

    /// What the source gives is what load, copper and core take, within a thousandth.
    void energyIsKept_data() {
        QTest::addColumn<double>("volts");
        QTest::addColumn<double>("hertz");
        QTest::addColumn<double>("dc");
        QTest::newRow("small") << 50.0 << 1000.0 << 0.0;
        QTest::newRow("rated") << 280.0 << 50.0 << 0.0;
        QTest::newRow("saturated") << 450.0 << 50.0 << 0.0;
        QTest::newRow("with direct current") << 150.0 << 50.0 << 2.0;
    }
    void energyIsKept() {
        QFETCH(double, volts);
        QFETCH(double, hertz);
        QFETCH(double, dc);
        const ToneTaken r = run(IronOnLoad(volts, hertz, 8, dc), hertz);
        QVERIFY(r.ok);
        const double given = -r.record.meanProduct(0, 1), load = std::pow(r.record.rms(2), 2) / 8,
                     copper = 100 * std::pow(r.record.rms(3), 2) + 0.5 * std::pow(r.record.rms(4), 2);
        // Over the core, 10 turns to one: the volts of the secondary with its copper.
        const double core = std::pow(10 * r.record.rms(2) * 8.5 / 8, 2) / 40e3;
        QVERIFY2(std::abs(given / (load + copper + core) - 1) < 1e-3,
                 qPrintable(QString("%1 W given, %2 taken").arg(given).arg(load + copper + core)));
    }

    /// A direct current takes a part of the flux: with it the same volts saturate.
    void directCurrentTakesFlux() {
        const ToneTaken without = run(IronOnLoad(200, 50), 50),
                        with = run(IronOnLoad(200, 50, 8, 4), 50); // 40 mA: 0.8 Vs of 0.9
        QVERIFY(without.ok && with.ok);
        QVERIFY(with.record.most(5) > 20 * without.record.most(5));
        QVERIFY(with.record.most(6) > 100);
    }

    /// The same deck in another simulator: currents of a saturated core within 0.5 %.
    void anotherSimulatorFindsTheSame() {
        if (QStandardPaths::findExecutable("ngspice").isEmpty()) QSKIP("ngspice is not installed");
        const double hertz = 50;
        IronOnLoad b(380, hertz);
        const ToneTaken r = run(b, hertz);
        QVERIFY(r.ok);
        QTemporaryDir dir;
        QFile f(dir.filePath("core.cir"));
        QVERIFY(f.open(QIODevice::WriteOnly));
        const std::map<DeviceId, std::string> names{{b.source, "drive"}, {b.iron, "iron"}};
        f.write(QByteArray::fromStdString(
            "* a core\n" + elementsText(b.n, names) +
            "\n.options reltol=1e-5 method=gear\n.tran 20u 2 1.9 20u\n.control\nrun\nmeas tran crest MAX i(vdrive)\n"
            "meas tran load RMS v(" +
            nodeText(b.n, b.out) + ")\nmeas tran drawn RMS i(vdrive)\n.endc\n.end\n"));
        f.close();
        QProcess p;
        p.setProcessChannelMode(QProcess::MergedChannels);
        p.start("ngspice", {"-b", f.fileName()});
        QVERIFY(p.waitForFinished(ember::tests::longest()));
        const QString printed = QString::fromUtf8(p.readAll());
        const auto said = [&](const char* what) {
            const auto m = QRegularExpression(QString("%1\\s*=\\s*([-+0-9.eE]+)").arg(what)).match(printed);
            return m.captured(1).toDouble();
        };
        const auto near = [&](double ours, double theirs, const char* what) {
            const bool yes = std::abs(ours / theirs - 1) < 0.005;
            if (!yes) qWarning("%s: %g against %g\n%s", what, ours, theirs, qPrintable(printed.right(600)));
            return yes;
        };
        QVERIFY(near(r.record.rms(2), said("load"), "load"));
        QVERIFY(near(r.record.rms(0), said("drawn"), "current"));
        QVERIFY(near(r.record.most(0), said("crest"), "crest"));
    }

    /// A single-ended stage's current is beyond the gap it goes through: said, with the share of the flux.
    void tooMuchDirectCurrentIsAFinding() {
        const auto found = [](double gap) {
            Build b = startOf("single-ended-triode")->build;
            partOf<OutputTransformer>(b, "ot1").dcAmps = gap;
            plan::Figures f = plan::solveFigures(b, catalogue);
            std::string text;
            for (const auto& x : rules::inspect(b, catalogue, f))
                if (x.id == "core-current/ot1") text = x.text;
            return text;
        };
        QCOMPARE(found(0.06), std::string());
        QVERIFY(found(0.005).find("% of the flux") != std::string::npos);
    }

    /// The nameplate's lowest frequency is where full power ends: below it distortion rises, above it nothing changes.
    void fullPowerEndsAtTheNameplatesFrequency() {
        const Build demo = demoOpenLoop();
        const auto rest = plan::solveSteady(demo, catalogue, {230});
        QVERIFY(rest.ok());
        const auto supply = plan::supplyOf(demo, *rest);
        const auto thd = [&](double lowest, double hertz) {
            Build b = demo;
            for (const char* id : {"ot1", "ot2"}) partOf<OutputTransformer>(b, id).lowestHertz = lowest;
            plan::ToneRun run;
            if (!plan::solveTone(b, catalogue, 0, supply, {0.15, hertz}, run)) return 1e9;
            return run.figures.thdPercent;
        };
        QVERIFY(std::abs(thd(30, 1000) / thd(0, 1000) - 1) < 0.02);
        // 7 W of 15 W: its flux is the rated one at 20 Hz. An octave lower it distorts twice as much, larger iron does
        // not.
        QVERIFY2(thd(30, 10) > 1.5 * thd(0, 10), qPrintable(QString("%1 %2").arg(thd(30, 10)).arg(thd(0, 10))));
        QVERIFY(thd(30, 10) > thd(30, 15) && thd(30, 15) > thd(30, 30));
        QVERIFY(std::abs(thd(15, 10) / thd(0, 10) - 1) < 0.02);
    }

    /// Why the steady supply may leave the core out: its current is the greatest where the volts pass zero, and what it
    /// drops in the primary's copper then is not there when the rectifier conducts.
    void theCoreHardlyMovesTheSteadySupply() {
        const PowerTransformer& t = demoBuild().transformer;
        const plan::MainsCore core = plan::mainsCore(t);
        const auto reservoir = [&](bool saturates) {
            Netlist n;
            const Node in = n.node("in"), a = n.node("a"), b = n.node("b"), out = n.node("out");
            n.add(VoltageSource{in, ground, {0, 230 * std::numbers::sqrt2, 50, 0}});
            const double turns = t.plateVolts / t.primaryVolts;
            n.add(Transformer{{{in, ground, 1, t.primaryResistance, 0},
                               {a, ground, turns, t.plateResistance, 0},
                               {ground, b, turns, t.plateResistance, 0}},
                              saturates ? t.magnetisingInductance : 1e4,
                              saturates ? core.ratedFlux : 0,
                              {saturates ? core.saturationAmps : 0},
                              0});
            n.add(NonlinearDevice{{a, out}, DiodeLaw{1e-9, 2}});
            n.add(NonlinearDevice{{b, out}, DiodeLaw{1e-9, 2}});
            n.add(Capacitor{out, ground, 47e-6});
            n.add(Resistor{out, ground, 2000});
            const System sys = assemble(n);
            const auto op = operatingPoint(sys);
            if (!op) qFatal("no operating point");
            PeriodicOptions o;
            o.period = 1 / 50.0;
            o.tolerance = 1e-7;
            Recording record({nodeVolts(sys, out)});
            auto stepper = periodicStepper(sys, o);
            if (!periodicSteadyState(stepper, op->y, o, &record)) qFatal("no steady state");
            return record.mean(0);
        };
        const double with = reservoir(true), without = reservoir(false);
        QVERIFY2(with > 250 && std::abs(with / without - 1) < 1e-3, qPrintable(QString::number(with / without - 1)));
    }
};

EMBER_TESTS(TestIron)
#include "test_iron.moc"
