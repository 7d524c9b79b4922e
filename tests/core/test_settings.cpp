// Every value of the build by name, and edits to its shape.

#include "../support/demo.h"
#include "../support/suite.h"

#include "core/build/structure.h"

#include <QTest>

#include <set>

using namespace ember;

class TestSettings : public QObject {
    Q_OBJECT
    const Build demo = demoBuild();
    const std::vector<Setting> all = settingsOf(demo);
    const Setting* at(const std::string& pointer) {
        for (const Setting& s : all)
            if (s.pointer == pointer) return &s;
        return nullptr;
    }

  private Q_SLOTS:
    void everyNumberIsFoundAgainAtItsPlace() {
        int numbers = 0;
        for (const Setting& s : all) {
            if (s.kind != Setting::Kind::Number) continue;
            ++numbers;
            const auto place = placeAt(demo, s.pointer);
            QVERIFY2(place.has_value(), s.pointer.c_str());
            QCOMPARE(place->value, s.number.value);
            QVERIFY2(s.number.value >= s.number.range.least && s.number.value <= s.number.range.most,
                     s.pointer.c_str());
        }
        QVERIFY(numbers > 400);
    }

    void labelsAreWordsAndPointersUnique() {
        std::set<std::string> pointers;
        for (const Setting& s : all) {
            QVERIFY2(pointers.insert(s.pointer).second, s.pointer.c_str());
            QVERIFY2(!s.label.empty() && s.label.find('/') == std::string::npos, s.label.c_str());
        }
        QCOMPARE(at("/supply/sections/0/capacitance")->label, std::string("supply, c1, capacitance"));
        QCOMPARE(at("/transformer/plateVolts")->label, std::string("transformer pt1, plate volts"));
    }

    void historyIsNotASetting() {
        Build b = demo;
        LogEntry e;
        e.kind = "note";
        e.text = "smells warm";
        b.log.push_back(e);
        b.waivers.push_back({{}, "fuse", "tested", ""});
        for (const Setting& s : settingsOf(b))
            QVERIFY2(s.pointer.rfind("/log", 0) != 0 && s.pointer.rfind("/waivers", 0) != 0, s.pointer.c_str());
        QCOMPARE(settingsOf(b).size(), all.size());
    }

    void everySettingCanBeSetToWhatItIs() {
        std::vector<Edit> same;
        for (const Setting& s : all) {
            if (s.kind == Setting::Kind::Number)
                same.push_back(s.number.whole ? setWhole("", s.pointer, static_cast<int>(s.number.value))
                                              : setValue("", s.pointer, s.number.value));
            else if (s.choices == std::vector<std::string>{"false", "true"})
                same.push_back(setFlag("", s.pointer, s.text == "true"));
            else
                same.push_back(setText("", s.pointer, s.text));
        }
        const auto b = apply(demo, together("all of it", same));
        QVERIFY2(b.ok(), b.ok() ? "" : b.problem().text().c_str());
        QCOMPARE(toText(*b), toText(demo));
    }

    void aNumberSetWhereItStandsIsTheFilesOwn() {
        // Numbers take a short way; beside a text they take the file's: the same build, or the same refusal.
        int refused = 0, seen = 0;
        for (const Setting& s : all) {
            if (s.kind != Setting::Kind::Number || ++seen % 4) continue; // a quarter of them: every kind of object
            for (const double factor : {1.01, 1e9}) {
                const double v = s.number.whole ? s.number.value + 1 : factor * s.number.value;
                const Edit number =
                    s.number.whole ? setWhole("", s.pointer, static_cast<int>(v)) : setValue("", s.pointer, v);
                const auto quick = apply(demo, number),
                           whole = apply(demo, together("", {number, setText("", "/notes", demo.notes)}));
                QCOMPARE(quick.ok(), whole.ok());
                if (quick) {
                    QVERIFY2(toText(*quick) == toText(*whole), s.pointer.c_str());
                } else {
                    ++refused;
                    QCOMPARE(quick.problem().text(), whole.problem().text());
                }
            }
        }
        QVERIFY(refused > 25);
        QVERIFY(!apply(demo, setValue("", "/supply/sections/0/inSeries", 1.5)).ok());
    }

    void oneMoreThanItsRangeIsRefusedByName_data() {
        QTest::addColumn<QString>("pointer");
        for (const char* p : {"/mains/volts", "/supply/sections/0/esr", "/channels/1/stages/2/parts/13/resistance",
                              "/chassis/thickness", "/chassis/parts/0/mass", "/bias/floor"})
            QTest::newRow(p) << QString(p);
    }
    void oneMoreThanItsRangeIsRefusedByName() {
        QFETCH(QString, pointer);
        const Setting* s = at(pointer.toStdString());
        QVERIFY(s);
        for (const double v : {s->number.range.most * 1.01 + 1, s->number.range.least - 1}) {
            const auto b = apply(demo, setValue("", s->pointer, v));
            QVERIFY(!b.ok());
            QCOMPARE(QString::fromStdString(b.problem().where), pointer);
        }
        QVERIFY(apply(demo, setValue("", s->pointer, s->number.range.least)).ok() || s->pointer == "/mains/volts");
    }

    void severalEditsAreOne() {
        const auto b =
            apply(demo, together("both", {setValue("", "/mains/volts", 240), setValue("", "/mains/high", 260)}));
        QVERIFY(b.ok());
        QCOMPARE(b->mains.volts, 240.0);
        QCOMPARE(b->mains.high, 260.0);
        // One that does not fit takes the others with it.
        QVERIFY(!apply(demo, together("both", {setValue("", "/mains/volts", 240), setValue("", "/nowhere", 1)})).ok());
    }

    void aChannelIsDoubledWhole() {
        const auto edit = duplicateEntry(demo, "/channels/1");
        QVERIFY(edit.ok());
        const auto b = apply(demo, *edit);
        QVERIFY2(b.ok(), b.ok() ? "" : b.problem().text().c_str());
        QCOMPARE(b->channels.size(), std::size_t(3));
        std::set<std::string> ids;
        for (const Channel& c : b->channels)
            for (const Stage& s : c.stages) {
                for (const StageValve& v : s.valves)
                    if (v.section == 1) QVERIFY2(ids.insert(v.bottle).second, v.bottle.c_str());
                for (const StagePart& p : s.parts)
                    if (!idOf(p.part).empty()) QVERIFY2(ids.insert(idOf(p.part)).second, idOf(p.part).c_str());
            }
        QCOMPARE(b->bottles.size(), std::size_t(9));
        QCOMPARE(mainValue(b->channels[2].stages[2].part("load")->part),
                 mainValue(b->channels[1].stages[2].part("load")->part));
    }

    void whatIsNoEntryIsNotDoubled_data() {
        QTest::addColumn<QString>("pointer");
        for (const char* p : {"", "/mains", "/supply/sections/99", "/supply/sections/x", "/channels"})
            QTest::newRow(p) << QString(p);
    }
    void whatIsNoEntryIsNotDoubled() {
        QFETCH(QString, pointer);
        QVERIFY(!duplicateEntry(demo, pointer.toStdString()).ok());
    }

    void freshIdsCountOn() {
        QCOMPARE(freshId(demo, "c1"), std::string("c6"));
        QCOMPARE(freshId(demo, "zz"), std::string("zz1"));
        QVERIFY(freshId(demo, "p-v1") != "p-v1");
    }

    void aPartAddedIsAPartTakenAway() {
        PlacedPart p;
        p.id = "p-new";
        p.kind = "jack";
        const auto with = apply(demo, insertAt("place", "/chassis/parts/-", p));
        QVERIFY(with.ok());
        QCOMPARE(with->chassis.parts.size(), demo.chassis.parts.size() + 1);
        const auto without =
            apply(*with, removeAt("away", "/chassis/parts/" + std::to_string(demo.chassis.parts.size())));
        QVERIFY(without.ok());
        QCOMPARE(toText(*without), toText(demo));
        QVERIFY(!apply(demo, removeAt("away", "/chassis/parts/99")).ok());
    }

    void twoPartsOfOneNameAreRefused() {
        PlacedPart p = demo.chassis.parts[0];
        const auto b = apply(demo, insertAt("place", "/chassis/parts/-", p));
        QVERIFY(!b.ok());
        QVERIFY(b.problem().sentence.find(p.id) != std::string::npos);
    }
};

EMBER_TESTS(TestSettings)
#include "test_settings.moc"
