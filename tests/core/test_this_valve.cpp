// One valve beside the average of its type, and valves that go together.

#include "../support/demo.h"
#include "../support/parts.h"
#include "../support/shipped.h"
#include "../support/suite.h"

#include "core/build/valve_stock.h"
#include "core/plan/solve.h"

#include <QTest>

#include <cmath>
#include <random>

using namespace ember;

namespace {

/// What a tester reads of a valve with these shares.
ValveReading readAt(const ValveType& type, const ValveShares& s, double plate, double screen, double grid) {
    const ValveFigures f = figuresAt(lawOf(type.section(1).law, s), plate, grid, screen);
    return {1, plate, screen, grid, s.emission * f.plateAmps, type.section(1).pentode ? s.emission * f.screenAmps : 0};
}

} // namespace

class TestThisValve : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    /// A tired, sharp EL84: from readings that tell each share, all four come back within two percent.
    void aPentodesSharesComeBack() {
        const ValveType& type = *catalogue.valve("EL84");
        const ValveShares is{0.8, 1.06, 1.2, 0.85};
        std::vector<ValveReading> readings;
        for (const double volts : {150.0, 250.0, 300.0})
            for (const double grid : {-3.0, -7.0, -11.0, -15.0})
                readings.push_back(readAt(type, is, volts, volts, grid));
        const auto found = readValve(type, readings, 0.005);
        QVERIFY(found.ok());
        QVERIFY2(std::abs(found->shares.emission / 0.8 - 1) < 0.02,
                 qPrintable(QString::number(found->shares.emission)));
        QVERIFY(std::abs(found->shares.mu / 1.06 - 1) < 0.02);
        QVERIFY(std::abs(found->shares.cutoff / 1.2 - 1) < 0.02);
        QVERIFY(std::abs(found->shares.screen / 0.85 - 1) < 0.02);
        QVERIFY(found->error < 0.005 && found->averageError > 0.1);
        QVERIFY(found->open.empty());
        for (const Share s : {Share::Emission, Share::Mu, Share::Cutoff, Share::Screen}) QVERIFY(found->told(s));
    }

    /// One reading tells the current; of the rest it is said that it is not told, and by what it would be.
    void oneReadingTellsTheCurrent() {
        const ValveType& type = *catalogue.valve("ECC85");
        const std::vector<ValveReading> one{readAt(type, {0.7, 1, 1, 1}, 250, 0, -2)};
        const auto found = readValve(type, one);
        QVERIFY(found.ok());
        QVERIFY(found->error < 0.03);
        QVERIFY(found->shares.emission < 0.9);
        QVERIFY(!found->told(Share::Cutoff));
        QVERIFY(!found->open.empty());
        QVERIFY(found->open.back().find("a tenth of the current") != std::string::npos);
    }

    /// Readings with errors of their own: what comes back is as sure as they are.
    void readingsWithErrors() {
        const ValveType& type = *catalogue.valve("EL84");
        std::mt19937 engine(3);
        std::normal_distribution<double> error(0, 0.02);
        double worst = 0;
        for (int k = 0; k < 12; ++k) {
            const ValveShares is{0.7 + 0.05 * k, 1, 1, 1};
            std::vector<ValveReading> readings;
            for (const double volts : {200.0, 250.0, 300.0})
                for (const double grid : {-5.0, -8.0, -12.0}) {
                    readings.push_back(readAt(type, is, volts, volts, grid));
                    readings.back().plateAmps *= 1 + error(engine);
                    readings.back().screenAmps = 0;
                }
            const auto found = readValve(type, readings);
            QVERIFY(found.ok());
            const MatchFigures was = matchFigures(type, is, {1, 250, 250, -7.3, 0, 0}),
                               now = matchFigures(type, found->shares, {1, 250, 250, -7.3, 0, 0});
            worst = std::max(worst, std::abs(now.amps / was.amps - 1));
        }
        QVERIFY2(worst < 0.03, qPrintable(QString::number(worst)));
    }

    /// What nobody's valve can be is refused, with the row and what was expected.
    void absurdReadingsAreRefused() {
        const ValveType& type = *catalogue.valve("EL84");
        QVERIFY(!readValve(type, {}).ok());
        const auto why = [&](ValveReading r) {
            const std::vector<ValveReading> all{readAt(type, {}, 250, 250, -7.3), r};
            const auto found = readValve(type, all);
            return found ? std::string() : found.problem().text();
        };
        QVERIFY(why({1, 250, 250, -7.3, 48, 0}).find("reading 2") != std::string::npos); // mA as amperes
        QVERIFY(why({1, 250, 250, 7.3, 0.0005, 0}).find("against the cathode, below it") != std::string::npos);
        QVERIFY(why({1, 250, 0, -7.3, 0.048, 0}).find("screen") != std::string::npos);
        QVERIFY(!why({1, NAN, 250, -7.3, 0.048, 0}).empty());
        QVERIFY(why({1, 250, 250, -7.3, 0.04, 0}).empty());
    }

    /// Pairs against every possible pairing: the worst pair is as good as it can be.
    void pairsAreTheBestThereAre() {
        std::mt19937 engine(5);
        std::uniform_real_distribution<double> amps(0.03, 0.05), gm(0.009, 0.012);
        for (int run = 0; run < 20; ++run) {
            std::vector<MatchFigures> valves;
            for (int k = 0; k < 6; ++k) valves.push_back({amps(engine), gm(engine)});
            const auto cost = [&](std::size_t a, std::size_t b) {
                const auto apart = [](double x, double y) { return std::max(x, y) / std::min(x, y) - 1; };
                return apart(valves[a].amps, valves[b].amps) + 0.25 * apart(valves[a].gm, valves[b].gm);
            };
            double best = 1e9;
            std::vector<std::size_t> order{0, 1, 2, 3, 4, 5};
            do
                best = std::min(
                    best, std::max({cost(order[0], order[1]), cost(order[2], order[3]), cost(order[4], order[5])}));
            while (std::next_permutation(order.begin(), order.end()));
            const auto found = matched(valves, 2);
            QCOMPARE(found.size(), std::size_t(3));
            double worst = 0;
            for (const MatchedGroup& g : found) worst = std::max(worst, cost(g.valves[0], g.valves[1]));
            QVERIFY(std::abs(worst - best) < 1e-12);
        }
    }

    /// The one that fits nobody is left over; four alike are found among twelve.
    void theOddOneIsLeftOver() {
        const std::vector<MatchFigures> five{{0.040, 0.01}, {0.050, 0.01}, {0.041, 0.01}, {0.049, 0.01}, {0.070, 0.01}};
        const auto pairs = matched(five, 2);
        QCOMPARE(pairs.size(), std::size_t(2));
        for (const MatchedGroup& g : pairs)
            for (const std::size_t k : g.valves) QVERIFY(k != 4);
        std::vector<MatchFigures> twelve;
        for (int k = 0; k < 12; ++k) twelve.push_back({0.03 + 0.01 * (k % 3) + 1e-4 * k, 0.01});
        const auto quads = matched(twelve, 4);
        QCOMPARE(quads.size(), std::size_t(3));
        for (const MatchedGroup& g : quads)
            for (const std::size_t k : g.valves) QCOMPARE(k % 3, g.valves[0] % 3);
        QVERIFY(matched(five, 8).empty());
    }

    /// What was read of a valve is what the plan computes with; in another socket it goes with the glass.
    void readingsEnterThePlanAndMoveWithTheGlass() {
        Build b = demoBuild();
        const auto place = ValvePlace{false, bottleIndex(b, "v3").value()};
        const ValveType& type = *catalogue.valve(valveAt(b, place).type);
        const auto rest = plan::solveSteady(b, catalogue, {230});
        QVERIFY(rest.ok());
        const double average = pointOf(b, *rest, "v3").plateAmps;
        std::vector<ReadPoint> points;
        for (const double grid : {-6.0, -9.0, -12.0}) {
            const ValveReading r = readAt(type, {0.75, 1, 1, 1}, 280, 280, grid);
            ReadPoint p;
            p.plate = r.plate, p.screen = r.screen, p.grid = r.grid, p.plateAmps = r.plateAmps;
            points.push_back(p);
        }
        const auto found = readValve(type, readingsOf(points));
        QVERIFY(found.ok());
        b = *apply(b, keepReadings(b, place, points, *found));
        QCOMPARE(valveOf(b, "v3").readings.size(), std::size_t(3));
        QVERIFY(valveOf(b, "v3").tolerance < 0.05);
        const auto weak = plan::solveSteady(b, catalogue, {230});
        QVERIFY(weak.ok());
        QVERIFY(pointOf(b, *weak, "v3").plateAmps < 0.85 * average);
        QVERIFY(!checkReferences(b));
        QCOMPARE(fromText(toText(b))->bottles[place.index].readings.size(), std::size_t(3));
        // Into a spare's place and the spare into its socket.
        b = *apply(b, addSpare(b, valveAt(b, place).type));
        const ValvePlace spare{true, 0};
        b = *apply(b, moveValves(b, {place, spare}, {spare, place}));
        QCOMPARE(valveAt(b, spare).readings.size(), std::size_t(3));
        QVERIFY(valveAt(b, place).readings.empty());
        QCOMPARE(valveAt(b, place).emission, 1.0);
        const auto fresh = plan::solveSteady(b, catalogue, {230});
        QVERIFY(fresh.ok() && std::abs(pointOf(b, *fresh, "v3").plateAmps / average - 1) < 0.01);
        QCOMPARE(valvesOfType(b, valveAt(b, place).type).size(), std::size_t(5));
    }
};

EMBER_TESTS(TestThisValve)
#include "test_this_valve.moc"
