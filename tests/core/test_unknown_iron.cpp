// Transformers without papers: what a known one shows between its leads tells what it is.

#include "../support/suite.h"

#include "core/plan/unknown_iron.h"

#include <QTest>

#include <algorithm>
#include <cmath>

using namespace ember;
using namespace ember::plan;

namespace {

const Meter meter;

const FoundLead& leadOf(const UnknownIron& found, const std::string& name) {
    for (const FoundWinding& w : found.windings)
        for (const FoundLead& l : w.leads)
            if (l.name == name) return l;
    qFatal("no lead %s", name.c_str());
}
double valueOf(const UnknownIron& found, const std::string& key) {
    for (const IronValue& v : found.iron.values)
        if (v.key == key) return v.value;
    return 0;
}
bool saysOf(const UnknownIron& found, const std::string& words) {
    return std::any_of(found.says.begin(), found.says.end(),
                       [&](const std::string& s) { return s.find(words) != std::string::npos; });
}

/// 8 kohm to 4, 8 and 16 ohm, screen taps at 43 %: leads 1 (end), 2 (tap), 3 (centre), 4 (tap), 5 (end); a common, b,
/// c, d. 10 V on the whole primary.
std::vector<LeadReading> ultralinear() {
    const double turns = std::sqrt(8000.0 / 16), whole = 10, s = whole / turns, unread = NAN;
    return {{"1", "3", 130, 5},          {"3", "5", 138, 5},        {"1", "5", 268, 10},
            {"3", "2", 57, 2.15},        {"3", "4", 60, 2.15},      {"2", "4", unread, 4.3},
            {"1", "2", unread, 2.85},    {"a", "b", 0.25, s / 2},   {"a", "c", 0.35, s / std::sqrt(2.0)},
            {"a", "d", 0.5, s},          {"b", "d", unread, s / 2}, {"c", "d", unread, s - s / std::sqrt(2.0)},
            {"1", "a", INFINITY, unread}};
}

} // namespace

class TestUnknownIron : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void anUltralinearTransformerIsRecognised() {
        const auto found = identify(ultralinear(), 230, 8, meter);
        QVERIFY2(found.ok(), found.ok() ? "" : found.problem().sentence.c_str());
        QCOMPARE(found->windings.size(), std::size_t(2));
        QCOMPARE(leadOf(*found, "3").is, std::string("centre tap"));
        QCOMPARE(leadOf(*found, "2").is, std::string("screen tap, 43 %"));
        QCOMPARE(leadOf(*found, "4").is, std::string("screen tap, 43 %"));
        QCOMPARE(leadOf(*found, "a").is, std::string("common"));
        QCOMPARE(leadOf(*found, "b").is, std::string("4 \u03a9"));
        QCOMPARE(leadOf(*found, "d").is, std::string("16 \u03a9"));
        QVERIFY(std::abs(valueOf(*found, "primaryImpedance") / 8000 - 1) < 0.01);
        QVERIFY(std::abs(valueOf(*found, "screenTap") - 0.43) < 0.005);
        const double a = valueOf(*found, "primaryResistanceA"), b = valueOf(*found, "primaryResistanceB");
        QVERIFY(std::abs(std::min(a, b) - 130) < 2 && std::abs(std::max(a, b) - 138) < 2);
        QVERIFY(!saysOf(*found, "mains transformer"));
        QVERIFY(saysOf(*found, "8 \u03a9 shows there on b as 16.0 k\u03a9, on d as 4.00 k\u03a9"));
        for (const auto& s : found->says) QVERIFY2(s.find("open") == std::string::npos, s.c_str());
    }

    /// The order of the rows, and which lead comes first in one, change nothing; a few per cent of error neither.
    void howItIsWrittenDownDoesNotMatter() {
        auto rows = ultralinear();
        std::reverse(rows.begin(), rows.end());
        double off = 0.02;
        for (LeadReading& r : rows) {
            std::swap(r.from, r.to);
            r.volts *= 1 + off;
            off = -off;
        }
        const auto found = identify(rows, 230, 8, meter);
        QVERIFY(found.ok());
        QCOMPARE(leadOf(*found, "3").is, std::string("centre tap"));
        QCOMPARE(leadOf(*found, "c").is, std::string("8 \u03a9"));
        QVERIFY(std::abs(valueOf(*found, "primaryImpedance") / 8000 - 1) < 0.1);
    }

    /// 230 V to 2 x 260 V, 6.3 V and 5 V: fed with 12 V on its primary.
    void aMainsTransformerIsRecognised() {
        const double k = 12 / 230.0;
        const std::vector<LeadReading> rows{{"p1", "p2", 9, 12},        {"h1", "h2", 55, 268 * k},
                                            {"h2", "h3", 58, 268 * k},  {"h1", "h3", 113, 536 * k},
                                            {"f1", "f2", 0.1, 6.7 * k}, {"g1", "g2", 0.15, 5.3 * k}};
        const auto found = identify(rows, 230, 8, meter);
        QVERIFY(found.ok());
        QCOMPARE(found->windings.size(), std::size_t(4));
        QCOMPARE(leadOf(*found, "h2").is, std::string("centre tap"));
        QVERIFY(saysOf(*found, "mains transformer with p1 to p2 at 230 V"));
        QVERIFY(saysOf(*found, "heaters of 6.3 V") && saysOf(*found, "heaters of 5 V"));
        QVERIFY(saysOf(*found, "twice 268 V"));
    }

    /// Two readings from one end leave open on which side of it the others lie; the pair that decides is named.
    void anOpenOrderAsksForTheReadingThatDecides() {
        const std::vector<LeadReading> rows{{"a", "b", 100, NAN}, {"b", "c", 60, NAN}};
        const auto found = identify(rows, 230, 8, meter);
        QVERIFY(found.ok());
        QVERIFY(saysOf(*found, "read between a and c"));
        auto more = rows;
        more.push_back({"a", "c", 160, NAN});
        const auto closed = identify(more, 230, 8, meter);
        QVERIFY(!saysOf(*closed, "order"));
        QCOMPARE(closed->windings[0].ohms, 160.0);
        QVERIFY(closed->windings[0].byCopper);
        QVERIFY(saysOf(*closed, "Volts on each winding"));
    }

    void whatDoesNotAddUpIsSaid() {
        const std::vector<LeadReading> rows{{"1", "3", 130, 5}, {"3", "5", 138, 5}, {"1", "5", 268, 7}};
        const auto found = identify(rows, 230, 8, meter);
        QVERIFY(!found.ok());
        QVERIFY(found.problem().sentence.find("do not add up") != std::string::npos);
        QVERIFY(!identify({}, 230, 8, meter).ok());
        QVERIFY(!identify(std::vector<LeadReading>{{"1", "1", 10, NAN}}, 230, 8, meter).ok());
        std::vector<LeadReading> many;
        for (int k = 0; k < 14; ++k) many.push_back({std::to_string(k), std::to_string(k + 1), 10, NAN});
        QVERIFY(identify(many, 230, 8, meter).problem().sentence.find("15 leads") != std::string::npos);
    }

    /// One winding and a plain secondary: every usual pair of impedances is named.
    void aPlainTransformersPairsAreNamed() {
        const double turns = std::sqrt(5200.0 / 8);
        const std::vector<LeadReading> rows{{"1", "2", 310, 12}, {"a", "b", 0.4, 12 / turns}};
        const auto found = identify(rows, 230, 8, meter);
        QVERIFY(found.ok());
        QVERIFY2(saysOf(*found, "5.2 k\u03a9 on 8 \u03a9"), found->says.empty() ? "" : found->says[0].c_str());
        QVERIFY(std::abs(valueOf(*found, "primaryImpedance") / 5200 - 1) < 0.01);
        QCOMPARE(valueOf(*found, "secondaryResistance"), 0.4);
    }
};

EMBER_TESTS(TestUnknownIron)
#include "test_unknown_iron.moc"
