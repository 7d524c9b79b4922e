// Where a reading ends a stage, what stage 0 proves, what a meter's own resistance does, and where each danger is met.

#include "../support/demo.h"
#include "../support/parts.h"
#include "../support/shipped.h"
#include "../support/solved.h"
#include "../support/step.h"
#include "../support/suite.h"

#include "core/bench/virtual_amplifier.h"
#include "core/build/starts.h"
#include "core/plan/bias_range.h"
#include "core/schematic/stages/stage_kind.h"

#include <QTest>

#include <cmath>

using namespace ember;
using namespace ember::procedure;
using namespace ember::tests;

namespace {

Build withSilicon(Connection c = Connection::CentreTapped) {
    Build b = demoBuild();
    b.supply.rectifier.type = "silicon";
    b.supply.rectifier.inSeries = 3;
    b.supply.connection = c;
    if (c == Connection::Doubler) b.supply.sections[0].inSeries = 2;
    if (c != Connection::CentreTapped && c != Connection::HalfWave) b.bias.from = BiasSource::Winding;
    return b;
}

} // namespace

class TestLimits : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    /// Whatever the band says: a node's stop limit is the lowest rating that hangs there.
    void bPlusStopsAtTheLowestRatingOfItsNode() {
        Build b = demoBuild();
        b.supply.sections[0].volts = 250; // far below what stands there
        Section second = b.supply.sections[2];
        second.id = "c9";
        second.volts = 240;
        b.supply.sections.insert(b.supply.sections.begin() + 1, second);
        const PowerStage s = stageOf(b, 5);
        QCOMPARE(*at(s, "B+1").stopAbove, 240.0);
        QCOMPARE(judge(at(s, "B+1"), 290), Verdict::Stop);
        QCOMPARE(*at(s, "B+3").stopAbove, b.supply.sections.back().volts);
    }

    void noStopLimitIsAboveARating() {
        const Build b = demoBuild();
        for (int k = 1; k < stageCount; ++k) {
            const PowerStage s = stageOf(b, k);
            for (const Expectation& e : s.expectations) {
                if (e.point.kind == PointKind::Node) QVERIFY(*e.stopAbove <= 500);
                if (e.point.kind == PointKind::HeaterVolts && e.stopAbove)
                    QVERIFY(*e.stopAbove <=
                            1.1 * (b.transformer.heaters[e.point.index].feeds == "signal" ? 6.3 : 5) + 1e-9);
                if (e.point.kind == PointKind::Sense) { // 12 W at the plate, 65 mA at the cathode
                    const double plate = pointOf(b, *s.steady, b.bottles[e.point.index].id).plate;
                    QVERIFY(*e.stopAbove / 10 * plate <= 12.1 && *e.stopAbove / 10 <= 0.065);
                }
            }
        }
    }

    /// At the bias stop limit an average valve burns its plate's published watts at the volts it will meet.
    void theBiasStopsWhereThePlateWouldReachItsWatts() {
        const Build b = demoBuild();
        const PowerStage first = stageOf(b, 1), later = stageOf(b, 5);
        const double stop = *at(first, "bias-v3").stopAbove;
        const auto& p = pointOf(b, *later.steady, "v3");
        const auto f = figuresAt(catalogue.valve("EL84")->section(1).law, p.plate, stop, p.screen);
        QVERIFY2(std::abs(f.plateAmps * p.plate - 12) < 0.1, qPrintable(QString::number(f.plateAmps * p.plate)));
        QCOMPARE(judge(at(first, "bias-v3"), -1), Verdict::Stop);
    }

    void stageZeroProvesInsulationAndEarth() {
        const PowerStage s = stageOf(demoBuild(), 0);
        for (const char* id : {"line-chassis", "neutral-chassis", "primary-secondary"}) {
            const Expectation& e = at(s, id);
            QVERIFY2(e.band.nominal > 1e8, id);
            QCOMPARE(judge(e, 50e6), Verdict::InRange);
            QCOMPARE(judge(e, 100e3), Verdict::Stop);
            QVERIFY(QString::fromStdString(sentence(e, 100e3)).contains("before mains"));
        }
        QVERIFY(*at(s, "primary-secondary").stopBelow > *at(s, "line-chassis").stopBelow); // reinforced
        QCOMPARE(judge(at(s, "earth"), 0.05), Verdict::InRange);
        QCOMPARE(judge(at(s, "earth"), 0.4), Verdict::High);
        QCOMPARE(judge(at(s, "earth"), 1e6), Verdict::Stop);
        // Through the centre tap, half of its copper; through the plate winding's, the leg's.
        QVERIFY(at(s, "chassis-h1").band.nominal < 0.1);
        QVERIFY(std::abs(at(s, "winding-chassis").band.nominal / 140 - 1) < 0.01);
    }

    void aHeaterReadsThroughItsReference() {
        Build b = demoBuild();
        b.transformer.heaters[0].reference = HeaterReference::Resistors;
        QVERIFY(std::abs(at(stageOf(b, 0), "chassis-h1").band.nominal - 50) <
                0.1); // 100 ohm and 100 ohm, copper between
        b.transformer.heaters[0].reference = HeaterReference::Floating;
        const Expectation afloat = at(stageOf(b, 0), "chassis-h1");
        QVERIFY(afloat.band.nominal > 1e8 && afloat.stopBelow);
        // A 5 V rectifier's cathode is joined to its heater: that winding reads what B+ reads.
        const PowerStage s = stageOf(b, 0);
        QVERIFY(std::abs(at(s, "chassis-h2").band.nominal / at(s, "b+-ohms").band.nominal - 1) < 1e-3);
    }

    /// The winding lies across the load: with a lead lifted a missing or shorted load cannot pass.
    void theLoadIsToldFromTheWinding() {
        const PowerStage s = stageOf(demoBuild(), 0);
        const Expectation& e = at(s, "load-left");
        QCOMPARE(judge(e, 8), Verdict::InRange);
        QVERIFY(judge(e, 0.45) == Verdict::Stop && judge(e, 1e9) == Verdict::Stop && judge(e, 4) == Verdict::Low);
        QVERIFY(says(s, "lift one secondary lead"));
        QVERIFY(says(s, "0.43") && says(s, "0.45")); // both together, and an open one
    }

    /// Better capacitors leak less, up to what the bleeder alone reads; a short or a missing bleeder is out of band.
    void bPlusReadsAboveAShortAndNotAboveTheBleeder() {
        const Expectation e = at(stageOf(demoBuild(), 0), "b+-ohms");
        QCOMPARE(judge(e, 105e3), Verdict::InRange);
        QCOMPARE(judge(e, 30e3), Verdict::Low);
        QCOMPARE(judge(e, 300), Verdict::Stop); // a tenth of the least that was expected: a short
        QCOMPARE(judge(e, 1e6), Verdict::High);
        const Expectation none = at(stageOf(demoWithoutBleeder(), 0), "b+-ohms");
        QVERIFY(std::isinf(none.band.high));
    }

    /// Silicon raises B+ as soon as the mains is on: it is read and judged from there, and the words follow the
    /// connection.
    void withSiliconBPlusIsReadAtTheFirstSwitchOn_data() {
        QTest::addColumn<int>("connection");
        QTest::addColumn<QString>("words");
        QTest::newRow("centre tap") << int(Connection::CentreTapped) << "centre tap";
        QTest::newRow("bridge") << int(Connection::Bridge) << "AC corners";
        QTest::newRow("half wave") << int(Connection::HalfWave) << "grounded end";
        QTest::newRow("doubler") << int(Connection::Doubler) << "capacitors' middle";
    }
    void withSiliconBPlusIsReadAtTheFirstSwitchOn() {
        QFETCH(int, connection);
        QFETCH(QString, words);
        const Build b = withSilicon(static_cast<Connection>(connection));
        const PowerStage s = stageOf(b, 1);
        QVERIFY2(s.failure.empty(), s.failure.c_str());
        for (const char* id : {"B+1", "B+2", "B+3"}) QVERIFY2(at(s, id).band.nominal > 150, id);
        QVERIFY(at(s, "B+1").stopAbove);
        QVERIFY2(says(s, words), qPrintable(words));
        QVERIFY(QString::fromStdString(s.cautions[0]).contains("on the capacitors"));
        const PowerStage second = stageOf(b, 2);
        QVERIFY(!QString::fromStdString(second.instruction).contains("Put the rectifier in"));
        QVERIFY(!find(stageOf(demoBuild(), 1), "B+1"));
    }

    void aTapOfSiliconCountsToo() {
        Build b = demoBuild();
        Section tap = b.supply.sections[1], capacitor = b.supply.sections[2];
        tap.id = "tap1", tap.kind = SectionKind::Tap, tap.volts = 150, tap.resistance = 20;
        capacitor.id = "c9";
        b.supply.sections.push_back(tap);
        b.supply.sections.push_back(capacitor);
        const PowerStage s = stageOf(b, 1);
        QVERIFY(at(s, "B+4").band.nominal > 150);
        QVERIFY2(std::abs(at(s, "B+1").band.nominal) < 1, "the valve is not in yet");
        QCOMPARE(judge(at(s, "B+1"), 0.3), Verdict::InRange);
    }

    /// What a 10 Mohm meter shows behind R: V 10M / (10M + R).
    void theMeterLoadsWhatItReads() {
        Build b = demoBuild();
        const auto s = plan::solveSteady(b, catalogue, stageConditions(b, 1, 230));
        QVERIFY(s.ok());
        const auto points = pointsOfStage(b, 1);
        const TestPoint* grid = findPoint(points, "bias-v3");
        const double leak = 220e3 + 2200, open = pointOf(b, *s, "v3").grid;
        QVERIFY(std::abs(reading(b, catalogue, *s, *grid) / (open * 10e6 / (10e6 + leak)) - 1) < 1e-4);
        b.meter.inputResistance = 1e6;
        QVERIFY(std::abs(reading(b, catalogue, *s, *grid) / (open * 1e6 / (1e6 + leak)) - 1) < 1e-4);
        QVERIFY2(std::abs(reading(b, catalogue, *s, *findPoint(points, "leg")) - s->legVolts) < 1e-9,
                 "a winding is no high resistance");
        // A plate behind 270k in parallel with the valve's own resistance reads low by less than by 270k alone.
        const auto in = plan::solveSteady(b, catalogue, stageConditions(b, 3, 230));
        const auto third = pointsOfStage(b, 3);
        const double plate = reading(b, catalogue, *in, *findPoint(third, "plate1-v2")),
                     real = pointOf(b, *in, "v2").plate;
        QVERIFY(plate < real && plate > real * 1e6 / (1e6 + 270e3));
    }

    /// Before the output valves go in, a leaky coupling shows at their empty sockets' grids.
    void aLeakyCouplingShowsBeforeTheOutputValvesGoIn() {
        const Build b = demoBuild();
        const PowerStage s = stageOf(b, 3);
        Build leaky = b;
        partOf<CapacitorPart>(leaky, "c11").leakageResistance = 4e6;
        const auto bad = plan::solveSteady(leaky, catalogue, s.conditions);
        QVERIFY(bad.ok());
        const double reads = reading(leaky, catalogue, *bad, at(s, "bias-v3").point);
        const Verdict v = judge(at(s, "bias-v3"), reads);
        QVERIFY2(v == Verdict::High || v == Verdict::Stop, qPrintable(QString::number(reads)));
        QCOMPARE(judge(at(s, "bias-v4"), reading(leaky, catalogue, *bad, at(s, "bias-v4").point)), Verdict::InRange);
    }

    /// At a cathode the least of the bypass's volts, the resistor's watts and the valve's limits.
    void aCathodeStopsAtWhatIsAtItsLimitFirst() {
        const Build b = startOf("single-ended-triode")->build;
        const PowerStage s = stageOf(b, 5);
        int seen = 0;
        for (const Expectation& e : s.expectations) {
            if (e.point.kind != PointKind::Cathode || !e.point.runsAway) continue;
            ++seen;
            QVERIFY2(e.stopAbove, e.point.id.c_str());
            for (const Channel& ch : b.channels)
                for (const Stage& stage : ch.stages) {
                    if (!schematic::isOutput(stage) || stage.valves[0].bottle != b.bottles[e.point.index].id) continue;
                    const auto& r = std::get<ResistorPart>(stage.part("cathode")->part);
                    QVERIFY(*e.stopAbove <= std::sqrt(r.watts * r.resistance) + 1e-9);
                    if (const StagePart* bypass = stage.part("bypass"))
                        QVERIFY(*e.stopAbove <= std::get<CapacitorPart>(bypass->part).volts);
                }
        }
        QVERIFY(seen > 0);
    }

    /// Before a valve depends on it: grid leak and cathode resistor by ohms at the empty socket.
    void whatBiasesAValveIsProvedAtItsEmptySocket() {
        const PowerStage s = stageOf(demoBuild(), 0);
        const Expectation &grid = at(s, "grid-ohms-v3"), &cathode = at(s, "cathode-ohms-v3");
        // 220 kohm, 2.2 kohm stopper, and what the bias pot's wiper adds: less than its track and floor.
        QVERIFY2(grid.band.nominal > 222.2e3 && grid.band.nominal < 222.2e3 + 25e3,
                 qPrintable(QString::number(grid.band.nominal)));
        QVERIFY2(std::abs(cathode.band.nominal - 10) < 0.5, qPrintable(QString::number(cathode.band.nominal)));
        QCOMPARE(judge(grid, overloadOhms), Verdict::Stop); // an open leak: the valve has no bias
        QCOMPARE(judge(grid, 1e3), Verdict::Stop);
        QCOMPARE(judge(cathode, 0.2), Verdict::Stop);
        QCOMPARE(judge(grid, grid.band.nominal), Verdict::InRange);
    }

    void overloadIsAReading() {
        const Build b = demoBuild();
        const auto points = testPoints(b);
        const auto read = parseReading(b, *findPoint(points, "line-chassis"), " OL ");
        QVERIFY(read.ok() && *read >= overloadOhms);
        QCOMPARE(judge(at(stageOf(b, 0), "line-chassis"), *read), Verdict::InRange);
        QCOMPARE(judge(at(stageOf(b, 0), "primary-ohms"), *read), Verdict::Stop); // an open primary
        QVERIFY(!parseReading(b, *findPoint(points, "B+1"), "OL").ok());
        QCOMPARE(readText(*read, Unit::Ohm), std::string("OL"));
    }

    void bothLegsOfAWindingAreReadApartAndTogether() {
        const PowerStage cold = stageOf(demoBuild(), 0), first = stageOf(demoBuild(), 1);
        QVERIFY(std::abs(at(cold, "leg-ends-ohms").band.nominal /
                             (at(cold, "leg-ohms").band.nominal + at(cold, "leg-b-ohms").band.nominal) -
                         1) < 0.01);
        QVERIFY(std::abs(at(first, "leg-ends").band.nominal / (2 * at(first, "leg").band.nominal) - 1) < 0.01);
    }

    /// A grid that should stand at 0 V has a range, and stops above 1 V: a leaky coupling.
    void aGridHasARangeAndAStop() {
        const PowerStage s = stageOf(startOf("single-ended-triode")->build, 3);
        int grids = 0;
        for (const Expectation& e : s.expectations)
            if (e.point.kind == PointKind::Grid) {
                ++grids;
                QVERIFY2(e.band.high - e.band.low >= 0.1 && e.stopAbove && *e.stopAbove <= 1, e.point.id.c_str());
            }
        QVERIFY(grids > 0);
    }

    void chargeLeftWithThePlugOutStopsIt() {
        for (const int step : {0, 3}) {
            const Expectation e = at(stageOf(demoBuild(), step), "held-c1");
            QCOMPARE(judge(e, 0.2), Verdict::InRange);
            QCOMPARE(judge(e, 30), Verdict::High);
            QCOMPARE(judge(e, 312), Verdict::Stop);
            QVERIFY(QString::fromStdString(sentence(e, 312)).contains("discharge it"));
        }
    }

    /// A meter on ohms or amps at high voltage is the usual slip: each reading names its mode and range.
    void eachReadingNamesTheMetersRange() {
        QCOMPARE(meterSetting(at(stageOf(demoBuild(), 5), "B+1")), std::string("DC volts, 1 kV range"));
        QCOMPARE(meterSetting(at(stageOf(demoBuild(), 5), "sense-v3")), std::string("DC volts, 2 V range"));
        QCOMPARE(meterSetting(at(stageOf(demoBuild(), 1), "heater-h1")), std::string("AC volts, 20 V range"));
        QCOMPARE(meterSetting(at(stageOf(demoBuild(), 0), "load-left")), std::string("ohms, 200 Ω range"));
    }

    /// 312 kV is a slip of the finger.
    void eachPointHasLimitsOfSense() {
        const Build b = demoBuild();
        const auto points = testPoints(b);
        const Range volts = senseOf(b, *findPoint(points, "B+1")), ohms = senseOf(b, *findPoint(points, "earth"));
        QVERIFY(volts.most > 1000 && volts.most < 3000 && volts.least < -100);
        QVERIFY(ohms.least == 0 && senseOf(b, *findPoint(points, "leg")).least == 0);
    }

    /// Each danger is named where the act is, with its number; nobody is told that a thing is safe to touch.
    void theCautionsStandWhereTheyBite() {
        std::vector<PowerStage> s;
        for (int k = 0; k < stageCount; ++k) s.push_back(stageOf(demoBuild(), k));
        QVERIFY(says(s[0], "live even when it is switched off") && says(s[0], "Minus to ground: C1, C2, C3") &&
                says(s[0], "Plus to ground: C4, C5"));
        QVERIFY(says(s[1], "does not isolate") && says(s[1], "stepped supply") && says(s[1], "category II") &&
                says(s[1], "H1 stands in for it: ") && says(s[1], "400 V peak"));
        for (int k = 1; k < stageCount; ++k)
            QVERIFY(says(s[static_cast<std::size_t>(k)], "with the plug out, then switch on") &&
                    says(s[static_cast<std::size_t>(k)], "One hand, no rings; not alone, not tired"));
        QVERIFY(says(s[2], "rated for 600 V"));
        QVERIFY(says(s[4], "runs away") && says(s[4], "load stays on") && says(s[4], "insulated to its tip"));
        QVERIFY(says(s[5], "not a loudspeaker"));
        for (const PowerStage& x : s) QVERIFY(!says(x, "safe to touch") && !says(x, "lift the earth"));
    }

    /// "No bias" offers a feed that goes below ground with the connection at hand, and so it does.
    void theBiasIsFedFromWhatSwingsBelowGround() {
        for (const Connection c :
             {Connection::CentreTapped, Connection::Bridge, Connection::HalfWave, Connection::Doubler}) {
            Build b = withSilicon(c);
            b.transformer.biasVolts = 0;
            b.bias.from = c == Connection::CentreTapped || c == Connection::HalfWave ? BiasSource::PlateResistor
                                                                                     : BiasSource::PlateCapacitor;
            const double fed = solved(b).biasRail;
            QVERIFY2(fed < -1, qPrintable(QString("%1: %2 V").arg(static_cast<int>(c)).arg(fed)));
            // Behind a bridge or a doubler the winding's end never swings below ground: a resistor feeds nothing.
            b.bias.from = BiasSource::PlateResistor;
            const bool swings = c == Connection::CentreTapped || c == Connection::HalfWave;
            QVERIFY(swings ? solved(b).biasRail < -5 : solved(b).biasRail > -1);
        }
    }
};

EMBER_TESTS(TestLimits)
#include "test_limits.moc"
