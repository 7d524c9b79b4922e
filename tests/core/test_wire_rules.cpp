// Findings on wires: each appears with its mistake and goes with its fix; and what the practice bench hums.

#include "../support/inspected.h"
#include "../support/shipped.h"
#include "../support/suite.h"
#include "../support/wired.h"

#include "core/bench/virtual_amplifier.h"
#include "core/plan/solve.h"
#include "core/procedure/first_power.h"
#include "core/quantity/weighting.h"
#include "core/signal/noise_analysis.h"
#include "core/signal/sound_file.h"
#include "core/signal/table_file.h"
#include "core/wires/hum.h"

#include <QFile>
#include <QTemporaryDir>
#include <QTest>

#include <cmath>
#include <functional>

using namespace ember;
using namespace ember::wires;

namespace {

using Change = std::function<void(Build&)>;

void change(Build& b, const std::string& id, const std::function<void(Wire&)>& what) {
    Wire w;
    w.id = id;
    what(w);
    b.wiring.wires.push_back(w);
}

} // namespace

class TestWireRules : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void wiredAsProposedThereIsNothingToSay() {
        for (const auto& f : wireFindings(unwired())) QVERIFY2(false, f.id.c_str());
    }
    void appearsWithItsMistake_data() {
        QTest::addColumn<QString>("id");
        QTest::addColumn<Change>("bad");
        QTest::addColumn<bool>("mends"); // by itself
        const auto row = [](const char* id, bool mends, Change bad) {
            QTest::newRow(id) << QString(id) << bad << mends;
        };
        row("wire-amps/pt1.h1-1_v7.4", true,
            [](Build& b) { change(b, "pt1.h1-1_v7.4", [](Wire& w) { w.area = 0.1e-6; }); });
        row("wire-insulation/ot1.half-a-end_v3.7", true,
            [](Build& b) { change(b, "ot1.half-a-end_v3.7", [](Wire& w) { w.insulationVolts = 300; }); });
        row("mains-colours", false, [](Build& b) { b.wiring.colours = MainsColours::NotChosen; });
        row("heater-straight", true, [](Build& b) { change(b, "v7.4_v6.4", [](Wire& w) { w.straight = true; }); });
        row("heater-floating/h1", true,
            [](Build& b) { b.transformer.heaters[0].reference = HeaterReference::Floating; });
        row("bond/none", true, [](Build& b) { b.wiring.bond = Bond::None; });
        row("bond/several", true, [](Build& b) { b.wiring.insulatedJacks = false; });
        row("earth/none", false, [](Build& b) { change(b, "inlet.E_earth.bolt", [](Wire& w) { w.removed = true; }); });
        row("unconnected/r12.2", false, [](Build& b) { change(b, "r12.2_c3.-", [](Wire& w) { w.removed = true; }); });
        row("charging-return", true, [](Build& b) {
            change(b, "pt1.centre_c1.-", [](Wire& w) { w.removed = true; });
            change(b, "mine", [](Wire& w) { w.from = "pt1.centre", w.to = "c3.-"; });
        });
        row("loop/", false, [](Build& b) { change(b, "mine", [](Wire& w) { w.from = "r12.2", w.to = "c1.-"; }); });
        row("wire/wiring/wires/0", false,
            [](Build& b) { change(b, "mine", [](Wire& w) { w.from = "c77.+", w.to = "c1.+"; }); });
        row("wire-through/c2.-_c1.-", false, [](Build& b) {
            change(b, "c2.-_c1.-", [](Wire& w) { // by way of the rectifier's socket
                w.by.resize(2);
                w.by[0].x = 0.31, w.by[0].y = 0.07;
                w.by[1].x = 0.35, w.by[1].y = 0.07;
            });
        });
        row("wire-outside/c2.-_c1.-", true, [](Build& b) {
            change(b, "c2.-_c1.-", [](Wire& w) { // over the front wall
                w.by.resize(1);
                w.by[0].x = 0.27, w.by[0].y = 0.001;
            });
        });
        row("wire-hole/p-pt", false, [](Build& b) {
            for (PlacedPart& p : b.chassis.parts)
                if (p.of == "pt1")
                    p.id = "p-pt", p.liveAbove = true,
                    std::erase_if(p.holes, [](const Hole& x) { return x.width >= 0.006; });
        });
        row("mains-beside-input/", false, [](Build& b) {
            change(b, "f1.near_switch.1", [](Wire& w) { // along the front wall, where the inputs are
                w.by.resize(2);
                w.by[0].x = 0.02, w.by[0].y = 0.02;
                w.by[1].x = 0.3, w.by[1].y = 0.02;
            });
            for (const char* id : {"input-left.tip_r12.1", "input-right.tip_r32.1"})
                change(b, id, [](Wire& w) {
                    w.by.resize(2);
                    w.by[0].x = 0.06, w.by[0].y = 0.022;
                    w.by[1].x = 0.15, w.by[1].y = 0.022;
                });
        });
    }
    void appearsWithItsMistake() {
        QFETCH(QString, id);
        QFETCH(Change, bad);
        QFETCH(bool, mends);
        Build b = unwired();
        bad(b);
        const auto all = wireFindings(b);
        const auto* f = findingOf(all, id.toStdString());
        QString seen;
        for (const auto& x : all) seen += QString::fromStdString(x.id) + " ";
        QVERIFY2(f, qPrintable(seen));
        QVERIFY(!f->title.empty() && f->text.size() > 40);
        QCOMPARE(f->fix.has_value(), mends);
        if (!mends) return;
        const auto mended = apply(b, *f->fix);
        QVERIFY(mended && !findingOf(wireFindings(*mended), id.toStdString()));
    }
    void humIsNotedOnceItIsHeard() {
        Build b = unwired();
        change(b, "pt1.centre_c1.-", [](Wire& w) { w.removed = true; });
        change(b, "mine", [](Wire& w) { w.from = "pt1.centre", w.to = "r12.2", w.area = 0.05e-6; });
        change(b, "r12.2_c3.-", [](Wire& w) { w.area = 0.05e-6; }); // thin wire, so that the pulses drop more across it
        plan::Figures f = unwiredFigures();
        f.power.resize(2);
        for (auto& p : f.power) p.clipOutput = 8;
        f.wires = std::make_shared<const WireFigures>(wireFigures(b, catalogue, f));
        std::vector<rules::Finding> all;
        rules::wireRules(b, catalogue, f, all);
        const auto* hum = findingOf(all, "hum/left");
        QVERIFY(hum && hum->text.find("grounds") != std::string::npos);
    }

    void thePracticeBenchHumsAsThePlanSays() {
        // Exactly as planned, with hardly a tone: what is left of the capture is the budget's.
        auto practice = bench::VirtualAmplifier::make(unwired(), catalogue, 0, {});
        QVERIFY(practice && practice->power(6, unwired().mains.volts));
        const auto c = practice->take({bench::TakeKind::Noise, 0, 0, 1000, 2});
        QVERIFY(c);
        const auto measured = signal::analyseNoise(*c, 50);
        QVERIFY(measured);
        const auto planned = wireFigures(unwired(), catalogue, unwiredFigures()).hum.channels[0];
        for (const int k : {1, 2}) {
            const auto at = std::find_if(measured->lines.begin(), measured->lines.end(),
                                         [&](const auto& l) { return std::abs(l.hertz - 50 * k) < 0.5; });
            QVERIFY(at != measured->lines.end());
            QVERIFY2(std::abs(20 * std::log10(at->rms / planned.lines[static_cast<std::size_t>(k - 1)].rms)) < 0.5,
                     qPrintable(QString("%1 Hz: %2, planned %3")
                                    .arg(50 * k)
                                    .arg(at->rms)
                                    .arg(planned.lines[static_cast<std::size_t>(k - 1)].rms)));
        }
        QVERIFY(std::abs(measured->rms / planned.rms - 1) < 0.15);
    }
    /// With a shorting plug the last stage reads what the budget says; the practice amplifier has its own.
    void firstPowerExpectsTheHumOfTheBudget() {
        const Build b = demoBuild();
        const auto stage = procedure::firstPowerStage(b, catalogue, 6, 230, {.samples = procedure::roughSamples});
        const auto at = std::find_if(stage.expectations.begin(), stage.expectations.end(),
                                     [](const auto& e) { return e.point.id == "hum-left"; });
        QVERIFY(at != stage.expectations.end());
        const plan::Figures f = plan::solveFigures(b, catalogue);
        const double planned = wires::wireFigures(b, catalogue, f).hum.channels[0].rms;
        QVERIFY2(std::abs(at->band.nominal / planned - 1) < 0.02, qPrintable(QString::number(at->band.nominal)));
        QVERIFY(at->band.low == 0 && at->band.high > 2 * planned && at->band.high < 10 * planned);
        auto practice = bench::VirtualAmplifier::make(b, catalogue, 3, "");
        QVERIFY(practice && practice->power(6, 230));
        const auto read = practice->read("hum-left");
        QVERIFY(read && *read > 0.3 * planned && *read < 3 * planned);
    }
    void readingsOfAStageAreSolvedOnce() {
        auto practice = bench::VirtualAmplifier::make(unwired(), catalogue, 3, {});
        QVERIFY(practice && practice->power(6, 230));
        const double before = practice->state().nodes[0].mean;
        QVERIFY(practice->power(6, 230) && practice->state().nodes[0].mean == before);
        QVERIFY(practice->power(6, 240) && practice->state().nodes[0].mean > before);
        Build hotter = unwired();
        for (Channel& ch : hotter.channels)
            for (Stage& s : ch.stages)
                for (StagePart& p : s.parts)
                    if (auto* a = std::get_if<AdjusterPart>(&p.part)) a->position = 0.1;
        const double cold = practice->state().nodes[0].mean;
        practice->adjust(hotter); // more current
        QVERIFY(practice->power(6, 240) && practice->state().nodes[0].mean < cold);
    }
    void aCaptureIsReadByItsKindAndChannel() {
        QTemporaryDir dir;
        QFile table(dir.filePath("two.csv"));
        QVERIFY(table.open(QIODevice::WriteOnly));
        table.write("t,a,b\n");
        for (int k = 0; k < 100; ++k) table.write(QString("%1,%2,%3\n").arg(k * 1e-4).arg(k).arg(-k).toUtf8());
        table.close();
        const auto a = signal::readCapture(table.fileName().toStdString(), 1, 5),
                   z = signal::readCapture(table.fileName().toStdString(), 2, 5);
        QVERIFY(a && z && a->volts[7] == 7 && z->volts[7] == -7 && std::abs(a->sampleRate - 10000) < 1e-6);
        QVERIFY(!signal::readCapture(table.fileName().toStdString(), 3, 5));
        const auto sound = dir.filePath("tone.wav").toStdString();
        QVERIFY(signal::writeSound(sound, {0, 0.5, -0.5, 0}, 44100));
        const auto w = signal::readCapture(sound, 1, 2);
        QVERIFY(w && std::abs(w->volts[1] - 1) < 1e-6 && w->sampleRate == 44100);
        QVERIFY(!signal::readCapture(sound, 2, 2));
    }
};

EMBER_TESTS(TestWireRules)
#include "test_wire_rules.moc"
