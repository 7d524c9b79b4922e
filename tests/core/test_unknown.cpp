// What is not known, not a number or out of all bounds: never judged as good, never written so that it cannot be read.

#include "../support/demo.h"
#include "../support/suite.h"

#include "core/build/fields.h"
#include "core/build/journal.h"
#include "core/build/storage.h"
#include "core/procedure/first_power.h"

#include <QTemporaryDir>
#include <QTest>

#include <cmath>
#include <functional>
#include <limits>

using namespace ember;
using namespace ember::procedure;

namespace {

constexpr double none = std::numeric_limits<double>::quiet_NaN(), inf = std::numeric_limits<double>::infinity();

/// Sets every number, text and flag of a build to the worst of one kind. What other parts refer to (ids, types, nodes)
/// keeps its value: an edit of those is checked before it is taken.
class Spoiler : public fields::Visitor {
  public:
    Spoiler(double worstNumber, std::string worstText) : number_(worstNumber), text_(std::move(worstText)) {}
    void number(const char*, double& value, Unit, Range) override { value = number_; }
    void optional(const char*, double& value, Unit, Range) override { value = number_; }
    void integer(const char* key, int& value, int least, int most) override {
        if (std::string_view(key) == "stage") value = number_ < 0 ? least - 5 : most + 5;
    }
    void text(const char* key, std::string& value) override {
        const std::string_view k = key;
        if (k == "text" || k == "notes" || k == "name" || k == "verdict" || k == "unit" || k == "reason" ||
            k == "point" || k == "struckWhy" || k == "source" || k == "time" || k == "finding")
            value = text_;
    }
    void flag(const char*, bool& value) override { value = true; }
    void choiceOf(const char*, int&, std::span<const std::string_view>) override {}
    void objectOf(const char*, const fields::Object& value) override { value.accept(*this); }
    void listOf(const char*, const fields::List& values, std::size_t) override {
        for (std::size_t k = 0; k < values.size(); ++k) values.at(k).accept(*this);
    }

  private:
    double number_;
    std::string text_;
};

Build withLog() {
    Build b = demoBuild();
    b.log.resize(4);
    b.log[0].kind = "reading", b.log[1].kind = "note", b.log[2].kind = "stage", b.log[3].kind = "measure";
    b.waivers.resize(1);
    b.supply.loads.push_back({{}, "load", 1, 0.01, 0});
    return b;
}

} // namespace

class TestUnknown : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    /// No prediction is a verdict of its own, whatever was read.
    void anUnknownBandJudgesNothing() {
        Expectation e;
        e.point.label = "V3 grid";
        for (const double reading : {-1e6, 0.0, 12.0, 1e6, none, inf}) QCOMPARE(judge(e, reading), Verdict::NotJudged);
        QVERIFY(sentence(e, 12).find("not judged") != std::string::npos);
        e.band = {10, 9, 11};
        QCOMPARE(judge(e, 10), Verdict::InRange);
        QCOMPARE(judge(e, none), Verdict::NotJudged);
        e.band = {10, 9, none};
        QCOMPARE(judge(e, 10), Verdict::NotJudged);
        // A stop limit stands without a band too.
        e.stopAbove = 400;
        QCOMPARE(judge(e, 401), Verdict::Stop);
    }

    /// A build without a bias supply has grids without a prediction: the reading is kept, without a band, and the file
    /// opens again.
    void aReadingWithoutAPredictionIsKeptAndTheFileOpens() {
        Build b = demoBuild();
        b.transformer.biasVolts = 0;
        Expectation e;
        for (const TestPoint& p : testPoints(b))
            if (p.id == "bias-v3") e.point = p;
        b.log.push_back(readingEntry(e, 1, -11.2, "typed"));
        QCOMPARE(b.log[0].verdict, std::string("not judged"));
        const auto again = fromText(toText(b));
        QVERIFY2(again.ok(), again.ok() ? "" : again.problem().text().c_str());
        QCOMPARE(again->log[0].value, -11.2);
        QVERIFY(!bandOf(again->log[0]).known());
    }

    /// Files that an older program spoiled with null open too.
    void aNullThatWasWrittenOnceIsAnUnknown() {
        Build b = demoBuild();
        LogEntry e;
        e.kind = "reading";
        e.value = 3;
        b.log.push_back(e);
        std::string text = toText(b);
        const auto at = text.find("\"value\": 3.0");
        QVERIFY(at != std::string::npos);
        text.replace(at, 12, "\"low\": null, \"high\": null, \"value\": 3.0");
        const auto again = fromText(text);
        QVERIFY2(again.ok(), again.ok() ? "" : again.problem().text().c_str());
        QVERIFY(std::isnan(again->log[0].low));
    }

    void orMoreStaysOrMore() {
        Build b = demoBuild();
        Expectation e;
        e.point = testPoints(b).front();
        e.band = {1e9, 2e6, inf};
        b.log.push_back(readingEntry(e, 0, 5e7, "typed"));
        const Band band = bandOf(fromText(toText(b))->log[0]);
        QVERIFY(band.known() && std::isinf(band.high) && band.low == 2e6);
    }

    void nothingThatIsWrittenIsRefused_data() {
        QTest::addColumn<double>("number");
        QTest::addColumn<QByteArray>("words");
        const QByteArray longest(20000, 'x'), longer(60000, 'y'), broken("caf\xe9 \xff\xfe \xc3"),
            cut = QByteArray(19999, 'z') + "\xc3\xa9 more", surrogate("\xed\xa0\x80 \xf4\x90\x80\x80");
        for (const auto& [name, number] : {std::pair{"nan", none},
                                           {"inf", inf},
                                           {"-inf", -inf},
                                           {"huge", 1e300},
                                           {"tiny", -1e300},
                                           {"denormal", 1e-310}})
            for (const auto& [called, words] :
                 std::initializer_list<std::pair<const char*, QByteArray>>{{"empty", {}},
                                                                           {"longest", longest},
                                                                           {"longer", longer},
                                                                           {"not UTF-8", broken},
                                                                           {"cut in a character", cut},
                                                                           {"surrogate", surrogate},
                                                                           {"zero byte", QByteArray("a\0b", 3)},
                                                                           {"controls", "\x01\x1f\"\\/\b\f\n\r\t"}})
                QTest::addRow("%s, %s", name, called) << number << words;
    }
    void nothingThatIsWrittenIsRefused() {
        QFETCH(double, number);
        QFETCH(QByteArray, words);
        Build b = withLog();
        Spoiler spoiler(number, words.toStdString());
        fields::visit(spoiler, b);
        const auto again = fromText(toText(b));
        QVERIFY2(again.ok(), again.ok() ? "" : again.problem().text().c_str());
        QCOMPARE(again->log.size(), b.log.size());
        QCOMPARE(toText(*fromText(toText(*again))), toText(*again)); // and it stays as it is from then on
        QTemporaryDir dir;
        const auto at = dir.filePath("journal.jsonl").toStdString();
        auto j = Journal::start(at, demoBuild(), words.toStdString());
        QVERIFY(j.ok() && j->append(words.toStdString(), b).ok());
        const auto r = recover(at);
        QVERIFY2(r.ok() && r->has_value(), r.ok() ? "nothing" : r.problem().text().c_str());
        QCOMPARE(toText((*r)->build), toText(*again));
        QVERIFY(saveBuild(b, dir.filePath("a.ember.json").toStdString()).ok());
    }
};

EMBER_TESTS(TestUnknown)
#include "test_unknown.moc"
