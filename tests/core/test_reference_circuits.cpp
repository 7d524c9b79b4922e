// Circuits of other hands, solved by another simulator, said with kinds of stage: volts, gain, response, a tone.
#include "../support/stage_bench.h"
#include "../support/suite.h"

#include "core/schematic/path_schematic.h"
#include "core/schematic/solve.h"

#include <QFile>
#include <QTest>
#include <nlohmann/json.hpp>

#include <cmath>
#include <map>
#include <numbers>

using namespace ember;
using namespace ember::schematic;
using nlohmann::json;

namespace {

/// The shipped catalogue with the reference circuits' valve laws as types of their own.
Catalogue catalogueOf(const json& laws) {
    Catalogue c = Catalogue::shipped();
    for (const auto& [name, j] : laws.items()) {
        ValveType t;
        t.type = name;
        t.names = {name};
        TypeSection half;
        half.pentode = j.at("kind") == "pentode";
        const circuit::GridLaw grid{j.at("gridPerveance"), 0, 0};
        if (half.pentode)
            half.law = circuit::PentodeLaw{j.at("mu"),    j.at("exponent"),  j.at("kp"),    j.at("kg"),
                                           j.at("share"), j.at("kneeVolts"), j.at("slope"), grid};
        else
            half.law = circuit::TriodeLaw{j.at("mu"), j.at("exponent"), j.at("kp"), j.at("kvb"), j.at("kg"), grid};
        t.halves.assign(half.pentode ? 1 : 2, half);
        c.valves.push_back(std::move(t));
    }
    return c;
}

/// One reference case as stages, its supplies by node, and its nets by the names they have here.
struct Said {
    Bench bench;
    std::vector<double> nodes;
    std::map<std::string, std::string> nets;
    std::string output;
};

/// An input of 1 kohm and 1 Mohm, and a stage of both sections of one bottle.
Stage& twoSections(Bench& x, const char* kind, const char* law, const char* one, const char* other) {
    x.stage("input").parts = {r("series", 1e3), r("shunt", 1e6)};
    Stage& s = x.stage(kind);
    x.valve(s, law, one);
    x.valve(s, law, other, true);
    return s;
}

std::map<std::string, Said> referenceCases() {
    std::map<std::string, Said> out;
    for (const bool bypassed : {true, false}) {
        Said& s = out[bypassed ? "common cathode, bypassed" : "common cathode, not bypassed"];
        s.nodes = {300};
        triode(s.bench, "triode A", 100e3, 1500, bypassed ? 22e-6 : 0, 10e3, 1e6);
        s.bench.stage("line out").parts = {c("coupling", 22e-9), r("load", 470e3)};
        s.nets = {{"plate", "V1 plate 1"}, {"cathode", "V1 cathode 1"}};
        s.output = "One output";
    }
    {
        Said& s = out["cathode follower straight from a plate"];
        s.nodes = {320};
        triode(s.bench, "triode A", 150e3, 1800, 22e-6, 1e3, 1e6);
        Stage& f = s.bench.stage("follower");
        s.bench.valve(f, "triode A", "", true);
        f.parts = {r("tail", 100e3)};
        s.bench.stage("line out").parts = {c("coupling", 1e-6), r("load", 50e3)};
        s.nets = {{"plate", "V1 plate 1"}, {"k2", "V1 cathode 2"}};
        s.output = "One output";
    }
    {
        Said& s = out["follower with a bootstrapped leak"];
        s.nodes = {300};
        s.bench.stage("input").parts = {r("series", 50e3)};
        Stage& f = s.bench.stage("follower");
        s.bench.valve(f, "triode B");
        f.parts = {c("coupling", 100e-9), r("grid leak", 1e6), r("bias", 1e3), r("tail", 10e3)};
        s.bench.stage("line out").parts = {c("coupling", 6.8e-6), r("load", 20e3)};
        s.nets = {{"g", "V1 grid 1"}, {"k", "V1 cathode 1"}, {"tap", "One s2 tap"}};
        s.output = "One output";
    }
    {
        Said& s = out["long-tailed pair through capacitors"];
        s.nodes = {320};
        Stage& l = s.bench.stage("long-tailed pair");
        s.bench.valve(l, "triode A", "a");
        s.bench.valve(l, "triode A", "b", true);
        l.parts = {c("coupling", 22e-9, "a"),   r("grid leak", 1e6, "a"), r("grid leak", 1e6, "b"),
                   c("grid capacitor", 100e-9), r("bias", 470),           r("tail", 10e3),
                   r("plate", 82e3, "a"),       r("plate", 100e3, "b")};
        s.bench.loose("V1 plate 1", "outa", farads(100e-9));
        s.bench.loose("outa", "ground", ohms(220e3));
        s.bench.loose("V1 plate 2", "outb", farads(100e-9));
        s.bench.loose("outb", "ground", ohms(220e3));
        s.nets = {{"pa", "V1 plate 1"},
                  {"pb", "V1 plate 2"},
                  {"ga", "V1 grid 1"},
                  {"gb", "V1 grid 2"},
                  {"tap", "One s1 tail"}};
        s.output = "outa";
    }
    {
        Said& s = out["long-tailed pair straight on the stage before"];
        s.nodes = {250, 360};
        triode(s.bench, "triode A", 220e3, 2200, 47e-6, 1e3, 1e6);
        Stage& l = s.bench.stage("long-tailed pair", 2);
        s.bench.valve(l, "triode B", "a");
        s.bench.valve(l, "triode B", "b", true);
        l.parts = {r("grid leak", 1e6, "b"), c("grid capacitor", 220e-9), r("tail", 33e3), r("plate", 47e3, "a"),
                   r("plate", 47e3, "b")};
        for (const auto& [plate, out2] : {std::pair{"V2 plate 1", "outa"}, {"V2 plate 2", "outb"}}) {
            s.bench.loose(plate, out2, farads(100e-9));
            s.bench.loose(out2, "ground", ohms(220e3));
        }
        s.nets = {{"plate", "V1 plate 1"}, {"pa", "V2 plate 1"}, {"pb", "V2 plate 2"}, {"gb", "V2 grid 2"}};
        s.output = "outb";
    }
    {
        Said& s = out["split load straight on the stage before"];
        s.nodes = {170, 300};
        triode(s.bench, "triode A", 150e3, 1500, 47e-6, 1e3, 1e6);
        Stage& l = s.bench.stage("split load", 2);
        s.bench.valve(l, "triode B");
        l.parts = {r("plate", 47e3), r("cathode", 47e3)};
        for (const auto& [from, out2] : {std::pair{"V2 plate 1", "outa"}, {"V2 cathode 1", "outb"}}) {
            s.bench.loose(from, out2, farads(100e-9));
            s.bench.loose(out2, "ground", ohms(220e3));
        }
        s.nets = {{"plate", "V1 plate 1"}, {"p2", "V2 plate 1"}, {"k2", "V2 cathode 1"}};
        s.output = "outb";
    }
    {
        Said& s = out["plain paraphase"];
        s.nodes = {300};
        Stage& l = twoSections(s.bench, "paraphase", "triode A", "a", "b");
        l.options = {{{}, "form", "plain"}};
        l.parts = {r("plate", 100e3, "a"),
                   r("plate", 100e3, "b"),
                   r("cathode", 820),
                   c("bypass", 22e-6),
                   c("output coupling", 100e-9, "a"),
                   c("output coupling", 100e-9, "b"),
                   r("divider", 215e3, "a"),
                   r("shared leak", 4300),
                   r("divider", 220e3, "b")};
        s.nets = {{"pa", "V1 plate 1"}, {"pb", "V1 plate 2"}, {"k", "One s2 cathodes"}};
        s.output = "One s2 out b";
    }
    {
        Said& s = out["two sections in series, the upper as load"];
        s.nodes = {250};
        Stage& l = twoSections(s.bench, "series pair", "triode C", "lower", "upper");
        l.parts = {r("cathode", 680), r("upper cathode", 680)};
        s.bench.stage("line out").parts = {c("coupling", 1e-6), r("load", 100e3)};
        s.nets = {{"k1", "V1 cathode 1"}, {"p1", "V1 plate 1"}, {"k2", "V1 cathode 2"}};
        s.output = "One output";
    }
    {
        Said& s = out["cascode"];
        s.nodes = {300};
        Stage& l = twoSections(s.bench, "cascode", "triode C", "lower", "upper");
        l.parts = {r("cathode", 330),         c("bypass", 100e-6),       r("plate", 18e3),
                   r("upper divider", 470e3), r("lower divider", 220e3), c("divider capacitor", 1e-6)};
        s.bench.stage("line out").parts = {c("coupling", 100e-9), r("load", 470e3)};
        s.nets = {{"g2", "V1 grid 2"}, {"mid", "V1 plate 1"}, {"p2", "V1 plate 2"}};
        s.output = "One output";
    }
    {
        Said& s = out["single-ended power triode, cathode bias"];
        s.nodes = {380};
        Stage& l = s.bench.stage("single-ended");
        s.bench.valve(l, "power triode", "a1");
        l.parts = {c("coupling", 470e-9, "a1"), r("grid leak", 220e3, "a1"),         r("cathode", 900),
                   c("bypass", 100e-6),         iron(3500, 8, 18, 110, 0.35, 0.012), r("load", 8)};
        s.nets = {{"p", "V1 plate 1"}, {"k", "One s1 cathodes"}};
        s.output = "One output";
    }
    {
        Said& s = out["single-ended pentode, cathode bias"];
        s.nodes = {265};
        Stage& l = s.bench.stage("single-ended");
        s.bench.valve(l, "pentode A", "a1");
        l.parts = {c("coupling", 100e-9, "a1"),
                   r("grid leak", 470e3, "a1"),
                   r("screen", 100, "a1"),
                   r("cathode", 150),
                   c("bypass", 220e-6),
                   iron(5200, 8, 12, 260, 0.4, 0.03),
                   r("load", 8)};
        s.nets = {{"p", "V1 plate"}, {"s", "V1 screen"}};
        s.output = "One output";
    }
    {
        Said& s = out["two stages and feedback from the secondary"];
        s.nodes = {240, 265};
        Stage& one = triode(s.bench, "triode A", 100e3, 1500, 100e-6, 1e3, 1e6);
        one.parts.push_back(r("foot", 100));
        Stage& l = s.bench.stage("single-ended", 2);
        s.bench.valve(l, "pentode A", "a1");
        l.parts = {c("coupling", 100e-9, "a1"),
                   r("grid leak", 470e3, "a1"),
                   r("screen", 100, "a1"),
                   r("cathode", 150),
                   c("bypass", 220e-6),
                   iron(5200, 8, 12, 260, 0.4, 0.03),
                   r("load", 8)};
        Stage& f = s.bench.stage("feedback");
        f.from = "s3 secondary", f.to = "s2 foot";
        f.parts = {r("resistor", 2200)};
        s.nets = {{"p1", "V1 plate 1"}, {"k1", "V1 cathode 1"}, {"p", "V2 plate"}};
        s.output = "One output";
    }
    for (const auto& [name, treble, bass, middle] :
         {std::tuple{"treble, bass and middle network, middle", 0.5, 0.5, 0.5},
          {"treble, bass and middle network, bass full", 0.2, 1.0, 0.3},
          {"treble, bass and middle network, treble full", 1.0, 0.1, 0.8}}) {
        Said& s = out[name];
        s.nodes = {1};
        s.bench.stage("input").parts = {r("series", 38e3)};
        s.bench.stage("treble bass middle").parts = {
            c("treble capacitor", 250e-12), p("treble", 250e3, treble),   r("slope", 56e3),
            c("bass capacitor", 22e-9),     c("middle capacitor", 22e-9), p("bass", 250e3, bass),
            p("middle", 25e3, middle)};
        s.bench.stage("pad").parts = {r("shunt", 1e6)};
        s.bench.b.channels[0].stages.back().parts.push_back(r("series", 1e-3));
        s.output = "One s3 behind the pad";
    }
    {
        Said& s = out["push-pull ultralinear, one cathode resistor"];
        s.nodes = {310};
        idealPhases(s.bench);
        Stage& l = s.bench.stage("push-pull");
        s.bench.valve(l, "pentode A", "a1");
        s.bench.valve(l, "pentode A", "b1");
        OutputTransformer o;
        o.primaryImpedance = 8000, o.loadImpedance = 8, o.primaryInductance = 45;
        o.primaryResistanceA = o.primaryResistanceB = 140, o.secondaryResistance = 0.45;
        o.leakageInductance = o.halvesLeakage = 0.012; // 6 mH in each half of that circuit, none in its secondary
        o.screenTap = 0.43, o.tapCopper = 60.0 / 140, o.tapLeakage = 1.0 / 3;
        l.options = {{{}, "screens", "tap"}};
        l.parts = {c("coupling", 470e-9, "a1"),
                   c("coupling", 470e-9, "b1"),
                   r("grid leak", 470e3, "a1"),
                   r("grid leak", 470e3, "b1"),
                   r("screen", 100, "a1"),
                   r("screen", 100, "b1"),
                   r("cathode", 130),
                   c("bypass", 470e-6),
                   {{}, "transformer", "", "", o},
                   r("load", 8)};
        s.nets = {{"pa", "V1 plate"}, {"pb", "V2 plate"}, {"sa", "V1 screen"}, {"k", "One s2 cathodes"}};
        s.output = "One output";
    }
    return out;
}

} // namespace

class TestReferenceCircuits : public QObject {
    Q_OBJECT
    json file;
    Catalogue catalogue;
    std::map<std::string, Said> said = referenceCases();
    const json& theCase(const QString& name) {
        for (const json& x : file.at("cases"))
            if (x.at("name") == name.toStdString()) return x;
        qFatal("no case");
    }

  private Q_SLOTS:
    void initTestCase() {
        QFile f(TEST_DATA "/stages.json");
        QVERIFY(f.open(QIODevice::ReadOnly));
        file = json::parse(f.readAll().toStdString());
        catalogue = catalogueOf(file.at("laws"));
    }

    void everyCircuitOfOtherHandsIsSaid() { QCOMPARE(said.size(), file.at("cases").size()); }

    void theSaidCircuitsAgree_data() {
        QTest::addColumn<QString>("name");
        for (const auto& [name, s] : said) QTest::newRow(name.c_str()) << QString::fromStdString(name);
    }
    void theSaidCircuitsAgree() {
        QFETCH(QString, name);
        const Said& s = said.at(name.toStdString());
        const json& want = theCase(name).at("expected");
        const plan::HeldChannel h = held(s.bench.b, catalogue, s.nodes);
        QVERIFY2(h.problems.empty(), h.problems.empty() ? "" : h.problems[0].text().c_str());
        Analysis a(h.schematic);
        const auto point = a.operatingPoint();
        QVERIFY2(point.ok(), point.ok() ? "" : point.problem().text().c_str());
        for (const auto& [theirs, ours] : s.nets) {
            const auto net = h.schematic.findNet(ours);
            QVERIFY2(net, ours.c_str());
            QVERIFY(near(point->volts(*net), want.at("volts").at(theirs), 0.001, 0.02, theirs));
        }
        const auto out = h.schematic.findNet(s.output);
        QVERIFY2(out, s.output.c_str());
        const auto at = [&](double hertz) { return a.gain(*point, h.source, *out, hertz); };
        QVERIFY(near(std::abs(at(1000)), want.at("gain_1k"), 0.002, 0, "gain"));
        const double turned = std::remainder(
            std::arg(at(1000)) * 180 / std::numbers::pi - want.at("phase_1k_degrees").get<double>(), 360);
        QVERIFY2(std::abs(turned) < 0.3 || std::abs(std::abs(turned) - 180) < 0.3, qPrintable(QString::number(turned)));
        for (const auto& [hertz, level] : want.at("response_db_re_1k").items())
            QVERIFY(near(db(std::abs(at(std::stod(hertz)) / at(1000))), level, 0, 0.03, hertz));
        QVERIFY(
            near(std::abs(a.impedance(*point, *out, 1000)), want.at("output_impedance_1k_with_load"), 0.003, 0, "ohm"));
        if (!want.contains("tone")) return;
        const json& tone = want.at("tone");
        const double hertz = tone.at("hertz");
        const plan::HeldChannel driven = held(s.bench.b, catalogue, s.nodes,
                                              {0, tone.at("input_rms").get<double>() * std::numbers::sqrt2, hertz, 0});
        const auto solved = steadyTone(driven.schematic, hertz, *driven.schematic.findNet(s.output));
        QVERIFY2(solved.ok(), solved.ok() ? "" : solved.problem().text().c_str());
        QVERIFY(near(solved->outputRms, tone.at("output_rms"), 0.005, 0, "tone"));
        QVERIFY(near(solved->thdPercent, tone.at("thd_percent"), 0.03, 0.003, "distortion"));
    }

    /// Feedback divides gain and output impedance by 1 + A beta.
    void feedbackDividesTheGain() {
        Said s = said.at("two stages and feedback from the secondary");
        const plan::HeldChannel with = held(s.bench.b, catalogue, s.nodes);
        // Opened where it leaves the secondary, its resistor still loading the cathode's foot.
        Build open = s.bench.b;
        open.channels[0].stages.pop_back();
        open.loose.push_back({{}, "One s2 cathode foot", "ground", "", ohms(2200)});
        const plan::HeldChannel without = held(open, catalogue, s.nodes);
        Analysis a(with.schematic), o(without.schematic);
        const auto p1 = a.operatingPoint(), p2 = o.operatingPoint();
        const double closed = std::abs(a.gain(*p1, with.source, with.output, 1000)),
                     opened = std::abs(o.gain(*p2, without.source, without.output, 1000));
        // Round the loop: 1 V at the output drives 1 / 2200 A into the foot, and that comes back at the output.
        const auto node = [&](NetId net) { return o.circuit().nodes[static_cast<std::size_t>(net.index)]; };
        const circuit::SmallSignal small(o.system(), p2->portVolts);
        const circuit::Complex loop =
            1.0 - small.transfer(node(*without.schematic.findNet("One s2 cathode foot")), node(without.output), 1000) /
                      2200.0;
        QVERIFY2(std::abs(loop) > 2, "it does feed back");
        QVERIFY(near(closed, opened / std::abs(loop), 0.01, 0, "closed loop"));
        QVERIFY(near(std::abs(a.impedance(*p1, with.output, 1000)) * std::abs(loop),
                     std::abs(o.impedance(*p2, without.output, 1000)), 0.01, 0, "output impedance"));
    }
};

EMBER_TESTS(TestReferenceCircuits)
#include "test_reference_circuits.moc"
