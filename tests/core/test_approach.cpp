// The way up to a take's level, with amplifiers made up for it: what ends it, and that nothing louder was played.

#include "../support/demo.h"
#include "../support/suite.h"

#include "core/bench/approach.h"

#include <QTest>

#include <cmath>
#include <numbers>

using namespace ember;
using namespace ember::bench;

class TestApproach : public QObject {
    Q_OBJECT
    static constexpr double ohms = 8;

    /// Gain, hard clipping at a crest, DC and hum at the output, silence before the tone.
    struct Amplifier {
        double gain = 20, clip = 1e6, dc = 0, hum = 0, late = 0, fullScale = 0;
        std::vector<double> played = {}; ///< [V RMS] at the input
        double mostWatts = 0, mostCrest = 0;

        Expected<signal::Capture> play(double rms) {
            played.push_back(rms);
            signal::Capture c{std::vector<double>(19200), 48000, fullScale, "made up"};
            double squares = 0;
            for (std::size_t k = 0; k < c.volts.size(); ++k) {
                const double t = static_cast<double>(k) / 48000, turn = 2 * std::numbers::pi * t;
                const double tone = t < late ? 0 : gain * rms * std::numbers::sqrt2 * std::sin(1000 * turn);
                c.volts[k] = std::clamp(tone, -clip, clip) + hum * std::numbers::sqrt2 * std::sin(100 * turn) + dc;
                squares += c.volts[k] * c.volts[k];
            }
            mostCrest = std::max(mostCrest, signal::crestOf(c.volts));
            mostWatts = std::max(mostWatts, squares / static_cast<double>(c.volts.size()) / ohms);
            return c;
        }
    };
    static Expected<std::vector<ApproachStep>> up(Amplifier& a, double rms, double watts) {
        return approach(rms, 1000, {ohms, watts}, [&a](double v) { return a.play(v); });
    }
    static void says(const Expected<std::vector<ApproachStep>>& r, const char* words) {
        QVERIFY(!r);
        QVERIFY2(r.problem().sentence.find(words) != std::string::npos, r.problem().sentence.c_str());
    }

  private Q_SLOTS:
    void aSoundAmplifierIsTakenUpInStepsOfTenDecibels() {
        Amplifier a;
        const auto steps = up(a, 0.5, 50);
        QVERIFY(steps && steps->size() == 4);
        for (std::size_t k = 0; k < 4; ++k) {
            const double level = 0.5 * std::pow(10.0, (static_cast<double>(k) - 4) / 2);
            const ApproachStep& s = (*steps)[k];
            QVERIFY(std::abs(s.inputRms / level - 1) < 1e-3 && std::abs(s.outputRms / (20 * level) - 1) < 2e-3);
            QVERIFY(std::abs(s.watts / (400 * level * level / ohms) - 1) < 4e-3 && std::abs(s.dcVolts) < 1e-6);
        }
    }

    /// 12.5 W would stand in a load made for 5 W: not a moment more than 5 W is played.
    void aWeakLoadIsNeverOverdriven() {
        Amplifier a;
        says(up(a, 0.5, 5), "of the 5.0 W that it is made for");
        QVERIFY2(a.mostWatts > 3.5 && a.mostWatts <= 5.01, qPrintable(QString::number(a.mostWatts)));
    }

    void aLoadThatIsJustStrongEnoughIsEnough() {
        Amplifier a;
        QVERIFY(up(a, 0.5, 12.6));
        QVERIFY(a.mostWatts < 12.6);
    }

    /// 2 V in would be 200 W if it did not clip; it clips at 12 V of crest, 18 W at most.
    void clippingIsNotTakenForMoreThanItIs() {
        Amplifier a{.clip = 12};
        const auto steps = up(a, 2, 20);
        QVERIFY2(steps, steps ? "" : steps.problem().sentence.c_str());
        QVERIFY(a.mostWatts < 18);
        Amplifier b{.clip = 12};
        says(up(b, 2, 10), "of the 10 W that it is made for");
        QVERIFY(b.mostWatts < 10.1);
    }

    void directVoltageEndsItAtTheFirstTone() {
        for (const double dc : {0.5, -0.3}) {
            Amplifier a{.dc = dc};
            says(up(a, 0.5, 50), "DC stand across the load");
            QCOMPARE(a.played.size(), std::size_t(1));
            QVERIFY(std::abs(a.played[0] - 0.005) < 1e-9);
        }
        Amplifier offset{.dc = 0.08}; // a recorder's own, of 20 V full scale
        QVERIFY(up(offset, 0.5, 50));
    }

    void theRecorderIsNotClipped() {
        Amplifier a{.fullScale = 5};
        says(up(a, 0.5, 50), "the recorder sees");
        QVERIFY(a.mostCrest < 4.6 && a.mostCrest > 3.5);
        Amplifier wide{.fullScale = 20};
        QVERIFY(up(wide, 0.5, 50));
    }

    /// Hum alone comes back: a volume control at zero, a lead that is off. The take's own level is never reached.
    void aSignalThatDoesNotArriveEndsIt() {
        Amplifier a{.gain = 0, .hum = 0.02};
        says(up(a, 0.5, 50), "does not arrive");
        QVERIFY(a.played.back() < 0.17);
        Amplifier humming{.hum = 0.02}; // a quarter of the first tone
        QVERIFY(up(humming, 0.5, 50));
    }

    /// An instrument amplifier at full volume clips with a hundredth of what was asked for.
    void anOverdrivenAmplifierIsSaid() {
        Amplifier a{.gain = 5000, .clip = 8};
        says(up(a, 0.1, 50), "overdriven");
    }

    void aToneThatComesLateIsHeard() {
        Amplifier a{.late = 0.21};
        const auto steps = up(a, 0.5, 50);
        QVERIFY(steps && std::abs(steps->back().outputRms / (20 * steps->back().inputRms) - 1) < 5e-3);
    }

    void itStopsWhenAsked() {
        Amplifier a;
        std::stop_source stop;
        std::vector<double> said;
        const TakeWatch watch{{}, stop.get_token(), [&](double v) { said.push_back(v); }};
        const auto r = approach(
            0.5, 1000, {ohms, 50},
            [&](double v) {
                if (a.played.size() == 1) stop.request_stop();
                return a.play(v);
            },
            watch);
        says(r, "cancelled");
        QCOMPARE(a.played.size(), std::size_t(2));
        QVERIFY(said == a.played);
    }

    /// A square wave of a tone's crest heats the load twice as much.
    void theLoadIsTheBuildsOwn() {
        const Build b = demoBuild();
        const auto& stages = b.channels[0].stages;
        const auto limits = [&](TakeKind kind) {
            TakeRequest r;
            r.kind = kind;
            return loadLimitsOf(stages, r);
        };
        const LoadLimits tone = limits(TakeKind::Sweep), square = limits(TakeKind::Square);
        TakeRequest loud;
        loud.setup.loudspeaker = Loudspeaker{};
        QCOMPARE(loadLimitsOf(stages, loud).watts, 1.0); // into a loudspeaker no more than that
        QCOMPARE(tone.ohms, 8.0);
        QCOMPARE(square.watts, tone.watts / 2);
        QCOMPARE(loadLimitsOf({}, TakeRequest{}).ohms, 0.0);
    }
};

EMBER_TESTS(TestApproach)
#include "test_approach.moc"
