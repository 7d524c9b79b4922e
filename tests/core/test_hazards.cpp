// Each danger of the work at the place of the act, once, with its number: what the program says of it there. Those that
// the window alone says are met in its own tests: 32 in TestIronDialog, 33 in TestFirstPower, 40 in TestSoundDevice.
#include "../support/demo.h"
#include "../support/inspected.h"
#include "../support/shipped.h"
#include "../support/suite.h"

#include "core/bench/connecting.h"
#include "core/bench/soak.h"
#include "core/chassis/handling.h"
#include "core/plan/discharge.h"
#include "core/plan/solve.h"
#include "core/plan/supply_feedback.h"
#include "core/procedure/changes.h"
#include "core/procedure/first_power.h"

#include <QTest>

#include <functional>

using namespace ember;
using namespace ember::procedure;

namespace {

const PowerStage& step(int k) {
    static std::vector<std::optional<PowerStage>> known(stageCount);
    auto& s = known[static_cast<std::size_t>(k)];
    if (!s) s = firstPowerStage(demoBuild(), catalogue, k, 230, {.samples = 8});
    return *s;
}

/// All words of a step of the demo.
QString wordsOf(int k) {
    const PowerStage& s = step(k);
    QString out = QString::fromStdString(s.instruction + "\n" + s.stopIf);
    for (const std::string& c : s.cautions) out += "\n" + QString::fromStdString(c);
    for (const Expectation& e : s.expectations)
        out += "\n" + QString::fromStdString(e.point.label + ": " + e.point.probe + "; " + meterSetting(e) + "; " +
                                             e.ifStopped);
    return out;
}

/// A finding's words, of the demo changed so.
QString finding(const std::string& id, const std::function<void(Build&)>& change, bool wired = false) {
    Build b = demoBuild();
    change(b);
    const auto all = inspected(b, wired);
    const auto* f = findingOf(all, id);
    return f ? QString::fromStdString(f->title + ". " + f->text) : QString();
}

} // namespace

class TestHazards : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void isMetWhereItBites_data() {
        QTest::addColumn<QString>("said");
        QTest::addColumn<QStringList>("has");
        const auto row = [](int number, const QString& said, const QStringList& has) {
            QTest::addRow("%d", number) << said << has;
        };
        const auto nothing = [](Build&) {};
        Build bare = demoWithoutBleeder();
        const auto cold = plan::solveFigures(bare, catalogue).cold;
        const auto held = plan::dischargeOf(bare, *cold);
        const QString byHand = QString::fromStdString(plan::inWords(held->byHand));
        row(1, wordsOf(3), {"read every capacitor below 10 V", "C1 with the plug out"});
        row(2, finding("slow-discharge", [](Build& b) { b.supply.bleeders.clear(); }),
            {"no path to discharge", "insulated clips", " s"});
        row(3, byHand, {"Read each again after a minute", "V come back"});
        row(4, wordsOf(0), {"live even when it is switched off", "pull the plug"});
        row(5, finding("switch-neutral", [](Build& b) { b.mainsSwitch.breaks = Breaks::Neutral; }),
            {"opens the neutral alone", "230 V"});
        row(6,
            finding(
                "earth/none",
                [](Build& b) {
                    Wire gone;
                    gone.id = "inlet.E_earth.bolt", gone.removed = true;
                    b.wiring.wires = {gone};
                },
                true),
            {"no safety earth"});
        row(7, wordsOf(0), {"2 MΩ", "insulation tester"});
        row(8, wordsOf(1), {"does not isolate"});
        row(9, wordsOf(1), {"stepped supply"});
        row(10, wordsOf(1), {"RMS", "V peak", "both are live"});
        row(11, wordsOf(2), {"with the plug out, then switch on", "rated for 600 V"});
        row(12, wordsOf(5), {"DC volts, 1 kV range", "highest range first"});
        row(13, wordsOf(2), {"One hand, no rings; not alone, not tired"});
        row(14, finding("capacitor-volts/c1", [](Build& b) { b.supply.sections[0].volts = 350; }),
            {"over its rating when cold", "350 V"});
        row(15, wordsOf(0), {"Minus to ground: C1, C2, C3", "Plus to ground: C4, C5"});
        row(16, wordsOf(4), {"runs away within seconds", "mV"});
        row(17, wordsOf(3), {"V3 grid", "red on"});
        row(18, wordsOf(5), {"load stays on", "an open secondary"});
        row(19,
            finding("dc-volts/s9",
                    [](Build& b) {
                        Section s;
                        s.id = "s9", s.kind = SectionKind::Switch, s.resistance = 0.1, s.dcVolts = 125;
                        b.supply.sections.insert(b.supply.sections.begin() + 1, s);
                    }),
            {"cannot break the volts", "125 V"});
        row(20, finding("fuse", [](Build& b) { b.fuse.amps = 5; }), {"too large", "5.00 A"});
        row(21, finding("rectifier-inverse", [](Build& b) { b.supply.rectifier.type = "silicon"; }),
            {"V of", "transients of the mains"});
        row(22, finding("hot-glass", nothing), {"°C"});
        row(23,
            finding("live-above/",
                    [](Build& b) {
                        b.chassis.cover = Cover::None;
                        for (PlacedPart& p : b.chassis.parts)
                            if (p.kind == "transformer") p.liveAbove = true;
                    }),
            {"live lugs where hands go", " V stand there"});
        row(24, wordsOf(5), {"insulated to its tip"});
        plan::PowerFigures power;
        power.load = 8, power.clipWatts = 12;
        const QString connected = QString::fromStdString(bench::connectingWords(&power, 2.5));
        row(25, connected, {"clip them on the output's grounded terminal alone", "differential probe"});
        row(26, connected, {"If the 1 kΩ opens, all 21 V stand there", "Four silicon diodes"});
        row(27, connected, {"the load takes 12 W", "rated for 24 W", "hot enough to burn"});
        row(28, connected, {"While it is switched on up to 2.5 V come out", "once it has warmed up"});
        row(29,
            finding(
                "heater-floating/", [](Build& b) { b.transformer.heaters[0].reference = HeaterReference::Floating; },
                true),
            {"leakage sets its volts", " V of B+1"});
        row(31, QString::fromStdString(chassis::handlingCaution(demoBuild().chassis)), {"goggles", "swarf", " kg"});
        row(34, QString::fromStdString(bench::soakCaution(92, 12)), {"Stay with it", "92 W", "12 W", "smoke alarm"});
        row(38,
            finding(
                "fuse-breaking", [](Build& b) { b.fuse.breaking = Breaking::Low; }, true),
            {"35.0 A", "1500 A", "may burst"});
        row(41,
            finding(
                "unconnected/",
                [](Build& b) {
                    Wire gone;
                    gone.id = "output-left.-_c2.-", gone.removed = true;
                    b.wiring.wires.push_back(gone);
                },
                true),
            {"on the loudspeaker's terminals", " V"});
        row(30,
            finding(
                "fault/live", [](Build& b) { b.mains.loopOhms = 150; }, true),
            {"not sure to clear", "150 Ω"});
        row(35, wordsOf(2), {"eye protection on"});
        Build practised = demoBuild();
        practised.log = {stageEntry(0, StageEvent::Passed, Strand::Practice)};
        row(36,
            QString("%1: %2").arg(QString::fromStdString(practised.log[0].source),
                                  progressOf(practised, Strand::Amplifier).steps[0].passed ? "passed" : "not passed"),
            {"practice", "not passed"});
        row(39, byHand, {"up to", "V come back"});
        plan::Figures slow;
        slow.oscillations = {{0, plan::throughTheSupply, 8}};
        const auto seen = rules::inspect(demoBuild(), catalogue, slow);
        const auto* motorboat = findingOf(seen, "unstable/left/supply");
        row(44, motorboat ? QString::fromStdString(motorboat->title + ". " + motorboat->text) : QString(),
            {"8.0 Hz", "Do not connect a loudspeaker"});
        row(42, wordsOf(0), {"ohms, 200 Ω range"});
        Build changed = demoBuild();
        changed.log.push_back(stageEntry(0, StageEvent::Passed, Strand::Amplifier));
        Build after = changed;
        after.supply.sections[0].volts = 350;
        logChanges(changed, after, "");
        row(37, finding("exchange/c1", [&](Build& b) { b = after; }),
            {"to be exchanged", "500 V → 350 V", "step \"cold\""});
        row(43, finding("exchange/c1", [&](Build& b) { b = after; }), {"changed in the plan"});
    }
    void isMetWhereItBites() {
        QFETCH(QString, said);
        QFETCH(QStringList, has);
        for (const QString& words : has)
            QVERIFY2(said.contains(words), qPrintable("\"" + words + "\" is not in: " + said));
        QVERIFY(!said.contains("safe to touch") && !said.contains("lift the earth"));
    }
};

EMBER_TESTS(TestHazards)
#include "test_hazards.moc"
