// Kinds of stage: closed forms, what is wrong by its place, and random paths against another simulator.
#include "../support/random_path.h"
#include "../support/spice.h"
#include "../support/stage_bench.h"
#include "../support/suite.h"

#include "core/schematic/path_schematic.h"
#include "core/schematic/solve.h"
#include "core/schematic/stage_edits.h"

#include <QTest>

#include <cmath>
#include <set>

using namespace ember;
using namespace ember::schematic;

class TestStageKinds : public QObject {
    Q_OBJECT
    int guessed = 0; ///< random paths for which the other simulator was told where to begin

  private Q_SLOTS:
    /// gain = -mu Ra / (ra + Ra), its bypass being a short.
    void aTriodesGainIsTheClosedForm() {
        Bench x;
        triode(x, "ECC85", 100e3, 1500, 1, 1, 1e6);
        const plan::HeldChannel h = held(x.b, Catalogue::shipped(), {250});
        Analysis a(h.schematic);
        const auto point = a.operatingPoint();
        const double k = point->volts(*h.schematic.findNet("V1 cathode 1")),
                     plate = point->volts(*h.schematic.findNet("V1 plate 1"));
        const auto f = figuresAt(Catalogue::shipped().valve("ECC85")->section(1).law, plate - k, -k, 0);
        const double want = f.mu * 100e3 / (f.rp + 100e3);
        QVERIFY(near(std::abs(a.gain(*point, h.source, h.output, 1000)), want, 1e-3, 0, "gain"));
    }
    /// A follower's output impedance is 1 / (gm + 1/ra), its tail in parallel.
    void aFollowersImpedanceIsTheClosedForm() {
        Bench x;
        x.stage("input").parts = {r("shunt", 1e6)};
        Stage& s = x.stage("follower");
        x.valve(s, "ECC85");
        s.parts = {c("coupling", 1e-6), r("grid leak", 1e6), r("bias", 1e3), r("tail", 22e3)};
        const plan::HeldChannel h = held(x.b, Catalogue::shipped(), {250});
        Analysis a(h.schematic);
        const auto point = a.operatingPoint();
        const double k = point->volts(*h.schematic.findNet("V1 cathode 1")),
                     g = point->volts(*h.schematic.findNet("V1 grid 1"));
        const auto f = figuresAt(Catalogue::shipped().valve("ECC85")->section(1).law, 250 - k, g - k, 0);
        const double want = 1 / (f.gm + 1 / f.rp + 1 / 23e3);
        QVERIFY(near(std::abs(a.impedance(*point, h.output, 1000)), want, 0.01, 0, "ohm"));
    }
    /// A tail's current divides evenly between two valves alike, and a current source holds it.
    void aTailsCurrentIsShared() {
        Bench x;
        Stage& s = x.stage("long-tailed pair");
        x.valve(s, "ECC85", "a");
        x.valve(s, "ECC85", "b", true);
        s.parts = {c("coupling", 1e-7, "a"),
                   r("grid leak", 1e6, "a"),
                   r("grid leak", 1e6, "b"),
                   c("grid capacitor", 1e-7),
                   r("plate", 47e3, "a"),
                   r("plate", 47e3, "b"),
                   {{}, "tail", "", "", CurrentSourcePart{{}, "", 3e-3, 0.5, 300, 0.05}}};
        const plan::HeldChannel h = held(x.b, Catalogue::shipped(), {300});
        Analysis a(h.schematic);
        const auto point = a.operatingPoint();
        for (const char* net : {"V1 plate 1", "V1 plate 2"})
            QVERIFY(near((300 - point->volts(*h.schematic.findNet(net))) / 47e3, 1.5e-3, 0.01, 0, net));
    }
    /// Equal loads, one current: the two phases of a split load are equal and opposite.
    void aSplitLoadIsBalanced() {
        Bench x;
        triode(x, "ECC85", 220e3, 1200, 1e-4, 1, 1e6);
        Stage& s = x.stage("split load");
        x.valve(s, "ECC85", "", true);
        s.parts = {r("plate", 22e3), r("cathode", 22e3)};
        const plan::HeldChannel h = held(x.b, Catalogue::shipped(), {260});
        Analysis a(h.schematic);
        const auto point = a.operatingPoint();
        const auto up = a.gain(*point, h.source, *h.schematic.findNet("V1 plate 2"), 1000),
                   down = a.gain(*point, h.source, *h.schematic.findNet("V1 cathode 2"), 1000);
        QVERIFY2(std::abs(up + down) < 1e-3 * std::abs(up),
                 qPrintable(QString::number(std::abs(up + down) / std::abs(up))));
    }
    void whatIsWrongIsNamedByItsPlace() {
        Bench x;
        triode(x, "ECC85", 100e3, 1500, 0, 1e3, 1e6);
        x.b.channels[0].stages[1].parts[0].slot = "plait";
        const auto says = [&](const char* place, const char* words) {
            for (const Problem& p : pathProblems(x.b, Catalogue::shipped()))
                if (p.where.rfind(place, 0) == 0 && p.sentence.find(words) != std::string::npos) return true;
            for (const Problem& p : pathProblems(x.b, Catalogue::shipped())) qWarning("%s", p.text().c_str());
            return false;
        };
        QVERIFY(says("/channels/0/stages/1/parts", "has no \"plate\""));
        QVERIFY(says("/channels/0/stages/1/parts/0/slot", "no place \"plait\""));
        QVERIFY2(says("/bottles/0/heater", "no heater winding"), "this build has none");
        Stage& again = x.stage("triode");
        again.valves = {{{}, "", "v1", 1}};
        again.parts = {r("plate", 100e3), r("cathode", 1500)};
        QVERIFY(says("/channels/0/stages/2/valves/0/section", "used twice"));
        Stage& output = x.stage("push-pull");
        QVERIFY(says("/channels/0/stages/3", "two phases"));
        output.kind = "spark gap";
        QVERIFY(says("/channels/0/stages/3/kind", "no kind of stage"));
        Stage& back = x.stage("feedback");
        back.from = "s9 secondary", back.to = "s2 cathode";
        QVERIFY(says("/channels/0/stages/4/from", "s9 secondary"));
        Bench floating;
        Stage& s = floating.stage("triode");
        floating.valve(s, "ECC85");
        s.parts = {c("coupling", 1e-7), r("plate", 100e3), r("cathode", 1500)};
        bool said2 = false;
        for (const Problem& p : pathProblems(floating.b, Catalogue::shipped()))
            said2 = said2 || p.sentence.find("no DC path") != std::string::npos;
        QVERIFY2(said2, "a grid without a leak");
    }

    /// Paths made at random from every kind: nothing crashes, hangs or shows NaN, and another simulator agrees.
    void randomPathsAgreeWithAnotherSimulator_data() {
        QTest::addColumn<int>("seed");
        for (int k = 0; k < 200; ++k) QTest::addRow("%d", k) << k;
    }
    void randomPathsAgreeWithAnotherSimulator();
    void mostOfThemFromNothing() { QVERIFY2(guessed < 60, qPrintable(QString::number(guessed))); }
};

void TestStageKinds::randomPathsAgreeWithAnotherSimulator() {
    QFETCH(int, seed);
    const Build b = randomPath(static_cast<std::uint64_t>(seed));
    const std::vector<double> nodes{300, 240};
    const plan::HeldChannel h = held(b, Catalogue::shipped(), nodes);
    for (const Problem& problem : h.problems) QFAIL(problem.text().c_str());
    Analysis a(h.schematic);
    const auto point = a.operatingPoint();
    QVERIFY2(point.ok(), point.ok() ? "" : point.problem().text().c_str());
    for (const double v : point->netVolts) QVERIFY(std::isfinite(v));
    for (const double hertz : {10.0, 1000.0, 1e5})
        QVERIFY(std::isfinite(std::abs(a.gain(*point, h.source, h.output, hertz))));
    const auto agrees = [&](const std::map<int, double>& theirs) {
        for (const auto& [net, volts] : theirs)
            if (std::abs(point->netVolts[static_cast<std::size_t>(net)] - volts) > 0.005 * std::abs(volts) + 0.05)
                return false;
        return theirs.size() > 2;
    };
    auto spice = spiceOperatingPoint(h.schematic);
    if (!spice) QSKIP("the other simulator is not here");
    // It does not find every point from nothing, and some of these paths have two: then it is asked whether ours is
    // one.
    if (!agrees(*spice)) {
        ++guessed;
        spice = spiceOperatingPoint(h.schematic, point->netVolts);
    }
    QVERIFY2(!spice->empty(), "the other simulator found no operating point");
    std::size_t compared = 0;
    for (std::size_t k = 1; k < h.schematic.nets().size(); ++k) {
        const auto at = spice->find(static_cast<int>(k));
        if (at == spice->end()) continue;
        QVERIFY(near(point->netVolts[k], at->second, 0.005, 0.05, h.schematic.nets()[k].name));
        ++compared;
    }
    QVERIFY(compared > 2);
}

EMBER_TESTS(TestStageKinds)
#include "test_stage_kinds.moc"
