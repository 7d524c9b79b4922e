// The recorder's second input: sinusoids of known ratio and phase, the practice bench's both channels and its own
// input, a recorder that is not flat, and what a capture keeps of it.

#include "../support/demo.h"
#include "../support/shipped.h"
#include "../support/suite.h"

#include "core/bench/second_input.h"
#include "core/bench/virtual_amplifier.h"
#include "core/plan/as_built.h"
#include "core/plan/stage_figures.h"
#include "core/signal/response.h"
#include "core/signal/tone_analysis.h"
#include "core/wires/hum.h"

#include <QTest>

#include <cmath>
#include <numbers>
#include <random>

using namespace ember;
using namespace ember::bench;

class TestSecondInput : public QObject {
    Q_OBJECT
    const Build demo = demoBuild();
    ModelBench model = *ModelBench::at(demo, catalogue, demo.mains.volts);

    /// 10 V RMS in the first; `ratio` of it, `degrees` later, in the second, with even noise [V RMS].
    static signal::Capture two(double hertz, double ratio, double degrees, double noise) {
        signal::Capture c;
        std::mt19937 dice(4);
        std::normal_distribution<double> even(0, noise);
        for (int k = 0; k < 48000; ++k) {
            const double at = 2 * std::numbers::pi * hertz * k / c.sampleRate;
            c.volts.push_back(10 * std::numbers::sqrt2 * std::sin(at) + even(dice));
            c.second.push_back(ratio * 10 * std::numbers::sqrt2 * std::sin(at + degrees * std::numbers::pi / 180) +
                               even(dice));
        }
        return c;
    }
    static TakeRequest tone(SecondInput second, bool all = false, double hertz = 1000) {
        TakeRequest r{TakeKind::Tone, 0, 0.05, hertz, 0.4};
        r.setup.second = second, r.setup.everyChannel = all;
        return r;
    }
    static QString words(const TakeRequest& r, const signal::Capture& c) {
        const auto s = readSecond(r, c, "Left", 50);
        return s ? QString::fromStdString(s->words) : "problem: " + QString::fromStdString(s.problem().sentence);
    }

  private Q_SLOTS:
    void ratioAndPhase_data() {
        QTest::addColumn<double>("hertz");
        QTest::addColumn<double>("db");
        QTest::addColumn<double>("degrees");
        for (const double hz : {20.0, 997.3, 1000.1, 17001.0})
            for (const double db : {-40.0, 0.5})
                for (const double deg : {-150.0, 0.2, 90.0})
                    QTest::addRow("%g Hz, %g dB, %g degrees", hz, db, deg) << hz << db << deg;
    }
    void ratioAndPhase() {
        QFETCH(double, hertz);
        QFETCH(double, db);
        QFETCH(double, degrees);
        const auto b = compareInputs(two(hertz, std::pow(10, db / 20), degrees, 1e-4), hertz);
        QVERIFY2(b.ok(), b ? "" : b.problem().text().c_str());
        QVERIFY2(std::abs(b->ratioDb - db) < 2e-3, qPrintable(QString::number(b->ratioDb)));
        QVERIFY2(std::abs(std::remainder(b->degrees - degrees, 360)) < 0.02, qPrintable(QString::number(b->degrees)));
        QVERIFY(std::abs(b->firstRms - 10) < 1e-3);
    }

    /// 100 dB below the first in noise at -60 dB (over a second some -100 dB a bin): a bound, and no level; 20 dB more
    /// of it is found.
    void whatIsBelowTheNoiseIsABound() {
        const TakeRequest r = tone(SecondInput::NextChannel);
        QVERIFY2(words(r, two(1000, 1e-6, 0, 1e-2)).contains("Crosstalk into Left, not driven: less than -9"),
                 qPrintable(words(r, two(1000, 1e-6, 0, 1e-2))));
        const auto found = compareInputs(two(1000, 1e-4, 0, 1e-2), 1000);
        QVERIFY2(found && std::abs(found->ratioDb + 80) < 1.5 && found->floorDb < -95,
                 qPrintable(QString("%1 %2").arg(found->ratioDb).arg(found->floorDb)));
        QVERIFY(words(r, two(1000, 1e-4, 0, 1e-2)).contains("not driven: -"));
        QVERIFY(!words(r, two(1000, 1e-4, 0, 1e-2)).contains("less"));
    }

    /// By its own recorded input the gain is the plan's, and the output as far behind it as the channel's small signals
    /// say; a player that gives a tenth less than asked is said to.
    void theGainIsThatOverTheRecordedInput() {
        const auto c = model.take(tone(SecondInput::Input));
        QVERIFY2(c.ok(), c ? "" : c.problem().text().c_str());
        QCOMPARE(c->second.size(), c->volts.size());
        const auto b = compareInputs(*c, 1000);
        const double gain = plan::portsOf(demo, catalogue, model.state(), 0).gain;
        QVERIFY2(std::abs(b->ratioDb + 20 * std::log10(gain)) < 0.05,
                 qPrintable(QString("%1 %2").arg(b->ratioDb).arg(gain)));
        QVERIFY(std::abs(b->secondRms / 0.05 - 1) < 1e-4);
        QVERIFY(!words(tone(SecondInput::Input), *c).contains("off"));
        signal::Capture less = *c;
        for (auto* of : {&less.volts, &less.second})
            for (double& v : *of) v *= 0.9;
        const QString said = words(tone(SecondInput::Input), less);
        QVERIFY2(said.contains("50.00 mV were asked for") && said.contains("-10.0 % off"), qPrintable(said));
        QVERIFY(std::abs(compareInputs(less, 1000)->ratioDb - b->ratioDb) < 1e-6);
    }

    /// The plan's two channels are alike, practice amplifiers' nearly.
    void theOtherChannelIsRecordedBesideIt() {
        const auto alike = model.take(tone(SecondInput::NextChannel, true));
        QVERIFY(alike.ok());
        QVERIFY(std::abs(compareInputs(*alike, 1000)->ratioDb) < 0.01);
        QVERIFY(words(tone(SecondInput::NextChannel, true), *alike).startsWith("Left, driven alike"));
        auto practice = VirtualAmplifier::make(demo, catalogue, 3, "");
        QVERIFY(practice && practice->power(6, demo.mains.volts));
        const auto apart = practice->take(tone(SecondInput::NextChannel, true));
        const double db = compareInputs(*apart, 1000)->ratioDb;
        QVERIFY2(std::abs(db) > 1e-3 && std::abs(db) < 1.5, qPrintable(QString::number(db))); // parts off their marks
        TakeRequest silence{TakeKind::Noise, 0, 0, 0, 1};
        silence.setup.second = SecondInput::NextChannel;
        const auto hum = practice->take(silence);
        QVERIFY(hum && signal::crestOf(hum->second) > 1e-5);
        QVERIFY2(words(silence, *hum).startsWith("Left at the same time: "), qPrintable(words(silence, *hum)));
    }

    /// In a channel that is not driven stands what the ground returns carry there from the driven one: the practice
    /// amplifier's reading is what Grounds says of the same amplifier, where that is above the hum and noise beside it.
    void crosstalkIsWhatTheReturnsCarry() {
        plan::Figures figures;
        const Build exact = plan::asBuilt(demo, 0);
        auto practice = VirtualAmplifier::make(demo, catalogue, 0, "");
        QVERIFY(practice && practice->power(6, demo.mains.volts));
        figures.nominal = practice->state();
        const auto wired = wires::wireFigures(exact, catalogue, figures);
        const double planned = 20 * std::log10(wired.hum.driven[0].reached[1]);
        TakeRequest r = tone(SecondInput::NextChannel);
        r.inputRms = 0.5, r.seconds = 2;
        const auto c = practice->take(r);
        QVERIFY(c && c->second.size() == c->volts.size());
        const auto both = compareInputs(*c, 1000);
        QVERIFY(both.ok());
        QVERIFY(both->floorDb < planned - 20); // hum and noise hide none of it
        QVERIFY2(std::abs(both->ratioDb - planned) < 0.5, qPrintable(QString("%1 %2").arg(both->ratioDb).arg(planned)));
        QVERIFY(words(r, *c).startsWith("Crosstalk into Left, not driven: -10"));
    }

    /// Player and recorder that fall by 3 dB at 8 kHz colour both inputs alike: over its own recorded input the
    /// response of a plain gain of ten is flat.
    void aSweepOverItsOwnInputIsFreeOfTheDevice() {
        TakeRequest r{TakeKind::Sweep, 0, 0.1};
        r.setup.second = SecondInput::Input;
        const auto volts = voltsOf(r);
        QVERIFY(volts.ok());
        signal::Capture c;
        const double a = std::exp(-2 * std::numbers::pi * 8000 / takeRate);
        double low = 0;
        for (const double v : *volts) {
            low = a * low + (1 - a) * v;
            c.second.push_back(low), c.volts.push_back(10 * low);
        }
        const signal::Capture stimulus{*volts, takeRate, 0, ""}, input{c.second, takeRate, 0, ""};
        const auto by = signal::sweepResponse(c, stimulus, &input), without = signal::sweepResponse(c, stimulus);
        QVERIFY(by.ok() && without.ok());
        for (const signal::ResponsePoint& p : by->points)
            if (p.hertz > 30 && p.hertz < 18000) QVERIFY(std::abs(p.db - 20) < 0.02);
        QVERIFY2(!(by->highCorner < 20000) && without->highCorner < 9500,
                 qPrintable(QString("%1 %2").arg(by->highCorner).arg(without->highCorner)));
        QVERIFY(words(r, c).contains("from the recorded input"));
    }

    /// Where a take has no use for it, nothing is said of it; a lead that fell off is.
    void elsewhereItIsNotUsed() {
        QVERIFY(!secondInputFits(TakeKind::Square, SecondInput::Input));
        QVERIFY(!secondInputFits(TakeKind::Noise, SecondInput::Input));
        QVERIFY(secondInputFits(TakeKind::Noise, SecondInput::NextChannel));
        QCOMPARE(nextChannel(1, 2), std::size_t(0));
        signal::Capture c = two(1000, 1, 0, 1e-3);
        c.second.resize(100);
        QVERIFY(words(tone(SecondInput::Input), c).startsWith("problem: the second input was not recorded"));
        QVERIFY(words(tone(SecondInput::Input, false, 400), two(1000, 1, 0, 1e-3)).contains("was not found"));
    }
};

EMBER_TESTS(TestSecondInput)
#include "test_second_input.moc"
