#include "../support/demo.h"
#include "../support/parts.h"
#include "../support/shipped.h"
#include "../support/suite.h"

#include "core/plan/heater.h"
#include "core/plan/solve.h"

#include <QTest>

#include <cmath>

using namespace ember;
using namespace ember::plan;

class TestPlan : public QObject {
    Q_OBJECT
    Build demo = demoBuild();

    Steady solved(const Conditions& c, const Build& b) {
        const auto s = solveSteady(b, catalogue, c);
        if (!s) qFatal("%s", s.problem().text().c_str());
        return *s;
    }

  private Q_SLOTS:
    void supplyAndStagesAgreeOnTheirCurrents() {
        const Steady s = solved({230}, demo);
        double drawn = 0;
        drawn += drawnOf(s);
        drawn += s.nodes[0].mean / (2 * 56e3); // the bleeder
        QVERIFY2(std::abs(s.rectifierMean / drawn - 1) < 0.01,
                 "what the rectifier delivers is what stages and bleeder draw, but for leakage");
        QVERIFY(std::abs(s.nodes[0].mean - s.chokeAmps.at("l1") * 95 - s.nodes[1].mean) < 0.05);
    }

    void voltsFollowTheMains() {
        const Steady low = solved({216}, demo), high = solved({248}, demo);
        const double ratio = high.nodes[1].mean / low.nodes[1].mean;
        QVERIFY(ratio > 1.08 && ratio < 248.0 / 216 + 0.02);
    }

    void withoutValvesTheReservoirNearsTheCrest() {
        const Steady s = solved({230, false, true, false, false}, demoWithoutBleeder());
        const double crest = demo.transformer.plateVolts * demo.mains.crest;
        QVERIFY(s.nodes[0].mean < crest && s.nodes[0].mean > 0.98 * crest);
        QVERIFY(s.nodes[0].ripplePp < 1);
    }

    void theLampTakesWhatTheAmplifierDoesNot() {
        const Steady s = solved({230, true, true, true, true}, demo);
        QVERIFY(s.lamp.volts > 20 && s.lamp.volts < 120);
        QVERIFY(s.primaryVolts < 230 - 0.8 * s.lamp.volts);
        // Radiated power gives the temperature back: P ~ T^4.
        QVERIFY(std::abs(std::pow(s.lamp.kelvin / 2780, 4) * demo.limiter.watts / s.lamp.watts - 1) < 0.03);
        const Steady bare = solved({230}, demo);
        QVERIFY(s.nodes[0].mean < 0.9 * bare.nodes[0].mean);
    }

    void colderBiasDrawsLess() {
        const Steady set = solved({230}, demo), cold = solved({230, false, true, true, true, true}, demo);
        QVERIFY(pointOf(demo, cold, "v3").plateAmps < 0.6 * pointOf(demo, set, "v3").plateAmps);
        QVERIFY(cold.nodes[0].mean > set.nodes[0].mean);
        QVERIFY(cold.wipers[0] < set.wipers[0]);
    }

    void aDeadSmallValvePullsItsPlateToTheRail() {
        Build b = demo;
        valveOf(b, "v2").emission = 0;
        const Steady s = solved({230}, b);
        QVERIFY(std::abs(pointOf(b, s, "v2").plate / s.nodes[2].mean - 1) < 0.01);
        QVERIFY(pointOf(b, s, "v5").plate < 0.6 * s.nodes[2].mean);
    }

    void anOpenHalfWindingStarvesItsPlateAndLoadsTheScreen() {
        Build b = demo;
        partOf<OutputTransformer>(b, "ot1").primaryResistanceA = 1e9;
        const Steady s = solved({230}, b);
        QVERIFY(pointOf(b, s, "v3").plateAmps < 1e-4);
        QVERIFY(pointOf(b, s, "v3").screenAmps > 2 * pointOf(b, s, "v4").screenAmps);
    }

    void oneMoreMicrofaradLessRipple() {
        Build b = demo;
        const double before = solved({230}, b).nodes[0].ripplePp;
        b.supply.sections[0].capacitance *= 2;
        QVERIFY(solved({230}, b).nodes[0].ripplePp < 0.62 * before);
    }

    void aHeaterReachesHalfEmissionAtItsWarmUp() {
        const Heater h{6.3, 0.76, false, 14};
        const WarmUp w(h, 1);
        QVERIFY(w.emission(0) < 1e-6);
        QVERIFY(std::abs(w.emission(14) - 0.5) < 0.02);
        QVERIFY(w.emission(40) > 0.95);
        QVERIFY(WarmUp(h, 0.7).emission(14) < w.emission(14));
        QVERIFY(emissionAt(heaterHotKelvin) > 0.999);
        // Without volts the heater falls as 1/T^3 grows: from 1400 K to half emission it loses a few percent of its
        // heat first.
        QVERIFY(w.emissionCooling(0) > 0.99);
        for (double t = 1; t < 55; t += 1) QVERIFY(w.emissionCooling(t) <= w.emissionCooling(t - 1));
        QVERIFY(w.emissionCooling(30) < 0.3);
    }

    void coldHeatersDrawFiveToEightTimes() {
        circuit::IncandescentLaw h = heaterLaw({6.3, 0.76, false, 14}, 1);
        h.kelvin = 293;
        const double ratio = 6.3 / 0.76 / h.ohms();
        QVERIFY(ratio > 5 && ratio < 8);
    }

    void switchOnPeaksBeforeTheOutputValvesWarm() {
        const Steady s = solved({230}, demo);
        const auto c = switchOn(demo, catalogue, s, 30);
        QVERIFY(c.ok());
        QVERIFY(c->most(0) > 1.08 * s.nodes[0].mean);
        QVERIFY2(std::abs(c->nodes[0].back() / s.nodes[0].mean - 1) < 0.02,
                 "thirty seconds on, the run and the periodic solution agree");
    }

    void resistorsDischargeByTheExponential() {
        Build b = demoWithoutBleeder();
        for (Section& x : b.supply.sections) x.tolerance = 0;
        b.supply.sections[1].inductance = 1e-3;
        b.supply.sections[3].resistance = 1; // one big capacitor, in effect
        b.supply.bleeders.push_back({{}, 1, {{}, "rb", 100e3, 5, 0}});
        const Steady s = solved({230, false, true, false, false}, b);
        const auto c = switchOff(b, catalogue, s, false, 120);
        QVERIFY(c.ok());
        double farads = 0;
        for (const Section& x : b.supply.sections)
            if (x.kind == SectionKind::Capacitor) farads += x.capacitance;
        const double want = 100e3 * farads * std::log(s.nodes[0].mean / 50);
        QVERIFY2(std::abs(c->below(0, 50) / want - 1) < 0.01,
                 qPrintable(QString("%1 s against %2 s").arg(c->below(0, 50)).arg(want)));
    }

    void figuresAreTheSameTwice() {
        const Figures a = solveFigures(demo, catalogue), b = solveFigures(demo, catalogue);
        QVERIFY(a.failures.empty());
        QCOMPARE(a.nominal->nodes[0].mean, b.nominal->nodes[0].mean);
    }
};

EMBER_TESTS(TestPlan)
#include "test_plan.moc"
