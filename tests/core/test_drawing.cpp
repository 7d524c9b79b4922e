// The circuit as a drawing: nothing on anything else, and read back from its lines it is the circuit.
#include "../support/demo.h"
#include "../support/random_path.h"
#include "../support/read_drawing.h"
#include "../support/suite.h"

#include "core/build/starts.h"
#include "core/drawing/of_build.h"
#include "core/schematic/stage_edits.h"
#include "core/schematic/stages/stage_kind.h"

#include <QTest>
#include <nlohmann/json.hpp>

using namespace ember;

namespace {

/// As on paper; `written`: as in the window, where values are entry fields and volts and watts stand at the valves.
drawing::Drawing drawn(const Build& build, const drawing::ChannelSubject& of, bool written = false) {
    drawing::Words words;
    words.value = [&](const schematic::Part& p) { return drawing::valueOf(build, p); };
    if (written) {
        words.valueWidth = 15, words.valueHeight = 5, words.height = 4;
        words.volts = [](schematic::NetId) { return std::string("-000 V"); };
        words.notes = {"000 mA", "00.0 W, 100 %"};
        words.stageWidth = [](std::size_t) { return 40.0; };
    }
    return drawing::draw(of.subject, words);
}

/// What is wrong in either form. `kept`: the one on paper; `most`: crossings that neither may exceed.
QString faultOf(const Build& build, std::size_t channel, drawing::Drawing* kept = nullptr, int most = 1000) {
    const auto of = drawing::channelSubject(build, Catalogue::shipped(), channel);
    for (const bool written : {true, false}) {
        const drawing::Drawing d = drawn(build, *of, written);
        if (kept) *kept = d;
        const QString fault =
            d.complete ? tests::DrawingReader(d, of->subject).wrong() : QString("a net is not joined");
        const QString crossed = d.crossings > most ? QString("%1 crossings").arg(d.crossings) : fault;
        if (!crossed.isEmpty()) return (written ? "in the window: " : "on paper: ") + crossed;
    }
    return {};
}

const drawing::Body* bodyOf(const drawing::Drawing& d, const std::string& id) {
    for (const drawing::Body& b : d.bodies)
        if (b.id == id) return &b;
    return nullptr;
}

} // namespace

class TestDrawing : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void everyStartIsDrawnAsItIs_data() {
        QTest::addColumn<QString>("id");
        for (const Start& s : starts())
            if (!s.build.channels.empty()) QTest::newRow(s.id.c_str()) << QString::fromStdString(s.id);
    }
    void everyStartIsDrawnAsItIs() {
        QFETCH(QString, id);
        const Build build = startOf(id.toStdString())->build;
        for (std::size_t k = 0; k < build.channels.size(); ++k) {
            const QString fault = faultOf(build, k, nullptr, 6);
            QVERIFY2(fault.isEmpty(), qPrintable(fault));
        }
    }
    /// Whatever stages stand one behind the other, with whatever parts.
    void randomPathsAreDrawnAsTheyAre_data() {
        QTest::addColumn<int>("from");
        for (int k = 0; k < 200; k += 20) QTest::addRow("%d", k) << k;
    }
    void randomPathsAreDrawnAsTheyAre() {
        QFETCH(int, from);
        for (int seed = from; seed < from + 20; ++seed) {
            const QString fault = faultOf(randomPath(static_cast<std::uint64_t>(seed)), 0);
            QVERIFY2(fault.isEmpty(), qPrintable(QString("path %1: %2").arg(seed).arg(fault)));
        }
    }
    /// Every kind by itself: all that it wires is drawn, with the room of a value that can be edited there.
    void everyKindIsDrawn_data() {
        QTest::addColumn<QString>("kind");
        for (const schematic::StageKind* k : schematic::stageKinds())
            if (k->in == schematic::Phases::One && k->duty != schematic::Duty::Feedback)
                QTest::newRow(std::string(k->id).c_str()) << QString::fromStdString(std::string(k->id));
    }
    void everyKindIsDrawn() {
        QFETCH(QString, kind);
        const schematic::StageKind& k = *schematic::stageKind(kind.toStdString());
        Build b;
        b.channels.emplace_back();
        b.channels[0].id = "one", b.channels[0].name = "One";
        std::vector<StageValve> valves;
        for (const schematic::ValveSlot& v : k.valves) {
            b.bottles.emplace_back();
            b.bottles.back().id = "v" + std::to_string(b.bottles.size());
            b.bottles.back().type = v.takes == schematic::Takes::Triode ? "ECC85" : "EL84";
            valves.push_back({{}, v.several ? std::string(v.at) + "1" : std::string(v.at), b.bottles.back().id, 1});
        }
        b.channels[0].stages = {schematic::freshStage(k, valves)};
        b.channels[0].stages[0].id = "s1";
        drawing::Drawing d;
        const QString fault = faultOf(b, 0, &d);
        QVERIFY2(fault.isEmpty(), qPrintable(fault));
        QVERIFY2(d.crossings <= 3, qPrintable(QString("%1 crossings").arg(d.crossings)));
        int values = 0, wanted = 0;
        for (const drawing::Body& body : d.bodies) values += body.value.width > 0;
        for (const StagePart& p : b.channels[0].stages[0].parts)
            wanted += !std::holds_alternative<AdjusterPart>(p.part);
        QCOMPARE(values, wanted);
    }
    /// A stage without its parts, and a screen at a tap that the transformer does not have, are drawn as far as they
    /// go.
    void whatIsNotFinishedIsDrawnAsFarAsItGoes() {
        for (const schematic::StageKind* k : schematic::stageKinds()) {
            Build b;
            b.channels.emplace_back();
            b.channels[0].id = "one", b.channels[0].name = "One";
            Stage s;
            s.id = "s1", s.kind = std::string(k->id);
            b.channels[0].stages = {s};
            QVERIFY2(faultOf(b, 0).isEmpty(), s.kind.c_str());
            b.bottles.emplace_back();
            b.bottles[0].id = "v1", b.bottles[0].type = "EL84";
            for (const schematic::ValveSlot& v : k->valves)
                b.channels[0].stages[0].valves = {
                    {{}, v.several ? std::string(v.at) + "1" : std::string(v.at), "v1", 1}};
            QVERIFY2(faultOf(b, 0).isEmpty(), s.kind.c_str());
        }
        Build b = demoBuild();
        for (Stage& s : b.channels[0].stages)
            if (s.kind == "push-pull") s.options.push_back({{}, "screens", "tap"});
        QCOMPARE(faultOf(b, 0), QString());
    }
    /// Parts of a switch's other positions are there to be read and edited, and hang on nothing.
    void whatASwitchHasNotChosenIsDrawnApart() {
        Build b;
        b.channels.emplace_back();
        b.channels[0].id = "one", b.channels[0].name = "One";
        Stage s;
        s.id = "s1", s.kind = "switch";
        for (const char* at : {"1", "2"})
            s.parts.push_back({{}, "series", at, "", ResistorPart{{}, std::string("r") + at, 1e3, 0.5, 0.05}});
        s.options = {{{}, "position", "2"}};
        b.channels[0].stages = {s};
        drawing::Drawing d;
        QCOMPARE(faultOf(b, 0, &d), QString());
        QVERIFY(bodyOf(d, "R1") && bodyOf(d, "R2"));
        bool said = false;
        for (const drawing::Word& w : d.words) said = said || w.text == "not in use: 1";
        QVERIFY(said);
    }
    /// A stage: its supply above, then its load, its valve, what is at its cathode, and ground.
    void aStageStandsOnTheLineOfItsCurrent() {
        drawing::Drawing d;
        QVERIFY(faultOf(demoBuild(), 0, &d).isEmpty());
        const drawing::Body *load = bodyOf(d, "R10"), *valve = bodyOf(d, "V2.1"), *cathode = bodyOf(d, "R11"),
                            *foot = bodyOf(d, "R23");
        QVERIFY(load && valve && cathode && foot);
        const auto middle = [](const drawing::Body* b) { return b->box.x + b->box.width / 2; };
        for (const drawing::Body* b : {load, cathode, foot}) QCOMPARE(middle(b), middle(valve));
        QVERIFY(load->box.y < valve->box.y);
        QVERIFY(valve->box.y < cathode->box.y);
        QVERIFY(cathode->box.y < foot->box.y);
        // The signal goes from left to right, the two output valves stand one above the other, the transformer behind.
        const drawing::Body *driver = bodyOf(d, "V2.2"), *upper = bodyOf(d, "V3"), *lower = bodyOf(d, "V4"),
                            *iron = bodyOf(d, "OT1");
        QVERIFY(driver && upper && lower && iron);
        QVERIFY(valve->box.x < driver->box.x && driver->box.x < upper->box.x && upper->box.x < iron->box.x);
        QCOMPARE(upper->box.x, lower->box.x);
        QVERIFY(upper->box.y < lower->box.y);
    }
    /// Another value of the same length moves nothing; twice drawn is the same.
    void anEditedValueMovesNothing() {
        Build b = demoBuild();
        const auto before = drawing::channelSubject(b, Catalogue::shipped(), 0);
        const drawing::Drawing first = drawn(b, *before, true), again = drawn(b, *before, true);
        mainValue(b.channels[0].stages[1].parts[0].part) *= 1.1;
        const auto after = drawing::channelSubject(b, Catalogue::shipped(), 0);
        const drawing::Drawing other = drawn(b, *after, true);
        QCOMPARE(first.bodies.size(), other.bodies.size());
        for (std::size_t k = 0; k < first.bodies.size(); ++k) {
            QCOMPARE(again.bodies[k].box.x, first.bodies[k].box.x);
            QCOMPARE(other.bodies[k].box.x, first.bodies[k].box.x);
            QCOMPARE(other.bodies[k].box.y, first.bodies[k].box.y);
        }
        QCOMPARE(other.wires.size(), first.wires.size());
    }
    /// What leaves the program says the same in millimetres.
    void itsJsonHasEveryPartAndPin() {
        const auto of = drawing::channelSubject(demoBuild(), Catalogue::shipped(), 0);
        const drawing::Drawing d = drawn(demoBuild(), *of);
        const Json json = drawing::toJson(d, of->schematic);
        int bodies = 0;
        for (const auto& box : json.at("boxes")) bodies += box.at("kind") == "body";
        QCOMPARE(static_cast<std::size_t>(bodies), d.bodies.size());
        bool found = false;
        for (const auto& pin : json.at("pins"))
            if (pin.at("part") == "r10" && pin.at("net") == "B+3") found = true;
        QVERIFY(found);
        QCOMPARE(json.at("wires").size(), d.wires.size());
    }
};

EMBER_TESTS(TestDrawing)
#include "test_drawing.moc"
