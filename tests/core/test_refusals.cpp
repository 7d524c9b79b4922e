// Steps of First Power that must not be passed, and what their words have to fit.
#include "../support/demo.h"
#include "../support/step.h"
#include "../support/suite.h"

#include "core/build/starts.h"

#include <QTest>

#include <algorithm>

using namespace ember;
using namespace ember::procedure;
using namespace ember::tests;

class TestRefusals : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    /// What is predicted to pass a rating is refused, with the numbers, and the step cannot be passed.
    void aStepThatIsPredictedToFailIsRefused() {
        Build b = demoBuild();
        b.supply.sections[0].volts = 350;
        const PowerStage s = stageOf(b, 2);
        QVERIFY2(!s.refusals.empty(), "C1 of 350 V behind 280 V of silicon-free rectifier");
        const QString said = QString::fromStdString(s.refusals[0]);
        QVERIFY2(said.startsWith("Do not switch on: B+1 will stand at") && said.contains("C1 is rated 350 V"),
                 qPrintable(said));
        const auto against = obstacles(b, s, Strand::Amplifier);
        QVERIFY(std::find(against.begin(), against.end(), s.refusals[0]) != against.end());
        QVERIFY(stageOf(demoBuild(), 2).refusals.empty());
        for (const Start& start : starts())
            for (const int step : {2, 5}) {
                const PowerStage sound = stageOf(start.build, step);
                QVERIFY2(sound.refusals.empty(),
                         (start.id + ": " + (sound.refusals.empty() ? "" : sound.refusals[0])).c_str());
            }
    }

    /// Without a solution the cautions and ratings stay, and the step cannot be passed.
    void withoutASolutionTheRatingsStay() {
        PowerStage s = stageOf(demoBuild(), 5);
        s.steady.reset(), s.cold.reset();
        s.failure = "no stable operating point";
        for (Expectation& e : s.expectations) e.band = {}, e.stopAbove.reset();
        setStopLimits(demoBuild(), catalogue, s);
        QCOMPARE(judge(at(s, "B+1"), 2000), Verdict::Stop);
        QVERIFY(!cautionsOf(demoBuild(), catalogue, s).empty());
        const auto against = obstacles(demoBuild(), s, Strand::Amplifier);
        QVERIFY(std::any_of(against.begin(), against.end(),
                            [](const std::string& x) { return x.find("could not be computed") != std::string::npos; }));
    }

    void theWordsFitTheAmplifier() {
        const PowerStage line =
            stageOf(startOf("line-stage") ? startOf("line-stage")->build : startOf("supply-alone")->build, 4);
        QVERIFY(!says(line, "bias pot") && !says(line, "put the output valves in"));
        const PowerStage self = stageOf(startOf("single-ended-triode")->build, 4);
        QVERIFY(!says(self, "bias pot") && says(self, "output valves in"));
        QVERIFY(says(stageOf(demoBuild(), 1), "every bias pot to its most negative end"));
        QVERIFY(says(stageOf(demoBuild(), 2), "eye protection on"));
        QVERIFY(says(stageOf(demoBuild(), 0), "insulation tester"));
        for (int k = 0; k < stageCount; ++k) QVERIFY(!says(stageOf(demoBuild(), k), "warms or ticks"));
    }
};

EMBER_TESTS(TestRefusals)
#include "test_refusals.moc"
