#include "../support/demo.h"
#include "../support/suite.h"

#include "core/build/edit.h"
#include "core/build/flat.h"
#include "core/build/schema.h"

#include <QFile>
#include <QTest>
#include <nlohmann/json.hpp>
#include <valijson/adapters/nlohmann_json_adapter.hpp>
#include <valijson/schema.hpp>
#include <valijson/schema_parser.hpp>
#include <valijson/validator.hpp>

using namespace ember;

namespace {

std::string sentence(const Expected<Build>& b) {
    return b ? std::string("accepted") : b.problem().text();
}

Json demoJson() {
    return toJson(demoBuild());
}

} // namespace

class TestBuild : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    /// flat() tells builds apart exactly where their files differ.
    void flatSeesEveryValueOfTheFile() {
        const Build demo = demoBuild();
        const Json flattened = demoJson().flatten();
        int changed = 0;
        for (const auto& [pointer, value] : flattened.items()) {
            if (!value.is_number_float() || value.get<double>() == 0) continue;
            Json j = demoJson();
            j.at(Json::json_pointer(pointer)) = value.get<double>() * 1.0001;
            const auto other = fromJson(j);
            if (!other) continue; // at the end of its range
            QVERIFY2(flat(*other) != flat(demo), pointer.c_str());
            QCOMPARE(flatCircuit(*other) != flatCircuit(demo),
                     !pointer.starts_with("/chassis") && !pointer.starts_with("/wiring"));
            ++changed;
        }
        QVERIFY(changed > 200);
        QCOMPARE(flat(*fromText(toText(demo))), flat(demo));
        Json j = demoJson();
        j["supply"]["mood"] = "warm";
        QVERIFY(flat(*fromJson(j)) != flat(demo)); // a key that this version does not know
    }

    void theDemoSurvivesWritingAndReading() {
        const Build b = demoBuild();
        const auto again = fromText(toText(b));
        QVERIFY(again.ok());
        QCOMPARE(toText(*again), toText(b));
    }

    void unknownKeysComeBackWhereTheyWere() {
        Json j = demoJson();
        j["supply"]["sections"][1]["wound_by"] = "hand";
        j["colour"] = {{"plate", "green"}};
        const auto b = fromJson(j);
        QVERIFY2(b.ok(), sentence(b).c_str());
        const Json back = toJson(*b);
        QCOMPARE(back["supply"]["sections"][1]["wound_by"].get<std::string>(), std::string("hand"));
        QCOMPARE(back["colour"]["plate"].get<std::string>(), std::string("green"));
    }

    void theWrittenFileFitsTheSchema() {
        QFile f(PROJECT_DIR "/docs/build.schema.json");
        QVERIFY(f.open(QIODevice::ReadOnly));
        const auto text = f.readAll().toStdString();
        QVERIFY(Json::parse(text) == buildSchema()); // write-schema docs/build.schema.json brings it up to date
        const nlohmann::json schemaJson = nlohmann::json::parse(text);
        valijson::Schema schema;
        valijson::SchemaParser parser;
        parser.populateSchema(valijson::adapters::NlohmannJsonAdapter(schemaJson), schema);
        valijson::Validator validator;
        nlohmann::json good = nlohmann::json::parse(toText(demoBuild()));
        QVERIFY(validator.validate(schema, valijson::adapters::NlohmannJsonAdapter(good), nullptr));
        good["supply"]["sections"][0]["capacitance"] = -1;
        QVERIFY(!validator.validate(schema, valijson::adapters::NlohmannJsonAdapter(good), nullptr));
    }

    void aWrongPlaceIsNamed_data() {
        QTest::addColumn<QString>("pointer");
        QTest::addColumn<QString>("value");
        QTest::addColumn<QString>("says");
        const auto row = [](const char* p, const char* v, const char* s) {
            QTest::newRow(qPrintable(QString(p) + " " + v)) << QString(p) << QString(v) << QString(s);
        };
        row("/supply/sections/0/capacitance", "0", "outside");
        row("/supply/sections/1/resistance", "-5", "outside");
        row("/transformer/plateVolts", "1e7", "outside");
        row("/transformer/plateVolts", "\"high\"", "a number");
        row("/supply/connection", "\"spiral\"", "one of");
        row("/channels/0/stages/2/node", "9", "does not exist");
        row("/channels/0/stages/0/valves/0/bottle", "\"v99\"", "no bottle");
        row("/channels/0/stages/2/valves/0/section", "2", "1 section");
        row("/bottles/4/type", "\"XX99\"", "no valve");
        row("/channels/1/stages/0/parts/1/id", "\"r10\"", "already used");
        row("/channels/1/follows", "\"middle\"", "stands by itself");
        row("/format", "\"else\"", "not a Dim Ember build");
        row("/version", "99", "newer");
        row("/log", "{}", "a list");
    }
    void aWrongPlaceIsNamed() {
        QFETCH(QString, pointer);
        QFETCH(QString, value);
        QFETCH(QString, says);
        Json j = demoJson();
        j[Json::json_pointer(pointer.toStdString())] = Json::parse(value.toStdString());
        const auto b = fromJson(j);
        QVERIFY(!b.ok());
        QVERIFY2(QString::fromStdString(b.problem().where).startsWith(pointer), b.problem().where.c_str());
        QVERIFY2(QString::fromStdString(b.problem().sentence).contains(says), b.problem().sentence.c_str());
    }

    void aBrokenTextIsRefusedWithItsLine() {
        const std::string whole = toText(demoBuild());
        const auto cut = fromText(whole.substr(0, whole.size() / 2));
        QVERIFY(!cut.ok());
        QVERIFY2(QString::fromStdString(cut.problem().text()).contains("cut off"), cut.problem().text().c_str());
        const auto odd = fromText("{\n \"format\": oops }");
        QVERIFY(!odd.ok());
        QCOMPARE(odd.problem().where.substr(0, 6), std::string("line 2"));
        QVERIFY(!fromText("").ok());
        QVERIFY(!fromText("[]").ok());
        QVERIFY(!fromText(std::string("{\"a\":\"\xff\xfe\"}")).ok());
    }

    void aHostileNestingIsRefused() {
        const auto deep = fromText(std::string(200000, '['));
        QVERIFY(!deep.ok());
        QVERIFY(QString::fromStdString(deep.problem().sentence).contains("nested"));
        QVERIFY(!fromText(std::string(largestFile + 1, ' ')).ok());
    }

    void everyTruncationIsASentenceNotACrash() {
        const std::string whole = toText(demoBuild());
        for (std::size_t n = 0; n + 2 < whole.size(); n += 97) QVERIFY(!fromText(whole.substr(0, n)).ok());
    }

    void anEditIsCheckedLikeAFile() {
        const Build b = demoBuild();
        const auto good = apply(b, setValue("r1", "/supply/sections/3/resistance", 6800));
        QVERIFY(good.ok());
        QCOMPARE(good->supply.sections[3].resistance, 6800.0);
        QVERIFY(!apply(b, setValue("r1", "/supply/sections/3/resistance", -1)).ok());
        QVERIFY(!apply(b, setValue("r1", "/supply/nothing/here", 1)).ok());
    }

    void aPlaceKnowsItsUnitAndRange() {
        const auto p = placeAt(demoBuild(), "/supply/sections/0/capacitance");
        QVERIFY(p.has_value());
        QCOMPARE(p->unit, Unit::Farad);
        QVERIFY(!checkWithin(0, p->unit, p->range).ok());
        QVERIFY(!placeAt(demoBuild(), "/supply/sections/99/capacitance").has_value());
    }
};

EMBER_TESTS(TestBuild)
#include "test_build.moc"
