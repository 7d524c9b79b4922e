// Which reading next: information against closed forms, and faults found by the readings that are asked for.
#include "../support/demo.h"
#include "../support/shipped.h"
#include "../support/suite.h"

#include "core/bench/virtual_amplifier.h"
#include "core/procedure/suspects.h"

#include <QTest>

#include <algorithm>
#include <cmath>

using namespace ember;
using namespace ember::procedure;

class TestSearch : public QObject {
    Q_OBJECT
    Build demo = demoBuild();
    PowerStage stage;
    std::optional<FaultTable> table;

    static diagnose::Ranking shares(double healthy, std::vector<std::pair<double, std::vector<double>>> causes) {
        diagnose::Ranking r;
        r.healthyShare = healthy;
        for (auto& [share, reads] : causes) r.suspects.push_back({{}, 0, share, std::move(reads)});
        return r;
    }

  private Q_SLOTS:
    void initTestCase() {
        stage = firstPowerStage(demo, catalogue, 4, 230, {false, 100});
        auto t = faultTable(demo, catalogue, stage);
        QVERIFY(t.ok());
        table = std::move(*t);
    }

    /// Shannon: n equally likely causes that a reading tells apart wholly are log2 n bits; equal readings are none.
    void informationIsThatOfClosedForms() {
        const std::vector<diagnose::Spread> spread{{0, 1}};
        const std::vector<std::optional<double>> none(1);
        const auto bits = [&](const diagnose::Ranking& r, double healthy) {
            return diagnose::tellings(r, {healthy}, none, spread)[0].bits;
        };
        QVERIFY(std::abs(bits(shares(0.5, {{0.5, {1000}}}), 0) - 1) < 1e-3);
        QVERIFY(std::abs(bits(shares(0.25, {{0.25, {1000}}, {0.25, {2000}}, {0.25, {3000}}}), 0) - 2) < 1e-3);
        QVERIFY(bits(shares(0.5, {{0.5, {0}}}), 0) < 1e-9);
        // A doubt of 1 to 9 holds 0.469 bits.
        QVERIFY(std::abs(bits(shares(0.9, {{0.1, {1000}}}), 0) - 0.469) < 1e-3);
        // Two normal distributions two standard deviations apart: 0.486 bits, the capacity of a binary channel with
        // normal noise at 0 dB (Proakis, Digital Communications).
        QVERIFY(std::abs(bits(shares(0.5, {{0.5, {2}}}), 0) - 0.486) < 0.02);
        QCOMPARE(diagnose::tellings(shares(0.5, {{0.5, {1000}}}), {0}, {1.0}, spread)[0].bits, 0.0); // it was read
    }

    /// Probabilities of all suspects, of no fault and of none of these make one.
    void sharesMakeOne() {
        for (const double sense : {0.0, 0.05, 0.3}) {
            const auto s = suspects(*table, {{*findPoint(table->points, "sense-v3"), sense}});
            QVERIFY(s.ok());
            double sum = s->ranking.healthyShare + s->ranking.noneShare;
            for (const auto& x : s->ranking.suspects) sum += x.share;
            QVERIFY2(std::abs(sum - 1) < 1e-9, qPrintable(QString::number(sum)));
        }
    }

    /// What no fault of the list gives is not blamed on the least bad one.
    void noneOfTheseIsSaid() {
        const auto s = suspects(*table, {{*findPoint(table->points, "B+1"), 180.0},
                                         {*findPoint(table->points, "B+2"), 250.0},
                                         {*findPoint(table->points, "B+3"), 120.0}});
        QVERIFY(s.ok());
        QVERIFY2(s->ranking.noneShare > 0.5, qPrintable(QString::number(s->ranking.noneShare)));
        const auto words = inWords(*s);
        QVERIFY(std::any_of(words.begin(), words.end(), [](const auto& w) { return w.starts_with("none of these"); }));
    }

    /// After a stop nothing is read under power.
    void afterAStopThePlugIsOut() {
        const auto s = suspects(*table, {{*findPoint(table->points, "sense-v3"), 0.6}}, false);
        QVERIFY(s.ok() && s->next);
        QVERIFY(s->next->powerOff && s->next->point.mode == MeterMode::Ohms);
        QVERIFY(s->next->minutes * 60 > table->dischargeSeconds && table->dischargeSeconds > 30);
    }

    /// By the readings that are asked for, from the first wrong one on.
    void theReadingsAskedForFindTheFault_data() {
        QTest::addColumn<QString>("id");
        for (const char* id : {"open/r21", "dead/v4", "open/c1", "leaky/c11", "open/r19"}) QTest::newRow(id) << id;
    }
    void theReadingsAskedForFindTheFault() {
        QFETCH(QString, id);
        const auto make = [&](int step) {
            auto a = bench::VirtualAmplifier::make(demo, catalogue, 21, id.toStdString());
            if (a.ok()) (void)a->power(step, 230);
            return a;
        };
        auto hot = make(4), cold = make(0);
        QVERIFY(hot.ok() && cold.ok());
        std::vector<std::pair<TestPoint, double>> read;
        for (const Expectation& e : stage.expectations) {
            if (e.point.kind == PointKind::Held) continue;
            const auto v = hot->read(e.point.id);
            if (!v) continue;
            read.emplace_back(e.point, *v);
            if (judge(e, *v) != Verdict::InRange) break;
        }
        int more = 0;
        auto s = suspects(*table, read);
        for (; s.ok() && s->next && more < 12 && s->ranking.suspects[0].share < 0.97; ++more) {
            QVERIFY(!s->next->why.empty() && s->next->bits > 0);
            const auto v = (s->next->powerOff ? cold : hot)->read(s->next->point.id);
            read.emplace_back(s->next->point, v ? *v : overloadOhms);
            s = suspects(*table, read);
        }
        QVERIFY(s.ok());
        const auto& all = s->ranking.suspects;
        const auto at =
            std::find_if(all.begin(), all.end(), [&](const auto& x) { return x.fault.id == id.toStdString(); });
        QVERIFY(at != all.end());
        QVERIFY2(at->logLikelihood > all[2].logLikelihood - 0.7,
                 qPrintable(QString("first %1, after %2 more").arg(all[0].fault.id.c_str()).arg(more)));
    }
};

EMBER_TESTS(TestSearch)
#include "test_search.moc"
