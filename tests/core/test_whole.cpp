// The whole amplifier as parts with pins on nets: every connection of the supply, every way to wire a heater.

#include "../support/demo.h"
#include "../support/shipped.h"
#include "../support/suite.h"

#include "core/build/path.h"
#include "core/build/starts.h"
#include "core/schematic/path_schematic.h"
#include "core/schematic/whole.h"
#include "core/wires/harness.h"

#include <QTest>

#include <set>

using namespace ember;
using namespace ember::schematic;

namespace {

/// Name of the net at a pin; empty: there is no such pin.
std::string netOf(const WholeAmplifier& w, const char* part, const char* pin) {
    const auto at = w.schematic.pin(part, pin);
    return at && w.schematic.at(*at).index >= 0 ? w.schematic[w.schematic.at(*at)].name : std::string();
}

/// How many pins hang on a net.
int pinsOn(const WholeAmplifier& w, const std::string& net) {
    const auto id = w.schematic.findNet(net);
    int count = 0;
    for (const Part& p : w.schematic.parts())
        for (const Pin& pin : p.pins) count += id && pin.net == *id;
    return count;
}

} // namespace

class TestWhole : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void everyPartOfTheDemoIsThereOnce() {
        const Build b = demoBuild();
        const WholeAmplifier w = wholeAmplifier(b, catalogue);
        std::set<std::string> ids;
        for (const Part& p : w.schematic.parts()) QVERIFY2(ids.insert(p.id).second, p.id.c_str());
        QCOMPARE(w.serves.size(), w.schematic.parts().size());
        QCOMPARE(w.node.size(), w.schematic.parts().size());
        for (const Section& s : b.supply.sections) QVERIFY2(ids.contains(s.id), s.id.c_str());
        for (const Valve& v : b.bottles) QVERIFY2(ids.contains(v.id), v.id.c_str());
        for (const Channel& ch : b.channels)
            for (const Stage& s : ch.stages)
                for (const StagePart& p : s.parts)
                    if (!std::holds_alternative<AdjusterPart>(p.part))
                        QVERIFY2(ids.contains(idOf(p.part)), idOf(p.part).c_str());
        for (const LoosePart& p : b.loose) QVERIFY2(ids.contains(idOf(p.part)), idOf(p.part).c_str());
        for (const char* id :
             {"pt1", "v1", "f1", "inlet", "earth", "switch", "c4", "c5", "r2", "r3", "input-left", "output-right"})
            QVERIFY2(ids.contains(id), id);
    }
    void netsAreThoseThatABuilderWouldName() {
        const WholeAmplifier w = wholeAmplifier(demoBuild(), catalogue);
        QCOMPARE(netOf(w, "pt1", "centre"), "ground");
        QCOMPARE(netOf(w, "pt1", "plate a"), netOf(w, "v1", "plate 1"));
        QCOMPARE(netOf(w, "pt1", "plate b"), netOf(w, "v1", "plate 2"));
        QCOMPARE(netOf(w, "v1", "cathode"), "B+1");
        QCOMPARE(netOf(w, "c1", "+"), "B+1");
        QCOMPARE(netOf(w, "l1", "2"), "B+2");
        QCOMPARE(netOf(w, "c3", "-"), "ground");
        QCOMPARE(netOf(w, "input-left", "tip"), "Left input");
        QCOMPARE(netOf(w, "output-left", "+"), "Left output");
        QCOMPARE(netOf(w, "ot1", "secondary start"), "Left output");
        QCOMPARE(netOf(w, "inlet", "E"), netOf(w, "earth", "bolt"));
        QVERIFY(netOf(w, "inlet", "L") != netOf(w, "pt1", "primary 1") &&
                netOf(w, "inlet", "N") != netOf(w, "pt1", "primary 2"));
        QCOMPARE(netOf(w, "c4", "+"), "ground"); // the bias supply is negative
    }
    void fuseAndSwitchStandInTheOrderThatTheBuildSays() {
        Build b = demoBuild();
        WholeAmplifier w = wholeAmplifier(b, catalogue);
        QCOMPARE(netOf(w, "inlet", "L"), netOf(w, "f1", "far"));
        QCOMPARE(netOf(w, "f1", "near"), netOf(w, "switch", "1"));
        QCOMPARE(netOf(w, "inlet", "N"), netOf(w, "switch", "3"));
        b.mainsSwitch.fuseFirst = false;
        b.mainsSwitch.breaks = Breaks::Live;
        b.thermistor.hot = 2, b.thermistor.cold = 20;
        w = wholeAmplifier(b, catalogue);
        QCOMPARE(netOf(w, "inlet", "L"), netOf(w, "switch", "1"));
        QCOMPARE(netOf(w, "switch", "2"), netOf(w, "f1", "far"));
        QCOMPARE(netOf(w, "f1", "near"), netOf(w, "th1", "1"));
        QCOMPARE(netOf(w, "th1", "2"), netOf(w, "pt1", "primary 1"));
        QCOMPARE(netOf(w, "inlet", "N"), netOf(w, "pt1", "primary 2"));
        b.mainsSwitch.breaks = Breaks::Neutral;
        w = wholeAmplifier(b, catalogue);
        QCOMPARE(netOf(w, "inlet", "N"), netOf(w, "switch", "3"));
        QCOMPARE(netOf(w, "switch", "4"), netOf(w, "pt1", "primary 2"));
    }
    void everyConnectionHasItsRectifiersPins() {
        Build b = demoBuild();
        b.supply.rectifier.type = "silicon";
        b.supply.connection = Connection::Bridge;
        WholeAmplifier w = wholeAmplifier(b, catalogue);
        QCOMPARE(netOf(w, "v1", "minus"), "ground");
        QVERIFY(netOf(w, "pt1", "centre").empty());
        QCOMPARE(netOf(w, "pt1", "plate b"), netOf(w, "v1", "plate 2"));
        b.supply.connection = Connection::HalfWave;
        w = wholeAmplifier(b, catalogue);
        QCOMPARE(netOf(w, "pt1", "plate b"), "ground");
        QCOMPARE(netOf(w, "v1", "plate"), netOf(w, "pt1", "plate a"));
        b.supply.connection = Connection::Doubler;
        b.supply.sections[0].inSeries = 2;
        w = wholeAmplifier(b, catalogue);
        QCOMPARE(netOf(w, "pt1", "plate b"), netOf(w, "c1.1", "-"));
        QCOMPARE(netOf(w, "c1.1", "-"), netOf(w, "c1.2", "+"));
        QCOMPARE(netOf(w, "v1", "minus"), "ground");
        b = demoBuild();
        b.supply.connection = Connection::HybridBridge;
        w = wholeAmplifier(b, catalogue);
        QCOMPARE(netOf(w, "v1-d1", "anode"), "ground");
        QCOMPARE(netOf(w, "v1-d1", "cathode"), netOf(w, "pt1", "plate a"));
        QCOMPARE(netOf(w, "v1-d2", "cathode"), netOf(w, "pt1", "plate b"));
    }
    void aTapHasAWindingAndARectifierOfItsOwn() {
        Build b = demoBuild();
        Section tap;
        tap.id = "tap1", tap.kind = SectionKind::Tap, tap.volts = 150, tap.type = "silicon";
        Section c;
        c.id = "c9", c.kind = SectionKind::Capacitor;
        b.supply.sections.push_back(tap);
        b.supply.sections.push_back(c);
        const WholeAmplifier w = wholeAmplifier(b, catalogue);
        QCOMPARE(netOf(w, "pt1", "tap1 a"), netOf(w, "tap1", "plate 1"));
        QCOMPARE(netOf(w, "tap1", "cathode"), netOf(w, "c9", "+"));
        QCOMPARE(netOf(w, "c9", "+"), "B+4");
        QVERIFY(w.of(*w.schematic.find("tap1")) == Serves::Rectifier &&
                w.of(*w.schematic.find("c9")) == Serves::SupplyCapacitor);
    }
    /// A resistor in each lead of a full-wave rectifier, one in a half-wave's: between the winding and the plate.
    void legResistorsStandBetweenWindingAndRectifier() {
        Build b = demoBuild();
        b.supply.rectifier.legResistance = 47;
        WholeAmplifier w = wholeAmplifier(b, catalogue);
        QCOMPARE(netOf(w, "v1-leg-a", "1"), netOf(w, "pt1", "plate a"));
        QCOMPARE(netOf(w, "v1-leg-a", "2"), netOf(w, "v1", "plate 1"));
        QCOMPARE(netOf(w, "v1-leg-b", "1"), netOf(w, "pt1", "plate b"));
        QCOMPARE(netOf(w, "v1-leg-b", "2"), netOf(w, "v1", "plate 2"));
        QVERIFY(netOf(w, "pt1", "plate a") != netOf(w, "v1", "plate 1"));
        b.supply.connection = Connection::HalfWave;
        w = wholeAmplifier(b, catalogue);
        QVERIFY(w.schematic.find("v1-leg-a") && !w.schematic.find("v1-leg-b"));
        QCOMPARE(netOf(w, "pt1", "plate b"), "ground");
    }
    /// A tap of a winding with a grounded centre is a place along its legs: from the centre to it an ohmmeter reads
    /// the tap's copper, and to the end all of the leg's.
    void tapsOfACentreTappedWindingLieAlongItsLegs() {
        Build b = demoBuild();
        Section tap;
        tap.id = "tap1", tap.kind = SectionKind::Tap, tap.volts = 150, tap.resistance = 25, tap.type = "silicon";
        b.supply.sections.push_back(tap);
        const WholeAmplifier w = wholeAmplifier(b, catalogue);
        const Part& iron = w.schematic[*w.schematic.find("pt1")];
        const auto& coils = std::get<Windings>(iron.element).coils;
        const auto ohmsBetween = [&](const std::string& from, const std::string& to) {
            double sum = 0; // pins that follow each other along the winding
            std::string at = from;
            for (int steps = 0; at != to && steps < 10; ++steps)
                for (const Coil& c : coils)
                    if (iron.pins[static_cast<std::size_t>(c.a)].name == at) {
                        sum += c.ohms;
                        at = iron.pins[static_cast<std::size_t>(c.b)].name;
                        break;
                    }
            return at == to ? sum : -1;
        };
        QCOMPARE(ohmsBetween("plate a", "centre"), b.transformer.plateResistance);
        QCOMPARE(ohmsBetween("tap1 a", "centre"), 25.0);
        QCOMPARE(ohmsBetween("centre", "tap1 b"), 25.0);
        QCOMPARE(ohmsBetween("plate a", "plate b"), 2 * b.transformer.plateResistance);
    }
    void theBiasSupplyHangsOnWhatFeedsIt() {
        Build b = demoBuild();
        WholeAmplifier w = wholeAmplifier(b, catalogue);
        QCOMPARE(netOf(w, "bias-d1", "cathode"), netOf(w, "pt1", "bias 1"));
        QVERIFY(pinsOn(w, "V3 bias") >= 3); // wiper, grid leak, fail-safe
        b.bias.from = BiasSource::PlateCapacitor;
        w = wholeAmplifier(b, catalogue);
        QCOMPARE(netOf(w, "bias-feed-c", "1"), netOf(w, "pt1", "plate a"));
        QCOMPARE(netOf(w, "bias-d2", "cathode"), "ground");
        QVERIFY(netOf(w, "pt1", "bias 1").empty()); // the winding is not used
        b.transformer.biasVolts = 0;
        b.bias.from = BiasSource::Winding;
        w = wholeAmplifier(b, catalogue);
        QVERIFY(!w.schematic.find("bias-d1")); // it hangs on nothing
    }
    void heatersAreWiredForTheirWindingsVolts() {
        // A double triode with a tapped heater: halves in parallel on 6.3 V, in series on 12.6 V.
        Build b = demoBuild();
        b.bottles[0].type = "E80CC";
        WholeAmplifier w = wholeAmplifier(b, catalogue);
        QCOMPARE(netOf(w, "v2", "4"), netOf(w, "v2", "5"));
        QVERIFY(netOf(w, "v2", "9") != netOf(w, "v2", "4") && !netOf(w, "v2", "9").empty());
        b.transformer.heaters[0].volts = 12.8;
        w = wholeAmplifier(b, catalogue);
        QVERIFY(netOf(w, "v2", "4") != netOf(w, "v2", "5"));
        QVERIFY(netOf(w, "v2", "9").empty()); // the tap is left open
        // References: resistors are parts, a raised one stands on a node of its own.
        b = demoBuild();
        b.transformer.heaters[0].reference = HeaterReference::Resistors;
        b.transformer.heaters[0].referenceVolts = 40;
        w = wholeAmplifier(b, catalogue);
        QCOMPARE(netOf(w, "h1-r1", "2"), "heater reference h1");
        QCOMPARE(netOf(w, "h1-r2", "1"), netOf(w, "v5", "5"));
        b.transformer.heaters[0].reference = HeaterReference::Floating;
        w = wholeAmplifier(b, catalogue);
        QVERIFY(!w.schematic.find("h1-r1") && netOf(w, "pt1", "h1 centre").empty());
    }
    void reservoirsAreTheFirstCapacitorOfEachNode() {
        const WholeAmplifier w = wholeAmplifier(demoBuild(), catalogue);
        QCOMPARE(w.reservoirs.size(), 4U);
        QVERIFY(w.reservoirs[0].index < 0);
        for (const auto& [node, id] : {std::pair{1, "c1"}, {2, "c2"}, {3, "c3"}})
            QCOMPARE(w.schematic[w.reservoirs[static_cast<std::size_t>(node)]].id, std::string(id));
        QCOMPARE(w.node[static_cast<std::size_t>(w.schematic.find("r10")->index)], 3);
        QCOMPARE(w.node[static_cast<std::size_t>(w.schematic.find("r21")->index)], 2);
    }
    void everyStartIsWhole() {
        for (const Start& s : starts()) {
            const WholeAmplifier w = wholeAmplifier(s.build, catalogue);
            std::set<std::string> ids;
            for (const Part& p : w.schematic.parts()) QVERIFY2(ids.insert(p.id).second, (s.id + " " + p.id).c_str());
            QCOMPARE(w.inputs.size(), s.build.channels.size());
            for (std::size_t k = 0; k < s.build.channels.size(); ++k) {
                QVERIFY2(w.inputs[k].index > 0 && w.outputs[k].index > 0, s.id.c_str());
                QCOMPARE(netOf(w, inputPart(s.build.channels[k]).c_str(), "sleeve"), "ground");
            }
            // Every heater that a winding feeds has both its ends on it.
            for (const Valve& v : s.build.bottles) {
                std::set<std::string> sides;
                for (const Part& p : w.schematic.parts())
                    if (p.id == v.id)
                        for (const Pin& pin : p.pins)
                            if (pin.net.index >= 0 && w.schematic[pin.net].kind == NetKind::Heater)
                                sides.insert(w.schematic[pin.net].name);
                if (bottlesOf(s.build.channels.front()).size() > 0)
                    QVERIFY2(sides.size() == 2 || sides.empty(), (s.id + " " + v.id).c_str());
            }
        }
    }
    void endsAreSpokenAsBuildersDo_data() {
        QTest::addColumn<QString>("terminal");
        QTest::addColumn<QString>("words");
        for (const auto& [terminal, words] : {std::pair{"v3.7", "V3 pin 7"},
                                              {"c1.-", "C1 −"},
                                              {"pt1.plate-a", "PT1 plate a"},
                                              {"r12.2", "R12 end 2"},
                                              {"input-left.sleeve", "input left sleeve"},
                                              {"output-left.-", "output left −"},
                                              {"c1.1.+", "C1.1 +"},
                                              {"chassis", "chassis"}})
            QTest::newRow(terminal) << terminal << words;
    }
    void endsAreSpokenAsBuildersDo() {
        QFETCH(QString, terminal);
        QFETCH(QString, words);
        QCOMPARE(QString::fromStdString(wires::spoken(terminal.toStdString())), words);
    }
};

EMBER_TESTS(TestWhole)
#include "test_whole.moc"
