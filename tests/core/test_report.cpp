#include "../support/demo.h"
#include "../support/suite.h"

#include "core/plan/solve.h"
#include "core/procedure/first_power.h"
#include "core/report/report.h"
#include "core/wires/hum.h"

#include <QTest>

using namespace ember;

class TestReport : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void holdsTheRecordAndNeedsNothingElse() {
        Build b = demoBuild();
        b.notes = "hum <b>gone</b> & \"quiet\"";
        LogEntry e;
        e.kind = "reading";
        e.point = "B+1";
        e.stage = 5;
        e.value = 297.4;
        e.low = 280;
        e.high = 310;
        e.unit = "V";
        e.verdict = "in range";
        e.source = "typed";
        b.log.push_back(e);
        LogEntry struck;
        struck.kind = "note";
        struck.text = "wrong range";
        struck.struck = true;
        struck.struckWhy = "meter on AC";
        b.log.push_back(struck);
        const Catalogue& c = Catalogue::shipped();
        auto f = plan::solveFigures(b, c);
        wires::addWires(b, c, f);
        const QString html = QString::fromStdString(report::html(b, c, f, rules::inspect(b, c, f), "2026-05-01 10:00"));
        QVERIFY(html.contains("Larkfield"));
        QVERIFY(html.contains("297.4 V"));
        QVERIFY(html.contains("meter on AC"));
        QVERIFY(html.contains("<svg width=\"180.0mm\"") && html.contains(">PT1<"));
        QVERIFY(html.contains("Circuit: Left") && html.contains(">R10</text>") && html.contains(">ECC85</text>"));
        QVERIFY(html.contains("safety earth"));
        QVERIFY(html.contains("hum &lt;b&gt;gone&lt;/b&gt; &amp; &quot;quiet&quot;"));
        QVERIFY(html.contains("unplug, wait, measure"));
        QVERIFY(!html.contains("http"));
        QVERIFY(!html.contains("<script") && !html.contains("<link"));
        QCOMPARE(html.count("<table>"), html.count("</table>"));
    }

    /// What was practised stands apart from what was proved, a warning is printed as one, and what could not be solved
    /// never looks like the absence of findings.
    void tellsPracticeWarningsAndWhatIsNotComputedApart() {
        Build b = demoBuild();
        const auto reading = [&](const char* source, double value) {
            LogEntry e;
            e.kind = "reading", e.point = "earth", e.stage = 0, e.value = value, e.unit = "ohm", e.verdict = "in range";
            e.source = source;
            b.log.push_back(e);
        };
        reading("typed", 0.031);
        reading("practice", 0.042);
        b.log.push_back(procedure::stageEntry(0, StageEvent::Passed, procedure::Strand::Practice));
        const Catalogue& c = Catalogue::shipped();
        plan::Figures f = plan::solveFigures(b, c);
        auto findings = rules::inspect(b, c, f);
        QString html = QString::fromStdString(report::html(b, c, f, findings, ""));
        const auto practice = html.indexOf("Practice readings: they prove nothing of this amplifier");
        QVERIFY(practice > 0 && html.indexOf("31.00 mΩ") < practice && html.indexOf("42.00 mΩ") > practice);
        QVERIFY(html.contains("practised only") && html.contains("WARN: "));
        f.failures = {"the supply has no steady state"};
        f.nominal.reset();
        html = QString::fromStdString(report::html(b, c, f, {}, ""));
        QVERIFY(html.contains("NOT COMPUTED: the supply has no steady state") && !html.contains("<p>None.</p>"));
    }
};

EMBER_TESTS(TestReport)
#include "test_report.moc"
