// The circuit as a drawing: nothing on anything else, and read back from its lines it is the circuit.
#include "../support/demo.h"
#include "../support/random_path.h"
#include "../support/read_drawing.h"
#include "../support/suite.h"

#include "core/build/starts.h"
#include "core/drawing/of_build.h"
#include "core/quantity/quantity.h"

#include <QTest>
#include <nlohmann/json.hpp>

using namespace ember;

namespace {

drawing::Drawing drawn(const drawing::ChannelSubject& of, double valueWidth = 0) {
    drawing::Words words;
    words.value = of.value;
    words.valueWidth = valueWidth;
    return drawing::draw(of.subject, words);
}

QString faultOf(const Build& build, std::size_t channel, drawing::Drawing* kept = nullptr) {
    const auto of = drawing::channelSubject(build, Catalogue::shipped(), channel);
    const drawing::Drawing d = drawn(*of);
    if (kept) *kept = d;
    return d.complete ? tests::DrawingReader(d, of->subject).wrong() : QString("a net is not joined");
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
            drawing::Drawing d;
            const QString fault = faultOf(build, k, &d);
            QVERIFY2(fault.isEmpty(), qPrintable(fault));
            QVERIFY2(d.crossings <= 6, qPrintable(QString("%1 crossings").arg(d.crossings)));
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
        const drawing::Drawing first = drawn(*before, 12), again = drawn(*before, 12);
        mainValue(b.channels[0].stages[1].parts[0].part) *= 1.1;
        const auto after = drawing::channelSubject(b, Catalogue::shipped(), 0);
        const drawing::Drawing other = drawn(*after, 12);
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
        const drawing::Drawing d = drawn(*of);
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
