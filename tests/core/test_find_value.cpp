// Asking for a figure gives the value that has it; what is in hand is put together rightly; many builds spread about
// one.

#include "../support/demo.h"
#include "../support/shipped.h"
#include "../support/solved.h"
#include "../support/suite.h"

#include "core/build/build_json.h"
#include "core/build/path.h"
#include "core/build/starts.h"
#include "core/plan/as_built.h"
#include "core/plan/find_value.h"
#include "core/plan/source_model.h"
#include "core/plan/supply_case.h"
#include "core/plan/tolerance_run.h"
#include "core/quantity/combine.h"
#include "core/schematic/stage_edits.h"

#include <QTest>

#include <algorithm>
#include <atomic>
#include <cmath>
#include <set>

using namespace ember;
using namespace ember::plan;

class TestFindValue : public QObject {
    Q_OBJECT

    Steady steady(const Build& b, double mains = 230) {
        Conditions c;
        c.mainsVolts = mains;
        const auto s = solveSteady(b, catalogue, c);
        if (!s) qFatal("%s", s.problem().text().c_str());
        return *s;
    }
    /// The build with this value, by the wish's own edit at the exact value.
    static Build with(const Build& b, const std::string& pointer, double value) {
        return *apply(b, schematic::followed(b, setValue("", pointer, value)));
    }

    /// Id of the capacitor that leads into the channel's last stage.
    static std::string couplingInto(const Build& b, std::size_t channel) {
        std::string id;
        for (const Stage& s : b.channels[channel].stages)
            for (const StagePart& p : s.parts)
                if (p.slot == "coupling") id = idOf(p.part);
        return id;
    }

  private Q_SLOTS:
    void theDroppingResistorGivesTheVolts() {
        const Build b = demoBuild();
        const auto w = findValue(b, catalogue, {"/supply/sections/3/resistance", "b3.mean", SoughtGroup::Rest, 240});
        QVERIFY2(w.ok(), w.ok() ? "" : w.problem().text().c_str());
        QCOMPARE(w->part, std::string("r1"));
        QVERIFY(std::abs(steady(with(b, "/supply/sections/3/resistance", w->exact)).nodes[2].mean - 240) < 0.1);
        QVERIFY(w->below.value < w->exact && w->exact < w->above.value);
        QVERIFY(w->below.figure > 240 && 240 > w->above.figure); // less resistance, more volts
        const auto used = apply(b, w->above.edit);
        QVERIFY(used);
        QVERIFY(std::abs(steady(*used).nodes[2].mean - w->above.figure) < 0.05);
        QVERIFY(std::abs(steady(*used).partWatts.at("r1") - w->above.watts) < 1e-3);
    }

    void theCapacitanceGivesTheRipple() {
        const Build b = demoBuild();
        const double now = steady(b).nodes[1].rippleRms;
        const auto w =
            findValue(b, catalogue, {"/supply/sections/2/capacitance", "b2.ripple", SoughtGroup::Rest, now / 2});
        QVERIFY2(w.ok(), w.ok() ? "" : w.problem().text().c_str());
        // Behind a choke ripple goes as 1 / C.
        QVERIFY2(std::abs(w->exact / 200e-6 - 1) < 0.05, qPrintable(QString::number(w->exact)));
    }

    void theFirstCapacitorKeepsThePeakAtHighMains() {
        const Build b = demoBuild();
        const auto w = findValue(
            b, catalogue, {"/supply/sections/0/capacitance", "rectifier.peak", SoughtGroup::Rest, 0.35, b.mains.high});
        QVERIFY2(w.ok(), w.ok() ? "" : w.problem().text().c_str());
        QVERIFY(w->below.figure < 0.35 && w->above.figure > 0.35);
        QVERIFY(std::abs(steady(with(b, "/supply/sections/0/capacitance", w->exact), b.mains.high).rectifierPeak -
                         0.35) < 2e-3);
    }

    void theBleederEmptiesInTime() {
        const auto b = apply(demoBuild(), demoBuild().supply.bleeders.empty() ? firstBleeder() : together("", {}));
        QVERIFY(b);
        const auto w = findValue(
            *b, catalogue, {"/supply/bleeders/0/resistor/resistance", "discharge.seconds", SoughtGroup::Discharge, 40});
        QVERIFY2(w.ok(), w.ok() ? "" : w.problem().text().c_str());
        QVERIFY(w->below.figure < 40 && w->above.figure > 40);
        const auto used = apply(*b, w->below.edit);
        QVERIFY(used);
        QCOMPARE(used->supply.bleeders.size(), std::size_t(1));
        QVERIFY(used->supply.bleeders[0].resistor.watts >= 2 * w->below.watts * 0.99);
    }

    /// Of the other channel, which follows, the same part is of the same value.
    void aCathodeResistorGivesTheCurrent() {
        const Build b = startOf("push-pull-ultralinear")->build;
        std::string pointer;
        for (const ValueChoice& c : valueChoices(b))
            if (c.label.find("cathode of") != std::string::npos && pointer.empty()) pointer = c.pointer;
        QVERIFY(!pointer.empty());
        const std::string figure = usualFigure(b, pointer);
        QVERIFY2(figure.ends_with(".amps"), figure.c_str());
        const auto plateAmps = [&](const Build& x) {
            const auto all = soughtFigures(x, catalogue, SoughtGroup::Rest, 230);
            for (const SoughtFigure& f : *all)
                if (f.figure.id == figure) return f.figure.value;
            return 0.0;
        };
        const double wanted = 0.8 * plateAmps(b);
        const auto w = findValue(b, catalogue, {pointer, figure, SoughtGroup::Rest, wanted});
        QVERIFY2(w.ok(), w.ok() ? "" : w.problem().text().c_str());
        QVERIFY(w->exact > placeAt(b, pointer)->value); // more resistance, less current
        QVERIFY(std::abs(plateAmps(with(b, pointer, w->exact)) / wanted - 1) < 1e-3);
        QVERIFY(w->below.figure > wanted && wanted > w->above.figure);
        QVERIFY(w->below.watts > 0);
    }

    /// The corner of a coupling capacitor into its grid leak, by hand: 1 / (2 pi (Rout + Rleak) C).
    void aCouplingCapacitorGivesTheLowCorner() {
        Build b = startOf("single-ended-triode")->build;
        const auto at = pointerOfId(b, couplingInto(b, 0));
        QVERIFY(at);
        const std::string pointer = *at + "/capacitance";
        QCOMPARE(usualFigure(b, pointer), b.channels[0].id + ".low");
        const double wanted = 60; // far above what the iron does
        const auto w = findValue(b, catalogue, {pointer, b.channels[0].id + ".low", SoughtGroup::Signals, wanted});
        QVERIFY2(w.ok(), w.ok() ? "" : w.problem().text().c_str());
        QVERIFY(w->exact < placeAt(b, pointer)->value);
        QVERIFY(w->below.figure > wanted && wanted > w->above.figure);
        // Twice the capacitance is half the corner, as nearly as this corner stands alone.
        const auto half =
            findValue(b, catalogue, {pointer, b.channels[0].id + ".low", SoughtGroup::Signals, 2 * wanted});
        QVERIFY(half);
        QVERIFY2(std::abs(w->exact / half->exact / 2 - 1) < 0.15, qPrintable(QString::number(w->exact / half->exact)));
    }

    void everyFigureThatIsNamedCanBeHad() {
        for (const Start& start : starts()) {
            if (start.build.channels.empty()) continue;
            const auto names = soughtNames(start.build, catalogue, solved(start.build));
            for (const SoughtGroup g : {SoughtGroup::Rest, SoughtGroup::Signals, SoughtGroup::Discharge}) {
                const auto all = soughtFigures(start.build, catalogue, g, start.build.mains.volts);
                QVERIFY2(all.ok(), start.id.c_str());
                std::vector<std::string> a, b;
                for (const SoughtFigure& f : names)
                    if (f.group == g) a.push_back(f.figure.id);
                for (const SoughtFigure& f : *all) b.push_back(f.figure.id);
                QVERIFY2(a == b && !a.empty(), start.id.c_str());
            }
            std::set<std::string> ids;
            for (const SoughtFigure& f : names) QVERIFY2(ids.insert(f.figure.id).second, f.figure.id.c_str());
        }
    }

    void whatNoValueGivesIsSaid() {
        const auto ask = [](const char* pointer, const char* figure, double wanted) {
            return findValue(demoBuild(), catalogue, {pointer, figure, SoughtGroup::Rest, wanted});
        };
        const auto w = ask("/supply/sections/3/resistance", "b3.mean", 900);
        QVERIFY(!w);
        QVERIFY2(w.problem().sentence.find("no value gives 900 V") != std::string::npos, w.problem().sentence.c_str());
        QVERIFY(!ask("/supply/sections/0/resistance", "b3.mean", 200)); // a capacitor
        QVERIFY(!ask("/supply/sections/3/resistance", "b9.mean", 200)); // no such node
        std::stop_source stop;
        stop.request_stop();
        QVERIFY(!findValue(demoBuild(), catalogue, {"/supply/sections/3/resistance", "b3.mean", SoughtGroup::Rest, 240},
                           stop.get_token()));
    }

    void twoEqualResistorsMakeTheirHalfAndTheirDouble() {
        const auto hand = readHand("2x 1k 2W", HandKind::Resistor);
        QVERIFY(hand);
        const auto series = combine(*hand, HandKind::Resistor, 2e3, 2);
        QCOMPARE(series[0].words, std::string("1.00 kΩ + 1.00 kΩ"));
        QVERIFY(std::abs(series[0].error) < 1e-12);
        QVERIFY(std::abs(series[0].stress - 0.5) < 1e-12); // a watt in each of 2 W
        const auto parallel = combine(*hand, HandKind::Resistor, 500, 2);
        QVERIFY(std::abs(parallel[0].value - 500) < 1e-9);
    }

    void aPartIsNotUsedMoreOftenThanItIsThere() {
        const auto hand = readHand("1k, 2k", HandKind::Resistor);
        QVERIFY(hand);
        for (const Combination& c : combine(*hand, HandKind::Resistor, 4e3, 0, 4)) QVERIFY(c.count <= 2);
    }

    void capacitorsInSeriesShareTheirVolts() {
        const auto hand = readHand("100u 250V, 50u 250V", HandKind::Capacitor);
        QVERIFY(hand);
        const auto best = combine(*hand, HandKind::Capacitor, 100e-6 / 3, 300);
        QVERIFY(std::abs(best[0].value - 100e-6 / 3) < 1e-12);
        QVERIFY(std::abs(best[0].stress - 200.0 / 250) < 1e-9); // the smaller one has two thirds
    }

    void zenersAddUpToTheVoltsThatAreWanted() {
        const auto hand = readHand("3x 47V 1W, 33V 1W, 12V 1W", HandKind::Zener);
        QVERIFY(hand);
        const auto best = combine(*hand, HandKind::Zener, 127, 1);
        QVERIFY(std::abs(best[0].value - 127) < 1e-9); // 47 + 47 + 33
        for (const Combination& c : best) QVERIFY(c.words.find("||") == std::string::npos);
    }

    void whatIsNotUnderstoodInHandIsNamed() {
        const auto hand = readHand("1k, wood", HandKind::Resistor);
        QVERIFY(!hand);
        QVERIFY2(hand.problem().text().find("wood") != std::string::npos, hand.problem().text().c_str());
        QVERIFY(!readHand("  ", HandKind::Resistor));
    }

    void aLoadedTestSolvedBackwardsFindsTheSourceItWasMadeWith() {
        const Build b = demoBuild();
        SupplyCase made;
        made.emf = 270;
        made.sourceOhms = 85;
        made.rectifier = *catalogue.rectifier("5V4G");
        made.supply.sections = {b.supply.sections[0]};
        made.loads = {{1, 3300, 0}};
        const auto read = solveCase(made);
        QVERIFY(read);
        const auto m = fromLoadedTest(b, catalogue, {270, 230, 3300, read->nodes[0].mean});
        QVERIFY2(m.ok(), m.ok() ? "" : m.problem().text().c_str());
        QVERIFY2(std::abs(m->resistance / 85 - 1) < 2e-3, qPrintable(QString::number(m->resistance)));
        QVERIFY(std::abs(m->volts - 270 * b.transformer.primaryVolts / 230) < 1e-9);
        QVERIFY(m->resistanceError > 0.02); // a percent of volts is much of a resistance
        QVERIFY(!fromLoadedTest(b, catalogue, {270, 230, 3300, 500}));
    }

    void aNameplateFallsToItsRatedVoltsAtItsRatedAmps() {
        const auto m = fromNameplate(250, 0.2, 120);
        QVERIFY(m);
        QVERIFY(std::abs(m->volts - 270) < 1e-9); // 8 %
        QVERIFY(std::abs(m->volts - 0.2 * m->resistance - 250) < 1e-9);
        QVERIFY(std::abs(regulationOf(10) - 0.20) < 1e-12 && std::abs(regulationOf(500) - 0.04) < 1e-12);
        QVERIFY(regulationOf(80) < 0.10 && regulationOf(80) > 0.08);
        QVERIFY(!fromNameplate(250, 0, 120));
    }

    void windingsAddUpToTheSource() {
        Build b = demoBuild();
        const auto m = fromWindings(b, {260, 230, 60, 9});
        QVERIFY(m);
        QVERIFY(std::abs(m->resistance - (60 + 9 * std::pow(260.0 / 230, 2))) < 1e-9);
        const auto used = apply(b, useSource(b, *m));
        QVERIFY(used);
        QVERIFY(std::abs(used->transformer.plateVolts - m->volts) < 1e-9);
        // The plan's own primary is 8 ohm: what it contributes is taken off the leg.
        const double ratio = m->volts / b.transformer.primaryVolts;
        QVERIFY(std::abs(used->transformer.plateResistance + b.transformer.primaryResistance * ratio * ratio -
                         m->resistance) < 1e-6);
        QVERIFY(used->transformer.voltsTolerance > 0.02 && used->transformer.voltsTolerance < 0.04);
    }

    void manyBuildsSpreadAboutThePlan() {
        const Build b = demoBuild();
        ToleranceOptions o;
        o.builds = 120;
        std::atomic<double> share = 0;
        o.progress = [&](double s) { share = s; };
        const auto run = toleranceRun(b, catalogue, plan::asBuilt, o);
        QVERIFY2(run.ok(), run.ok() ? "" : run.problem().text().c_str());
        QCOMPARE(run->builds, 120);
        QCOMPARE(share.load(), 1.0);
        const double low = steady(b, b.mains.low).nodes[0].mean, high = steady(b, b.mains.high).nodes[0].mean;
        for (const plan::Spread& s : run->figures) {
            if (!std::isfinite(s.low)) continue;
            QVERIFY2(s.low <= s.middle && s.middle <= s.high, s.nominal.id.c_str());
            if (s.nominal.id != "b1.mean") continue;
            // The mains' own drift is most of it.
            QVERIFY(s.low < s.nominal.value && s.nominal.value < s.high);
            QVERIFY(s.high - s.low > 0.6 * (high - low) && s.high - s.low < 2 * (high - low));
        }
    }

    void noTolerancesAndNoDriftGiveThePlanItself() {
        Build b = demoBuild();
        b.mains.low = b.mains.high = b.mains.volts;
        ToleranceOptions o;
        o.builds = 8;
        o.tolerance = 1e-5;
        const auto run = toleranceRun(
            b, catalogue, [](const Build& x, std::uint64_t) { return x; }, o);
        QVERIFY(run);
        for (const plan::Spread& s : run->figures)
            if (s.nominal.id == "b1.mean") QVERIFY(std::abs(s.high / s.nominal.value - 1) < 5e-4);
    }

    void aRunCanBeStopped() {
        std::stop_source stop;
        stop.request_stop();
        ToleranceOptions o;
        o.stop = stop.get_token();
        QVERIFY(!toleranceRun(demoBuild(), catalogue, plan::asBuilt, o));
    }
};

EMBER_TESTS(TestFindValue)
#include "test_find_value.moc"
