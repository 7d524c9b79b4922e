// What another setup of the bench changes, on the plan's own netlist: level control, load, loudspeaker, how many
// channels are driven; against closed forms.

#include "../support/demo.h"
#include "../support/shipped.h"
#include "../support/suite.h"

#include "core/bench/model_bench.h"
#include "core/bench/series/series.h"
#include "core/bench/virtual_amplifier.h"
#include "core/build/starts.h"
#include "core/plan/solve.h"
#include "core/plan/stage_figures.h"
#include "core/schematic/stages/stage_kind.h"
#include "core/signal/tone_analysis.h"

#include <QTest>

#include <cmath>
#include <numbers>

using namespace ember;
using namespace ember::bench;

class TestSetups : public QObject {
    Q_OBJECT
    const Build demo = demoBuild();
    ModelBench model = *ModelBench::at(demo, catalogue, demo.mains.volts);

    static double rms(ModelBench& of, const TakeRequest& r) {
        const auto c = of.take(r);
        if (!c) qFatal("%s", c.problem().text().c_str());
        return signal::analyseTone(c->volts, c->sampleRate, 0)->harmonics[0].rms;
    }
    static TakeRequest toneOf(double hertz, const Setup& setup, double volts = 0.05) {
        TakeRequest r{TakeKind::Tone, 0, volts, hertz, 0.3};
        r.setup = setup;
        return r;
    }

  private Q_SLOTS:
    /// Behind its output impedance z the amplifier makes e R / (R + z) in any load: two loads tell z, and it is the one
    /// that the small signals give with the load taken off.
    void anotherLoadFollowsTheOutputImpedance() {
        Setup sixteen;
        sixteen.loadOhms = 16;
        const double eight = rms(model, toneOf(1000, {})), more = rms(model, toneOf(1000, sixteen)),
                     ratio = more / eight;
        const double z = (ratio - 1) * 8 * 16 / (16 - 8 * ratio);
        const double planned = plan::portsOf(demo, catalogue, model.state(), 0).outputOhms;
        QVERIFY2(std::abs(z / planned - 1) < 0.03, qPrintable(QString("%1 %2").arg(z).arg(planned)));
        // The build's own load, said by its ohms, changes nothing.
        Setup same;
        same.loadOhms = schematic::loadResistor(demo.channels[0].stages)->resistance;
        QVERIFY(std::abs(rms(model, toneOf(1000, same)) / eight - 1) < 1e-6);
    }

    /// The loudspeaker's impedance divides with the same z: at its resonance, and where the voice coil rises.
    void aLoudspeakerDividesWithTheOutputImpedance() {
        Setup speaker;
        speaker.loudspeaker = loudspeakerOf(8);
        const double z = plan::portsOf(demo, catalogue, model.state(), 0).outputOhms;
        for (const double hz : {60.0, 400.0}) {
            const double load = speaker.loudspeaker->impedance(hz); // nearly a resistance at both
            const double wanted = 20 * std::log10(load / (load + z) * (8 + z) / 8),
                         got = 20 * std::log10(rms(model, toneOf(hz, speaker)) / rms(model, toneOf(hz, {})));
            QVERIFY2(std::abs(got - wanted) < 0.12,
                     qPrintable(QString("%1 Hz: %2 dB, %3 wanted").arg(hz).arg(got).arg(wanted)));
        }
        // The other channel keeps its resistor.
        QVERIFY(schematic::loadResistor(asSetUp(demo, 0, speaker).channels[1].stages)->resistance < 100);
    }

    /// A control at half of its travel passes what its taper says, a tenth of the track, loaded lightly.
    void theLevelControlFollowsItsTaper() {
        const Build line = startOf("line-stage")->build;
        const PotentiometerPart* control = schematic::levelControl(line.channels[0].stages);
        QVERIFY(control != nullptr);
        ModelBench stage = *ModelBench::at(line, catalogue, line.mains.volts);
        Setup full, half;
        full.control = 1, half.control = 0.5;
        PotentiometerPart middle = *control;
        middle.position = 0.5;
        const double got = 20 * std::log10(rms(stage, toneOf(1000, half)) / rms(stage, toneOf(1000, full))),
                     wanted = 20 * std::log10(trackShare(middle));
        QVERIFY2(std::abs(got - wanted) < 1, qPrintable(QString("%1 dB, %2 wanted").arg(got).arg(wanted)));
        QVERIFY(!schematic::levelControl(demo.channels[0].stages));
    }

    /// With every channel driven the supply falls further: less power for the same distortion.
    void everyChannelTakesTheSupplyDown() {
        Setup every;
        every.everyChannel = true;
        const double one = rms(model, toneOf(1000, {}, 1.1)), all = rms(model, toneOf(1000, every, 1.1));
        QVERIFY2(all < 0.97 * one && all > 0.7 * one, qPrintable(QString("%1 %2").arg(all).arg(one)));
        QVERIFY(std::abs(rms(model, toneOf(1000, every)) / rms(model, toneOf(1000, {})) - 1) < 0.01); // small: alike
    }

    /// What the builder is asked for, in a sentence, and nothing where nothing changes.
    void changesAreSaid() {
        Setup a, b;
        QVERIFY(changeInWords(a, b, "Left").empty());
        b.loadOhms = 16;
        QVERIFY(changeInWords(a, b, "Left").find("Connect a load of 16 Ω to Left, the amplifier switched off") == 0);
        QVERIFY(changeInWords(b, a, "Left").find("the build's own load") != std::string::npos);
        a.loadOhms = 16, b.control = 0.5;
        QCOMPARE(changeInWords(a, b, "Left"), std::string("Turn the level control to 50 % of its travel."));
        b.loudspeaker = loudspeakerOf(8), b.everyChannel = true;
        const std::string all = changeInWords(a, b, "Left");
        for (const char* part : {"the loudspeaker", "50 %", "Join the inputs of all channels"})
            QVERIFY2(all.find(part) != std::string::npos, part);
        QCOMPARE(inWords(Setup{}), std::string("as built"));
        QCOMPARE(inWords(b), std::string("loudspeaker, control at 50 %, all channels"));
    }

    /// A node's volts while a burst plays are those of the supply that the channel pulls down; another node of the same
    /// burst is read without playing it again.
    void supplyNodesAreRecorded() {
        TakeRequest burst{TakeKind::Burst, 0, 0.9, 200, 0.6};
        burst.node = 1;
        int moved = 0;
        const auto first = model.take(burst, {[&](double) { ++moved; }, {}});
        QVERIFY2(first.ok(), first ? "" : first.problem().text().c_str());
        QVERIFY(moved > 10 && first->sampleRate == 100);
        QVERIFY(std::abs(first->volts.front() / model.state().nodes[0].mean - 1) < 1e-3);
        QVERIFY(first->volts.front() - *std::min_element(first->volts.begin(), first->volts.end()) > 3);
        moved = 0;
        burst.node = 2;
        const auto second = model.take(burst, {[&](double) { ++moved; }, {}});
        QVERIFY(second && moved == 0 && second->volts.front() < first->volts.front());
        burst.node = 9;
        QVERIFY(model.take(burst).problem().sentence.find("no supply node B+9") != std::string::npos);
        QVERIFY(!model.take({TakeKind::Tone, 7, 0.1, 1000, 0.1}));
    }

    /// Turned in the build, the control is turned on the practice amplifier too; a load that is exchanged is exchanged.
    void thePracticeAmplifierFollowsTheBuild() {
        Build line = startOf("line-stage")->build;
        auto a = VirtualAmplifier::make(line, catalogue, 0, "");
        QVERIFY(a && a->power(6, line.mains.volts));
        const auto level = [&] {
            const auto c = a->take({TakeKind::Tone, 0, 0.05, 1000, 0.3});
            return signal::analyseTone(c->volts, c->sampleRate, 0)->harmonics[0].rms;
        };
        const double before = level();
        schematic::levelControl(line.channels[0].stages)->position = 0.3;
        schematic::loadResistor(line.channels[0].stages)->resistance /= 10;
        a->adjust(line);
        QVERIFY(a->power(6, line.mains.volts));
        QVERIFY2(level() < 0.8 * before, qPrintable(QString("%1 %2").arg(level()).arg(before)));
    }

    /// The plan's own gain and THD by the series are those of its power figures.
    void theSeriesAgreesWithThePlansFigures() {
        plan::Figures figures = plan::solveFigures(demo, catalogue);
        plan::completeFigures(demo, catalogue, figures);
        const SeriesContext context = seriesContextOf(demo, figures);
        SeriesRequest r{SeriesKind::Power};
        r.frequencies = {1000};
        r.everyChannel = true;
        const auto out = measure(r, context, [&](const TakeRequest& t) { return model.take(t); });
        QVERIFY2(out.ok(), out ? "" : out.problem().text().c_str());
        const plan::PowerFigures& p = figures.power[0];
        QVERIFY2(std::abs(out->figure("3 % THD") / p.cleanWatts - 1) < 0.03,
                 qPrintable(QString("%1 %2").arg(out->figure("3 % THD")).arg(p.cleanWatts)));
        QVERIFY(std::abs(out->figure("gain") - 20 * std::log10(p.gain)) < 0.1);
        QVERIFY(std::abs(out->figure("input for 3 %") / p.cleanInput - 1) < 0.03);
        QVERIFY(std::abs(out->figure("output at 3 %") / p.cleanOutput - 1) < 0.03);
        // Flattening begins before 3 %, 10 % and a decibel come after it.
        QVERIFY(out->figure("10 % THD") > out->figure("3 % THD") && out->figure("1 % THD") < out->figure("3 % THD"));
    }
};

EMBER_TESTS(TestSetups)
#include "test_setups.moc"
