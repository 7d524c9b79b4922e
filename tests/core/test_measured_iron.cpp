// An output transformer from readings: what a known one would have shown comes back.

#include "../support/demo.h"
#include "../support/parts.h"
#include "../support/suite.h"

#include "core/build/chain_edits.h"
#include "core/build/starts.h"
#include "core/circuit/operating_point.h"
#include "core/circuit/periodic.h"
#include "core/circuit/record.h"
#include "core/circuit/small_signal.h"
#include "core/plan/as_built.h"
#include "core/plan/measured_iron.h"
#include "core/plan/solve.h"
#include "core/rules/findings.h"

#include <QTest>

#include <algorithm>
#include <cmath>
#include <numbers>

using namespace ember;
using namespace ember::plan;

namespace {

using std::numbers::pi;
using std::numbers::sqrt2;

/// The transformer that the bench has: 6.6 kohm on 8 ohm, 45 H, 20 mH of leakage, 150 pF, 15 W from 30 Hz on.
struct Known {
    double turns = std::sqrt(6600.0 / 8), henries = 45, leakage = 0.02, farads = 150e-12, a = 130, b = 138, s = 0.45;
    double flux = sqrt2 * std::sqrt(15 * 6600.0) / (2 * pi * 30);
    circuit::Netlist n;
    circuit::Node in = n.node("in"), out = n.node("out");
    circuit::DeviceId source;
    explicit Known(const circuit::Waveform& drive, double load, bool capacitance = false) {
        source = n.add(circuit::VoltageSource{in, circuit::ground, drive});
        n.add(circuit::Transformer{{{in, circuit::ground, turns, a + b, leakage}, {out, circuit::ground, 1, s}},
                                   henries,
                                   flux,
                                   {0.25 * flux / henries},
                                   0});
        n.add(circuit::Resistor{out, circuit::ground, load});
        if (capacitance) n.add(circuit::Capacitor{in, circuit::ground, farads});
    }
    /// RMS amps at a steady drive.
    static double amps(double volts, double hertz, double load) {
        const Known k({0, volts * sqrt2, hertz, 0}, load);
        const circuit::System sys = assemble(k.n);
        const auto op = operatingPoint(sys);
        if (!op) qFatal("no operating point");
        circuit::PeriodicOptions o;
        o.period = 1 / hertz;
        o.tolerance = 1e-6;
        circuit::Recording record({branchAmps(sys, k.source)});
        auto stepper = periodicStepper(sys, o);
        if (!periodicSteadyState(stepper, op->y, o, &record)) qFatal("no steady state");
        return record.rms(0);
    }
};

OutputTransformer asPlanned() {
    OutputTransformer t;
    t.primaryImpedance = 8000, t.loadImpedance = 8, t.watts = 15;
    return t;
}
double valueOf(const MeasuredIron& m, const char* key) {
    for (const IronValue& v : m.values)
        if (v.key == key) return v.value;
    return NAN;
}
bool near(double is, double wanted, double share) {
    if (std::abs(is / wanted - 1) <= share) return true;
    qWarning("%g for %g", is, wanted);
    return false;
}

} // namespace

class TestMeasuredIron : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    /// Iron that nobody read is drawn as widely as its class goes; iron that was read is not.
    void typicalIronIsDrawnAsWidelyAsItsClass() {
        for (const bool typical : {true, false}) {
            Build b = demoBuild();
            for (Channel& ch : b.channels)
                for (Stage& s : ch.stages)
                    for (StagePart& p : s.parts)
                        if (auto* t = std::get_if<OutputTransformer>(&p.part); t && typical)
                            *t = typicalIron(*t, IronClass::Sectioned);
            const double plan = partOf<OutputTransformer>(b, "ot1").leakageInductance;
            double least = 1e9, most = 0;
            for (std::uint64_t seed = 1; seed <= 60; ++seed) {
                Build built = asBuilt(b, seed);
                const double share = partOf<OutputTransformer>(built, "ot1").leakageInductance / plan;
                least = std::min(least, share), most = std::max(most, share);
            }
            QVERIFY(typical ? least > 0.55 && least < 0.8 && most > 1.2 && most < 1.45 : least == 1 && most == 1);
        }
    }

    /// A choke that was just put in is said to be typical until it has values of its own.
    void aFreshChokeIsSaidToBeTypical() {
        Build b = startOf("line-stage")->build; // it has none
        const auto with = apply(b, insertSection(b, 1, SectionKind::Choke));
        QVERIFY2(with.ok(), with.ok() ? "" : with.problem().text().c_str());
        b = *with;
        const auto told = [&] {
            const auto all = rules::inspect(b, Catalogue::shipped(), solveFigures(b, Catalogue::shipped()));
            return std::any_of(all.begin(), all.end(), [](const auto& f) { return f.id == "typical-iron/l1"; });
        };
        QVERIFY(told());
        for (Section& s : b.supply.sections)
            if (s.kind == SectionKind::Choke) s.resistance = 170;
        QVERIFY(!told());
    }

    /// Typical iron is what its class is: the reactance at its lowest note, the leakage's corner, watts lost in copper.
    void typicalIronIsOfItsClass() {
        OutputTransformer plate = asPlanned();
        plate.lowestHertz = 30;
        double before = 0;
        for (const IronClass of : {IronClass::Plain, IronClass::Sectioned, IronClass::Wide}) {
            const OutputTransformer t = typicalIron(plate, of);
            const double corner = t.primaryImpedance / (2 * pi * t.leakageInductance);
            QVERIFY(corner > 1.9 * before);
            before = corner;
            QVERIFY(2 * pi * 30 * t.primaryInductance >= 0.999 * t.primaryImpedance);
            const double copper = (t.primaryResistanceA + t.primaryResistanceB) / t.primaryImpedance +
                                  t.secondaryResistance / t.loadImpedance;
            QVERIFY(std::abs(copper - 0.09) < 1e-9); // 15 W
            QVERIFY(typicalOf(t) == of);
            OutputTransformer gapped = plate;
            gapped.dcAmps = 0.06;
            QVERIFY(typicalIron(gapped, of).primaryInductance < t.primaryInductance);
        }
        OutputTransformer own = typicalIron(plate, IronClass::Plain);
        own.leakageInductance *= 1.01;
        QVERIFY(!typicalOf(own));
        own.primaryImpedance = 0;
        QVERIFY(!ironFromNameplate(own, IronClass::Plain).ok());
        const auto iron = ironFromNameplate(plate, IronClass::Sectioned);
        QVERIFY(std::all_of(iron->values.begin(), iron->values.end(),
                            [](const IronValue& v) { return v.value > 0 && v.error > 0 && !v.how.empty(); }));
    }

    /// Every value from readings that the circuit solver made of the known transformer.
    void theKnownTransformerComesBack() {
        const Known small({}, 1e6);
        IronReadings r;
        r.primaryVolts = 12, r.secondaryVolts = 12 / small.turns;
        r.ohmsA = 130, r.ohmsB = 138, r.secondaryOhms = 0.45;
        r.openVolts[0] = 12, r.openAmps[0] = Known::amps(12, 50, 1e6);
        r.openVolts[1] = 550, r.openAmps[1] = Known::amps(550, 50, 1e6);
        r.shortHertz = 10e3, r.shortVolts = 3, r.shortAmps = Known::amps(3, 10e3, 1e-3);
        // Where the impedance of the shorted primary has its crest.
        const Known shorted({}, 1e-3, true);
        const circuit::System sys = assemble(shorted.n);
        const auto op = operatingPoint(sys);
        QVERIFY(op.ok());
        const circuit::SmallSignal small2(sys, op->portVolts);
        double least = 1e9;
        for (double hz = 50e3; hz < 150e3; hz *= 1.0005) { // the current that a source drives is least there
            const double amps = std::abs(small2.driven(shorted.source, hz)[sys.branchOf[0]]);
            if (amps < least) least = amps, r.resonanceHertz = hz;
        }
        const auto m = ironFrom(asPlanned(), true, {}, r);
        QVERIFY2(m.ok(), m ? "" : m.problem().text().c_str());
        QVERIFY(near(valueOf(*m, "primaryImpedance"), 6600, 1e-6));
        QVERIFY(near(valueOf(*m, "primaryInductance"), 45, 0.005));
        QVERIFY(near(valueOf(*m, "leakageInductance"), 0.02, 0.01));
        QVERIFY(near(valueOf(*m, "windingCapacitance"), 150e-12, 0.03));
        QVERIFY(near(valueOf(*m, "lowestHertz"), 30, 0.03));
        QVERIFY(m->notes.size() == 1); // of ohms below one
    }

    /// What a reading cannot tell is said, with what would.
    void whatCannotBeToldIsSaid() {
        IronReadings r;
        r.shortHertz = 50, r.shortVolts = 3, r.shortAmps = Known::amps(3, 50, 1e-3);
        auto m = ironFrom(asPlanned(), true, {}, r);
        QVERIFY(m.ok() && m->values.empty());
        QVERIFY(m->notes[0].find("hides the leakage") != std::string::npos);
        r = {};
        r.openVolts[0] = 12, r.openAmps[0] = Known::amps(12, 50, 1e6);
        r.openVolts[1] = 100, r.openAmps[1] = Known::amps(100, 50, 1e6);
        m = ironFrom(asPlanned(), true, {}, r);
        QVERIFY(m.ok() && std::isnan(valueOf(*m, "lowestHertz")));
        QVERIFY(m->notes[0].find("does not saturate yet") != std::string::npos);
        r = {};
        r.openVolts[0] = 12, r.openAmps[0] = 12.0 / 305; // a shorted turn
        m = ironFrom(asPlanned(), true, {}, r);
        QVERIFY(m.ok() && m->notes[0].find("shorted") != std::string::npos);
    }

    void readingsThatCannotBeAreRefused() {
        QVERIFY(!ironFrom(asPlanned(), true, {}, {}).ok());
        IronReadings r;
        r.primaryVolts = 12;
        QVERIFY(!ironFrom(asPlanned(), true, {}, r).ok());
        r.secondaryVolts = 0.4, r.tapVolts = 13;
        QVERIFY(!ironFrom(asPlanned(), true, {}, r).ok());
        r.tapVolts = 0, r.ohmsA = NAN;
        QVERIFY(!ironFrom(asPlanned(), true, {}, r).ok());
    }

    /// A tap is a share of a half's turns in push-pull, of the whole primary's in a single-ended stage.
    void theScreensTap() {
        IronReadings r;
        r.primaryVolts = 12, r.secondaryVolts = 0.4, r.tapVolts = 2.58;
        QVERIFY(near(valueOf(*ironFrom(asPlanned(), true, {}, r), "screenTap"), 0.43, 1e-6));
        QVERIFY(near(valueOf(*ironFrom(asPlanned(), false, {}, r), "screenTap"), 0.215, 1e-6));
    }

    /// An unknown one: what loads look like, and what it was likely made for.
    void reflectedLoadsOfAnUnknownOne() {
        const auto loads = reflectedLoads(28.7, 1);
        QCOMPARE(loads.size(), std::size_t(4));
        QVERIFY(near(loads[2].primary, 8 * 28.7 * 28.7, 1e-9));
        QCOMPARE(loads[2].usual, 6600.0);
        QVERIFY(near(loads[1].primary, loads[2].primary / 2, 1e-9));
        QVERIFY(reflectedLoads(0, 1).empty());
    }
};

EMBER_TESTS(TestMeasuredIron)
#include "test_measured_iron.moc"
