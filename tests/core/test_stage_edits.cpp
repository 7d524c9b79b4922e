// Edits to the shape of a path: whatever is inserted, exchanged, moved or taken away, what is left is a build.
#include "../support/demo.h"
#include "../support/parts.h"
#include "../support/shipped.h"
#include "../support/spice.h"
#include "../support/suite.h"

#include "core/build/starts.h"
#include "core/plan/channel_circuit.h"
#include "core/plan/pin_figures.h"
#include "core/schematic/path_schematic.h"
#include "core/schematic/stage_edits.h"

#include <QTest>
#include <nlohmann/json.hpp>

#include <cmath>
#include <set>

using namespace ember;
using namespace ember::schematic;

namespace {

Build after(const Build& b, const Edit& edit) {
    const auto done = apply(b, edit);
    if (!done) qFatal("%s: %s", edit.name.c_str(), done.problem().text().c_str());
    return *done;
}

/// Every number that the path shows is finite, whatever its shape.
bool computes(const Build& b) {
    const auto s = plan::solveSteady(b, catalogue, {b.mains.volts});
    if (!s) return false;
    for (const plan::ChannelPoint& c : s->channels)
        for (const plan::ValvePoint& v : c.valves)
            if (!std::isfinite(v.plate) || !std::isfinite(v.plateAmps)) return false;
    return true;
}

std::set<std::string> idsOf(const Build& b) {
    std::set<std::string> out;
    for (const Valve& v : b.bottles) out.insert(v.id);
    for (const Channel& ch : b.channels)
        for (const Stage& s : ch.stages)
            for (const StagePart& p : s.parts)
                if (!idOf(p.part).empty() && !out.insert(idOf(p.part)).second) qFatal("%s twice", idOf(p.part).c_str());
    return out;
}

} // namespace

class TestStageEdits : public QObject {
    Q_OBJECT
    Build demo = demoBuild();

  private Q_SLOTS:
    void everyKindIsInsertedInBothChannelsAndTakenAway_data() {
        QTest::addColumn<QString>("kind");
        for (const StageKind* k : stageKinds())
            if (k->duty != Duty::Feedback)
                QTest::newRow(std::string(k->id).c_str()) << QString::fromStdString(std::string(k->id));
    }
    void everyKindIsInsertedInBothChannelsAndTakenAway() {
        QFETCH(QString, kind);
        const Build more = after(demo, insertStage(demo, catalogue, 0, 1, *stageKind(kind.toStdString())));
        for (const Channel& ch : more.channels) {
            QCOMPARE(ch.stages.size(), std::size_t(5));
            QCOMPARE(ch.stages[1].kind, kind.toStdString());
        }
        idsOf(more); // each its own
        // The right channel has bottles of its own for it.
        for (std::size_t v = 0; v < more.channels[0].stages[1].valves.size(); ++v) {
            const StageValve &left = more.channels[0].stages[1].valves[v],
                             &right = more.channels[1].stages[1].valves[v];
            QVERIFY(left.bottle != right.bottle || left.section != right.section);
        }
        QCOMPARE(toText(after(more, removeStage(more, 0, 1))), toText(demo));
    }

    void everySplitterTakesTheOthersPlace() {
        for (const StageKind* k : stageKinds()) {
            if (k->duty != Duty::Splitter || k->id == "split load") continue;
            const Build b = after(demo, exchangeStage(demo, catalogue, 0, 1, *k));
            for (const Channel& ch : b.channels) QCOMPARE(ch.stages[1].kind, std::string(k->id));
            idsOf(b);
            QVERIFY2(computes(b), std::string(k->id).c_str());
            // Every bottle that is left is used.
            for (const Valve& v : b.bottles) {
                bool used = false;
                for (const Channel& ch : b.channels)
                    for (const std::string& id : bottlesOf(ch)) used = used || id == v.id;
                QVERIFY2(used, v.id.c_str());
            }
        }
    }
    void aPartOfTheSameSlotKeepsItsValue() {
        const Build b = after(demo, exchangeStage(demo, catalogue, 0, 0, *stageKind("cascode")));
        QCOMPARE(mainValue(b.channels[0].stages[0].part("cathode")->part), 1800.0);
        QCOMPARE(idOf(b.channels[0].stages[0].part("cathode")->part), std::string("r11"));
    }

    void movingThereAndBackLeavesTheBuild() {
        const Build moved = after(demo, moveStage(demo, 0, 0, 1));
        for (const Channel& ch : moved.channels) QCOMPARE(ch.stages[1].id, std::string("s1"));
        QCOMPARE(toText(after(moved, moveStage(moved, 0, 1, -1))), toText(demo));
    }

    void valvesInParallelAreAddedWholeAndTakenAway() {
        Build b = demo;
        for (int side = 2; side <= 4; ++side) {
            b = after(b, addOutputValves(b, 0, 2));
            for (const Channel& ch : b.channels) QCOMPARE(ch.stages[2].valves.size(), std::size_t(2 * side));
        }
        idsOf(b);
        QCOMPARE(adjustersOf(b).size(), std::size_t(16)); // one a valve, as the first has
        // Eight valves alike share what two carried, each by itself.
        const auto c = channelSchematic(b, catalogue, 0);
        QVERIFY(c.problems.empty());
        QCOMPARE(
            std::count_if(c.valves.begin(), c.valves.end(), [](const ValveUse& v) { return v.duty == Duty::Output; }),
            8);
        for (int k = 0; k < 3; ++k) b = after(b, removeOutputValves(b, 0, 2));
        QCOMPARE(b.bottles.size(), demo.bottles.size());
        QCOMPARE(b.channels[1].stages[2].valves.size(), std::size_t(2));
        const Build same = after(b, removeOutputValves(b, 0, 2));
        QVERIFY2(same.channels[0].stages[2].valves.size() == 2, "the last one stays");
    }

    void emptySlotsAreOfferedAndFilled() {
        const Stage& s = demo.channels[0].stages[0];
        const auto slots_ = emptySlots(s);
        QVERIFY(!slots_.empty());
        for (const EmptySlot& e : slots_) {
            QVERIFY(!s.part(e.slot->name, e.at));
            const Build b = after(demo, addPart(demo, 0, 0, *e.slot, e.at, e.slot->fills.front()));
            for (const Channel& ch : b.channels)
                QVERIFY2(ch.stages[0].part(e.slot->name, e.at), std::string(e.slot->name).c_str());
            const auto& parts = b.channels[0].stages[0].parts;
            QCOMPARE(toText(after(b, removePart(b, 0, 0, parts.size() - 1))), toText(demo));
        }
    }

    void aFollowerTakesValuesOverButNotItsOwnAffairs() {
        const auto take = [&](const Edit& e) { return after(demo, followed(demo, e)); };
        Build b = take(setValue("r10", "/channels/0/stages/0/parts/1/resistance", 220e3));
        QCOMPARE(ohmsOf(b, "r30"), 220e3);
        b = take(setWhole("node", "/channels/0/stages/0/node", 2));
        QCOMPARE(b.channels[1].stages[0].node, 2);
        b = take(setValue("adjuster", adjustersOf(demo)[0].pointer(), 0.7));
        QCOMPARE(adjusterOf(b, "v6"), 0.34);
        b = take(setText("id", "/channels/0/stages/0/parts/1/id", "r99"));
        QVERIFY(pointerOfId(b, "r30").has_value());
        // The follower's own edits are its own.
        b = take(setValue("r30", "/channels/1/stages/0/parts/1/resistance", 180e3));
        QCOMPARE(ohmsOf(b, "r10"), 270e3);
        // What was set apart stays apart.
        const Build apart = after(b, followed(b, setValue("r10", "/channels/0/stages/0/parts/1/resistance", 220e3)));
        Build read = apart;
        QCOMPARE(ohmsOf(read, "r30"), 180e3);
        const Build alone = after(demo, setFollows(demo, 1, ""));
        Build still = after(alone, followed(alone, setValue("r10", "/channels/0/stages/0/parts/1/resistance", 220e3)));
        QCOMPARE(ohmsOf(still, "r30"), 270e3);
        QVERIFY(!apply(demo, setFollows(demo, 0, "right")).ok()); // which follows itself
    }

    /// A bottle with a triode and a pentode gives an output stage its pentode, and the triodes of a bottle of two stay.
    void anotherTypeKeepsTheKindOfSection() {
        const Build b = after(demo, changeType(demo, catalogue, "v3", "ECL86"));
        QCOMPARE(b.channels[0].stages[2].valve("a1")->section, 2);
        QVERIFY(pathProblems(b, catalogue).empty());
        QCOMPARE(b.loose[0].from, std::string("V3 plate 2")); // the damping network follows its net's new name
        const Build back = after(b, changeType(b, catalogue, "v3", "EL84"));
        QCOMPARE(back.channels[0].stages[2].valve("a1")->section, 1);
        QCOMPARE(back.loose[0].from, demo.loose[0].from);
        const Build same = after(demo, changeType(demo, catalogue, "v2", "ECC88"));
        QCOMPARE(same.channels[0].stages[1].valve("")->section, 2);
    }

    void aLoosePartJoinsTwoNets() {
        const Build b = after(demo, addLoose(demo, Fill::Resistor, 1e6, "V2 plate 1", "ground"));
        QVERIFY(pathProblems(b, catalogue).empty());
        const auto s = plan::solveSteady(b, catalogue, {230}), plain = plan::solveSteady(demo, catalogue, {230});
        const double with = pointOf(b, *s, "v2").plate, without = pointOf(demo, *plain, "v2").plate;
        QVERIFY2(with < without - 3, "it takes current from the plate");
        QVERIFY(std::abs(pointOf(b, *s, "v5").plate - pointOf(demo, *plain, "v5").plate) < 1);
        const Build nowhere = after(demo, addLoose(demo, Fill::Resistor, 1e6, "V9 plate", "V8 plate"));
        bool said = false;
        for (const Problem& p : pathProblems(nowhere, catalogue)) said = said || p.where.rfind("/loose/4", 0) == 0;
        QVERIFY(said);
    }

    void aKindThatIsNotKnownIsKept() {
        Json j = toJson(demo);
        j["channels"][0]["stages"][1]["kind"] = "crystal set";
        const auto b = fromText(j.dump());
        QVERIFY(b.ok());
        QCOMPARE(toJson(*b)["channels"][0]["stages"][1]["kind"].get<std::string>(), std::string("crystal set"));
        QVERIFY(!pathProblems(*b, catalogue).empty());
        QVERIFY2(plan::solveSteady(*b, catalogue, {230}).ok(), "what can be computed still is");
    }
    void tooManyStagesOrPartsAreRefused() {
        Build b = demo;
        while (b.channels[0].stages.size() < 99) {
            Stage s;
            s.id = "x" + std::to_string(b.channels[0].stages.size());
            s.kind = "pad";
            b.channels[0].stages.push_back(s);
        }
        const auto wrong = checkReferences(b);
        QVERIFY(wrong && wrong->sentence.find("stages") != std::string::npos);
        Build many = demo;
        for (int k = 0; k < 2000; ++k) many.loose.push_back({{}, "a", "b", "", ResistorPart{}});
        QVERIFY(checkReferences(many).has_value());
    }

    /// Every start's every channel: the operating point, by another simulator.
    void theStartsAgreeWithAnotherSimulator_data() {
        QTest::addColumn<QString>("id");
        for (const Start& s : starts())
            if (!s.build.bottles.empty()) QTest::newRow(s.id.c_str()) << QString::fromStdString(s.id);
    }
    void theStartsAgreeWithAnotherSimulator() {
        QFETCH(QString, id);
        const Build& b = startOf(id.toStdString())->build;
        const auto s = plan::solveSteady(b, catalogue, {b.mains.volts});
        QVERIFY(s.ok());
        for (std::size_t k = 0; k < b.channels.size(); ++k) {
            const auto h = plan::heldChannel(b, catalogue, k, plan::supplyOf(b, *s));
            Analysis a(h.schematic);
            const auto point = a.operatingPoint();
            QVERIFY(point.ok());
            const auto spice = spiceOperatingPoint(h.schematic);
            QVERIFY2(spice && spice->size() > 4, "scripts/setup installs it");
            for (const auto& [net, volts] : *spice) {
                const double own = point->netVolts[static_cast<std::size_t>(net)];
                QVERIFY2(std::abs(own - volts) < 0.005 * std::abs(volts) + 0.05,
                         qPrintable(QString("%1: %2 against %3")
                                        .arg(h.schematic.nets()[static_cast<std::size_t>(net)].name.c_str())
                                        .arg(own)
                                        .arg(volts)));
            }
        }
    }
    /// The volts that the figures print are those of the points that the rules judge.
    void pinsAndPointsSayTheSame() {
        const auto s = plan::solveSteady(demo, catalogue, {230});
        const auto f = plan::schematicFigures(demo, catalogue, *s);
        QVERIFY(f.ok());
        int compared = 0;
        for (const plan::PinFigure& p : f->pins)
            for (const plan::ChannelPoint& c : s->channels)
                for (const plan::ValvePoint& v : c.valves) {
                    const std::string suffix = catalogue.valve(demo.bottles[v.bottle].type)->sections() > 1
                                                   ? " " + std::to_string(v.section)
                                                   : "";
                    if (demo.bottles[v.bottle].id != p.part || p.electrode != "plate" + suffix) continue;
                    QVERIFY(std::abs(p.volts - v.plate) < 1e-3 && std::abs(p.amps - v.plateAmps) < 1e-7);
                    ++compared;
                }
        QCOMPARE(compared, 8);
    }
};

EMBER_TESTS(TestStageEdits)
#include "test_stage_edits.moc"
