#include "../support/demo.h"
#include "../support/parts.h"
#include "../support/shipped.h"
#include "../support/suite.h"

#include "core/plan/solve.h"
#include "core/plan/tone.h"

#include <QTest>

#include <cmath>
#include <numbers>

using namespace ember;
using namespace ember::plan;

class TestTone : public QObject {
    Q_OBJECT
    Build demo = demoOpenLoop();
    Steady rest;
    ChannelSupply supply;

    ToneRun at(double volts, double hertz = 1000, const ChannelSupply* from = nullptr) {
        ToneRun run;
        const auto done = solveTone(demo, catalogue, 0, from ? *from : supply, {volts, hertz}, run);
        if (!done) qFatal("%g V: %s", volts, done.problem().text().c_str());
        return run;
    }

  private Q_SLOTS:
    void initTestCase() {
        const auto s = solveSteady(demo, catalogue, {230});
        QVERIFY(s.ok());
        rest = *s;
        supply = supplyOf(demo, rest);
    }

    void aSmallToneIsCleanAndALargeOneClips() {
        const auto small = at(0.01).figures, large = at(0.5).figures;
        QVERIFY(small.thdPercent < 0.2);
        QVERIFY(large.thdPercent > 8);
        // The pair cannot swing its plates beyond the rail: V^2 / (2 Raa) x 4 bounds the power.
        const double rail = supply.nodes[1];
        QVERIFY(large.watts < 1.3 * 2 * rail * rail / partOf<OutputTransformer>(demo, "ot1").primaryImpedance);
        QVERIFY(large.watts > 5);
    }

    void everyLevelIsSolvedHoweverFarOverdriven_data() {
        QTest::addColumn<double>("volts");
        for (const double v : {0.02, 0.15, 0.3, 0.5, 0.8, 1.0, 2.0, 5.0}) QTest::addRow("%g V", v) << v;
    }
    void everyLevelIsSolvedHoweverFarOverdriven() {
        QFETCH(double, volts);
        const ToneRun run = at(volts);
        // What the rails give is more than what reaches the load.
        double given = 0;
        for (const NodeDraw& d : run.draws) given += supply.nodes[static_cast<std::size_t>(d.node - 1)] * d.amps;
        QVERIFY2(run.figures.watts < given, qPrintable(QString("%1 W of %2 W").arg(run.figures.watts).arg(given)));
        QVERIFY(run.figures.watts > 0 && run.figures.thdPercent < 60);
    }

    /// Twice the volts in, twice the volts out, where nothing bends yet.
    void aSmallSignalIsLinear() {
        const double one = at(0.001).figures.outputRms, two = at(0.002).figures.outputRms;
        QVERIFY(std::abs(two / one - 2) < 0.002);
    }

    void theSecondHarmonicOfASmallToneGrowsWithItsSquare() {
        ChannelSupply uneven = supply;
        uneven.wipers[1] -= 2;
        const auto one = at(0.01, 1000, &uneven).figures, two = at(0.02, 1000, &uneven).figures;
        QVERIFY(std::abs(two.harmonics[1] / one.harmonics[1] - 4) < 0.3);
    }

    void aBalancedPairCancelsItsEvenHarmonics() {
        // Whichever side idles hotter: the second harmonic that the driver brings adds to one and takes from the other.
        const auto second = [&](double wiper) {
            ChannelSupply uneven = supply;
            uneven.wipers[1] += wiper;
            const auto f = at(0.1, 1000, &uneven).figures;
            return f.harmonics[1] / f.harmonics[0];
        };
        const double even = second(0), hotter = second(3), colder = second(-3);
        QVERIFY2(std::max(hotter, colder) > 3 * even,
                 qPrintable(QString("%1 even, %2 and %3").arg(even).arg(hotter).arg(colder)));
    }

    void theHarmonicsHoldTheOutputsEnergy() {
        const ToneRun run = at(0.12);
        double square = 0, mean = 0;
        for (const double h : run.figures.harmonics) square += h * h;
        for (const double v : run.tone.samples) mean += v * v / static_cast<double>(run.tone.samples.size());
        QVERIFY(std::abs(std::sqrt(square / mean) - 1) < 1e-3);
    }

    void aWarmStartFindsTheSameTone() {
        ToneRun warm = at(0.08);
        QVERIFY(solveTone(demo, catalogue, 0, supply, {0.1, 1000}, warm).ok());
        const ToneRun cold = at(0.1);
        QVERIFY(std::abs(warm.figures.outputRms / cold.figures.outputRms - 1) < 1e-5);
        QVERIFY(std::abs(warm.figures.thdPercent / cold.figures.thdPercent - 1) < 1e-3);
    }

    /// Below the corner R / (2 pi L) of source and load in parallel with the primary the bass falls.
    void theBassFallsThroughThePrimaryInductance() {
        const double mid = at(0.02, 1000).figures.outputRms;
        QVERIFY(at(0.02, 10).figures.outputRms < 0.9 * mid);
        Build large = demo;
        partOf<OutputTransformer>(large, "ot1").primaryInductance *= 4;
        ToneRun run;
        QVERIFY(solveTone(large, catalogue, 0, supply, {0.02, 10}, run).ok());
        QVERIFY(run.figures.outputRms > at(0.02, 10).figures.outputRms);
    }

    void musicPullsTheSupplyDown() {
        Sag sag{.warm = {}, .steady = rest};
        ToneRun run;
        QVERIFY(solveToneWithSag(demo, catalogue, 0, true, {0.17, 1000}, sag, run).ok());
        QVERIFY(sag.steady.nodes[1].mean < rest.nodes[1].mean - 5);
        QVERIFY(sag.last.amps[1] > 0.01);
        // Every milliamp more is delivered by the rectifier.
        double drawn = drawnOf(sag.steady);
        for (const double a : sag.last.amps) drawn += a;
        drawn += sag.steady.nodes[0].mean / (2 * 56e3); // the bleeder
        QVERIFY(std::abs(sag.steady.rectifierMean / drawn - 1) < 0.01);
        QVERIFY(run.figures.watts < at(0.17).figures.watts);
        // One channel alone sags less than both.
        Sag alone{.warm = {}, .steady = rest};
        ToneRun one;
        QVERIFY(solveToneWithSag(demo, catalogue, 0, false, {0.17, 1000}, alone, one).ok());
        QVERIFY(alone.steady.nodes[1].mean > sag.steady.nodes[1].mean);
        QVERIFY(one.figures.watts > run.figures.watts);
    }

    void theSweepEndsBeyondClipping() {
        const auto all = channelPower(demo, catalogue, rest);
        QCOMPARE(all.size(), demo.channels.size());
        for (const PowerFigures& p : all) {
            QVERIFY(p.sweep.size() > 8);
            for (std::size_t k = 1; k < p.sweep.size(); ++k) QVERIFY(p.sweep[k].watts > p.sweep[k - 1].watts * 0.98);
            QVERIFY(p.sweep.back().thdPercent > 10 || p.sweep.back().compressionDb > 6);
            // Without feedback the pair's gain falls where one valve alone is left: 3 % come long before the end.
            QVERIFY2(p.clipWatts > 2 && p.sweep.back().watts > 8 && p.sweep.back().watts < 14,
                     qPrintable(QString("%1, %2").arg(p.clipWatts).arg(p.sweep.back().watts)));
            QVERIFY(std::abs(p.gain * p.gain * p.sweep[0].inputRms * p.sweep[0].inputRms / 8 / p.sweep[0].watts - 1) <
                    0.1);
        }
    }

    void aStoppedSweepEndsSoon() {
        std::stop_source stop;
        stop.request_stop();
        QVERIFY(channelPower(demo, catalogue, rest, stop.get_token())[0].sweep.empty());
    }
};

EMBER_TESTS(TestTone)
#include "test_tone.moc"
