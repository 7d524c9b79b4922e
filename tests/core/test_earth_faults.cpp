// Faults to the chassis, the signal's own currents in the returns, a source with an earth of its own.

#include "../support/inspected.h"
#include "../support/shipped.h"
#include "../support/suite.h"
#include "../support/wired.h"

#include "core/build/starts.h"
#include "core/plan/fuse_advice.h"
#include "core/plan/short_circuit.h"
#include "core/wires/wire_edits.h"

#include <QTest>

#include <cmath>
#include <numbers>

using namespace ember;
using namespace ember::wires;

namespace {

double earthOhms(const Harness& h) {
    double ohms = 0;
    for (const wires::Run& r : h.runs)
        if (r.kind == RunKind::Earth) ohms += r.ohms + 2 * jointOhms;
    return ohms;
}

std::vector<rules::Finding> earthFindings(const Build& b) {
    plan::Figures f = unwiredFigures();
    f.wires = std::make_shared<const WireFigures>(wired(b));
    std::vector<rules::Finding> out;
    rules::earthRules(b, catalogue, f, out);
    return out;
}

} // namespace

class TestEarthFaults : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    /// The corners of IEC 60127-2, and that more current never takes longer.
    void aFuseClearsAsItsStandardSays() {
        QVERIFY(std::isinf(plan::fuseClears(2, 1, true)) && std::isinf(plan::fuseClears(2, 1, false)));
        for (const auto& [times, quick, slow] : {std::tuple{2.75, 2.0, 10.0}, {4.0, 0.3, 3.0}, {10.0, 0.02, 0.3}}) {
            QVERIFY(std::abs(plan::fuseClears(0.8 * times, 0.8, false) / quick - 1) < 1e-9);
            QVERIFY(std::abs(plan::fuseClears(0.8 * times, 0.8, true) / slow - 1) < 1e-9);
        }
        for (double amps = 2.2; amps < 40; amps *= 1.1)
            QVERIFY(plan::fuseClears(1.1 * amps, 1, true) <= plan::fuseClears(amps, 1, true));
    }

    /// Ohm's law round the mains' loop, the inlet's wires and the fuse.
    void aLiveConductorOnTheChassisDrivesTheLoopsCurrent() {
        Build b = unwired();
        const WireFigures w = wired(b);
        const EarthFaults& f = w.hum.faults;
        const double earth = earthOhms(w.harness) + jointOhms;
        QVERIFY(f.liveAmps < 230 / (1 + earth + 0.1) && f.liveAmps > 230 / (1 + earth + 0.1 + 0.03));
        QVERIFY(std::abs(f.earthVolts / (f.liveAmps * earth) - 1) < 1e-9);
        QVERIFY2(f.earthVolts < 5 && f.touchVolts > 90 && f.touchVolts < 115,
                 qPrintable(QString::number(f.touchVolts)));
        QCOMPARE(f.liveSeconds, 0.3); // time-lag, far beyond ten times its rating
        QVERIFY(!findingOf(earthFindings(b), "fault/live"));
        // Nobody measured the loop: the assumption is said, with what follows from it.
        b.mains.loopOhms = 0;
        QVERIFY(findingOf(earthFindings(b), "fault/loop"));
        b.mains.loopOhms = 0.8;
        QVERIFY(!findingOf(earthFindings(b), "fault/loop"));
        // 0.4 s at 230 V and 0.8 s at 120 V (IEC 60364-4-41, table 41.1): 12 A clears this fuse in 0.5 s.
        b.fuse.amps = 3.15;
        b.mains.loopOhms = 230 / (3.15 * 8.5);
        QVERIFY(findingOf(earthFindings(b), "fault/live"));
        // A country house with an earth rod: the fuse does not see it.
        b.mains.loopOhms = 150;
        const auto all = earthFindings(b);
        const auto* stop = findingOf(all, "fault/live");
        QVERIFY(stop && stop->level == rules::Level::Stop);
    }
    void withoutASafetyEarthTheChassisStandsAtTheMains() {
        Build b = unwired();
        Wire gone;
        gone.id = "inlet.E_earth.bolt", gone.removed = true;
        b.wiring.wires = {gone};
        const EarthFaults f = wired(b).hum.faults;
        QCOMPARE(f.touchVolts, 230.0);
        QVERIFY(std::isinf(f.liveSeconds) && f.liveAmps == 0);
    }

    /// A shorted silicon bridge: the winding's EMF through its copper, two drops less, full wave.
    void aShortedRailCarriesWhatTheCopperLets() {
        Build b = unwired();
        b.supply.connection = Connection::Bridge;
        b.supply.rectifier.type = "silicon";
        b.transformer.plateVolts = 250, b.transformer.plateResistance = 40;
        const auto s = plan::shortedRail(b, catalogue, 230, 0.01);
        QVERIFY(s);
        const double ratio = 250 / b.transformer.primaryVolts,
                     ohms = 40 + b.transformer.primaryResistance * ratio * ratio + 0.11,
                     emf = 250 * 230 / b.transformer.primaryVolts;
        QVERIFY2(std::abs(s->rms / ((emf - 2.2) / ohms) - 1) < 0.05,
                 qPrintable(QString("%1 %2").arg(s->rms).arg(emf / ohms)));
        QVERIFY(std::abs(s->amps / (s->rms * 2 * std::numbers::sqrt2 / std::numbers::pi) - 1) < 0.02);
        QVERIFY(s->primaryAmps > 0.95 * s->rms * ratio);
        // No short: next to nothing.
        const auto open = plan::shortedRail(b, catalogue, 230, 1e6);
        QVERIFY(open && open->rms < 1e-3);
    }
    void whatABondDoesInAFault() {
        Build b = unwired();
        const EarthFaults direct = wired(b).hum.faults;
        QVERIFY2(direct.railAmps > 0.5 && direct.groundVolts < 0.2, qPrintable(QString::number(direct.groundVolts)));
        b.wiring.bond = Bond::Lifted; // its diodes hold the two within a volt or so of each other
        const EarthFaults lifted = wired(b).hum.faults;
        QVERIFY(lifted.groundVolts > 0.9 && lifted.groundVolts < 1.5 && lifted.railAmps > 0.9 * direct.railAmps);
        b.wiring.bond = Bond::None;
        QVERIFY(std::isinf(wired(b).hum.faults.railSeconds));
    }

    /// What flows into the returns comes out of them; the load's current is its volts over its ohms.
    void theSignalsCurrentsAddUpToNothing() {
        const Build b = unwired();
        const Harness h = harnessOf(b, catalogue);
        const auto reaches = reachesOf(b, catalogue, h, *unwiredFigures().nominal);
        for (const ChannelReach& r : reaches) {
            std::complex<double> sum = 0;
            double most = 0, output = 0;
            for (std::size_t p = 0; p < h.points.size(); ++p) {
                sum += r.signal.amps[p];
                most = std::max(most, std::abs(r.signal.amps[p]));
                if (h.points[p].name == "output-" + b.channels[r.channel].id + ".-")
                    output = std::abs(r.signal.amps[p]);
            }
            QVERIFY2(std::abs(sum) < 1e-6 * most, qPrintable(QString("%1 %2").arg(std::abs(sum)).arg(most)));
            QVERIFY2(std::abs(output * 8 - 1) < 0.02, qPrintable(QString::number(output)));
        }
    }
    /// As proposed the channels hardly meet; with the output's current through the input's return a channel hears
    /// itself.
    void anOutputsReturnAtTheInputComesBackIntoIt() {
        const Build b = unwired();
        const WireFigures w = wired(b);
        for (const SignalReturn& s : w.hum.driven)
            for (std::size_t c = 0; c < s.reached.size(); ++c)
                QVERIFY2(s.reached[c] < 1e-3, qPrintable(QString("%1 %2").arg(c).arg(s.reached[c])));
        QVERIFY(!findingOf(earthFindings(b), "signal-return") && !findingOf(earthFindings(b), "crosstalk"));
        // The output terminal's return goes to the jack's sleeve instead.
        Build wrong = b;
        for (const wires::Run& r : w.harness.runs)
            if (r.kind == RunKind::Ground && (r.wire.from == "output-left.-" || r.wire.to == "output-left.-")) {
                Wire gone;
                gone.id = r.wire.id, gone.removed = true;
                wrong.wiring.wires.push_back(gone);
            }
        Wire own;
        own.id = "mine", own.from = "output-left.-", own.to = "input-left.sleeve";
        wrong.wiring.wires.push_back(own);
        const WireFigures bad = wired(wrong);
        QVERIFY2(bad.hum.driven[0].reached[0] > 5 * w.hum.driven[0].reached[0],
                 qPrintable(QString("%1 %2").arg(bad.hum.driven[0].reached[0]).arg(w.hum.driven[0].reached[0])));
    }

    /// The ring's current is the earths' volts over its resistance; a lifted bond holds it back.
    void anEarthedSourceClosesARing() {
        Build b = unwired();
        b.wiring.sourceEarthed = true;
        const WireFigures w = wired(b);
        const EarthLoop& l = w.hum.earthLoops[0];
        QVERIFY2(l.amps > 0.05 / 0.35 && l.amps < 0.05 / 0.25, qPrintable(QString::number(l.amps)));
        // Most of it is what falls along the screen, amplified.
        const auto reaches = reachesOf(b, catalogue, w.harness, *unwiredFigures().nominal);
        const double screen = l.amps * b.wiring.screenOhms * std::abs(reaches[0].harmonics[0].input);
        QVERIFY2(l.output > 0.5 * screen && l.output < 2 * screen,
                 qPrintable(QString("%1 %2").arg(l.output).arg(screen)));
        const auto all = earthFindings(b);
        const auto* f = findingOf(all, "earth-loop/left");
        QVERIFY(f && f->fix);
        const auto mended = apply(b, *f->fix);
        QVERIFY(mended);
        const double now = wired(*mended).hum.earthLoops[0].output;
        QVERIFY2(now < l.output / 10, qPrintable(QString("%1 %2").arg(now).arg(l.output)));
    }
};

EMBER_TESTS(TestEarthFaults)
#include "test_earth_faults.moc"
