// Readings go where they belong, and none is lost: answers that come late, bands that are not there yet, two askers.

#include "../support/power_test.h"
#include "../support/suite.h"

#include "app/widgets/share_bars.h"
#include "app/window/ember_line.h"
#include "app/window/log_line.h"
#include "core/build/build_json.h"
#include "core/build/structure.h"

#include <nlohmann/json.hpp>

#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTableWidget>

using namespace ember;
using namespace ember::app;

class TestReadings : public PowerTest {
    Q_OBJECT
    const LogEntry* reading(const std::string& point) {
        for (const LogEntry& e : doc().build().log)
            if (e.kind == "reading" && e.point == point) return &e;
        return nullptr;
    }

  private Q_SLOTS:
    /// The practice bench answers after a moment; by then another row, another stage may be looked at.
    void aPracticeAnswerIsFiledUnderWhatWasAsked() {
        doc().startPractice(3, {});
        atStage(2);
        auto* rows = child<QTableWidget>("readings");
        for (int k = 0; k < rows->rowCount() && power()->expectation()->point.id != "B+1"; ++k) rows->selectRow(k);
        const std::string asked = power()->expectation()->point.id;
        QCOMPARE(asked, std::string("B+1"));
        QTest::mouseClick(child<QPushButton>("fromPractice"), Qt::LeftButton);
        rows->selectRow(0);
        power()->showStage(1);
        settle();
        const LogEntry* e = reading(asked);
        QVERIFY(e && e->stage == 2);
        QCOMPARE(last().point, asked);
    }

    void afterAnEditTheStageIsComputedAnew() {
        atStage(5);
        const double before = power()->stage()->steady->nodes[0].mean;
        QVERIFY(doc().edit(setValue("plate winding", "/transformer/plateVolts", 290)).ok());
        WAIT_FOR2(power()->stage(), "it stays on computing");
        settle();
        QVERIFY(power()->stage()->steady->nodes[0].mean > before + 2);
        // Edited from elsewhere while nobody looks: it is there again on the way back.
        w->go("supply");
        QVERIFY(doc().edit(setValue("r1", "/supply/sections/3/resistance", 5600)).ok());
        waitForFigures();
        w->go("first-power");
        WAIT_FOR(power()->stage());
        QVERIFY(!power()->findChild<QTableWidget*>("readings")->rowCount() == 0);
    }

    /// Two readings together point to one fault where each alone has many; typing goes on while they are compared.
    void allReadingsTogetherNameTheFault() {
        atStage(5);
        auto* rows = child<QTableWidget>("readings");
        const auto read = [&](const char* point, const char* value) {
            const auto& all = power()->stage()->expectations;
            for (std::size_t k = 0; k < all.size(); ++k)
                if (all[k].point.id == point) {
                    rows->selectRow(static_cast<int>(k));
                    QTest::keyClicks(power()->entry(), value);
                    QTest::keyClick(power()->entry(), Qt::Key_Return);
                    return true;
                }
            return false;
        };
        auto* suspects = child<QWidget>("suspects");
        QVERIFY(suspects->isHidden());
        QVERIFY(read("sense-v3", "0"));
        QTest::keyClicks(power()->entry(), "12");
        WAIT_FOR(!suspects->isHidden());
        QCOMPARE(power()->entry()->text(), QString("12")); // what is being typed stays
        const QStringList causes = suspects->findChild<ShareBars*>()->inWords();
        QVERIFY2(causes.value(0).contains("V3"), qPrintable(causes.join("; ")));
    }

    /// Rough bands come first; what is being typed when the others arrive stays, and a reading waits for them.
    void typingGoesOnWhileBandsSettle() {
        doc().setBandSamples(120);
        w->go("first-power");
        power()->showStage(5);
        WAIT_FOR(power()->stage());
        QTest::keyClicks(power()->entry(), "12");
        WAIT_FOR(!power()->stage()->rough);
        settle();
        QCOMPARE(power()->entry()->text(), QString("12"));
        QTest::keyClick(power()->entry(), Qt::Key_Return);
        QVERIFY(power()->entry()->text().isEmpty());
    }

    /// The log line judges by the mains as read, as the station does; at two mains neither keeps the other computing.
    void logLineAndStationAskAtTheSameMains() {
        atStage(5);
        doc().setMainsRead(236);
        settle();
        QVERIFY(power()->stage());
        int computed = 0;
        connect(&doc(), &Document::stageReady, this, [&] { ++computed; });
        auto* line = w->logLine()->entry();
        line->setFocus();
        QTest::keyClicks(line, "sense-v3 0.2");
        settle();
        doc().stage(5, 230); // and somebody else at another
        settle();
        QVERIFY2(computed <= 3, qPrintable(QString::number(computed)));
        QVERIFY(power()->stage());
        line->clear();
    }

    void enterKeepsAReadingBeforeItsBandIsThere() {
        QVERIFY(doc().edit(setValue("mains", "/transformer/plateVolts", 284)).ok()); // nothing is computed now
        auto* line = w->logLine()->entry();
        line->setFocus();
        QTest::keyClicks(line, "earth 0.02");
        QTest::keyClick(line, Qt::Key_Return);
        QVERIFY2(reading("earth") && reading("earth")->value == 0.02, "kept at once");
        QCOMPARE(line->text(), QString());
        WAIT_FOR_EQUAL(reading("earth")->verdict, std::string("in range"));
        QVERIFY(reading("earth")->high > 0.09);
    }

    /// It waits through an edit too.
    void aWaitingReadingIsJudgedByTheBuildThatIsThere() {
        auto* line = w->logLine()->entry();
        line->setFocus();
        QTest::keyClicks(line, "load-left 8");
        QVERIFY(doc().edit(setValue("mains", "/transformer/plateVolts", 281.3)).ok()); // nothing is computed now
        QTest::keyClick(line, Qt::Key_Return);
        QVERIFY(doc().edit(setValue("load", "/channels/0/stages/2/parts/13/resistance", 16)).ok());
        WAIT_FOR_EQUAL(reading("load-left")->verdict, std::string("low"));
    }

    /// Volts that are read before power came are a capacitor's, and end the step; they never count as read under power.
    void voltsWhileItIsUnpluggedAreTheCapacitors() {
        auto* line = w->logLine()->entry();
        line->setFocus();
        QTest::keyClicks(line, "B+1 312");
        QTest::keyClick(line, Qt::Key_Return);
        QVERIFY(!reading("B+1"));
        WAIT_FOR(reading("held-c1"));
        WAIT_FOR2(procedure::stageEnded(doc().build(), 0), "stage 0 does not pass with a charged capacitor");
    }

    void aSlipOfTheFingerIsAsked() {
        auto* line = w->logLine()->entry();
        line->setFocus();
        QTest::keyClicks(line, "B+1 312k");
        QTest::keyClick(line, Qt::Key_Return);
        QVERIFY(doc().build().log.empty());
        QVERIFY2(w->logLine()->verdict().contains("V"), qPrintable(w->logLine()->verdict()));
    }

    /// A reading of another stage does not stand beside this stage's prediction.
    void theEmberLineShowsReadingsOfWhatIsPredicted() {
        auto* line = w->findChild<EmberLine*>();
        LogEntry e;
        e.kind = "reading";
        e.point = "B+1";
        e.stage = 2;
        e.value = 377;
        e.unit = "V";
        doc().log(e);
        settle();
        QVERIFY2(!line->accessibleDescription().contains("377 V"), qPrintable(line->accessibleDescription()));
        atStage(2);
        WAIT_FOR2(line->accessibleDescription().contains("377 V"), qPrintable(line->accessibleDescription()));
    }

    /// Whoever reads build and figures reads them together: a channel doubled is not looked for in older figures.
    void aDoubledChannelIsNotSoughtInOlderFigures() {
        for (int k = 0; k < w->stationCount(); ++k) w->station(k);
        w->go("bias");
        const auto twice = doc().edit(*duplicateEntry(doc().build(), "/channels/1"));
        QVERIFY2(twice.ok(), twice.ok() ? "" : twice.problem().text().c_str());
        for (const char* id : {"bias", "measure", "logbook", "supply", "first-power", "chassis"}) {
            w->go(id); // at once, with the figures of two channels
            w->grab();
        }
        QCOMPARE(doc().solved().build.channels.size(), std::size_t(2));
        settle();
        QCOMPARE(doc().solved().build.channels.size(), std::size_t(3));
        QCOMPARE(doc().figures().nominal->channels.size(), std::size_t(3));
    }

    /// A fix was proposed for one build; where that place has changed since, it does nothing.
    void aFixAppliesOnlyWhereItStillFits() {
        QVERIFY(doc().edit(setValue("c3", "/supply/sections/4/volts", 400)).ok());
        settle(); // a mend is offered once it was tried
        std::optional<Edit> fix;
        for (const auto& f : doc().findings())
            if (f.id == "capacitor-volts/c3") fix = f.fix;
        QVERIFY(fix);
        QVERIFY(doc().edit(removeAt("c1", "/supply/sections/0")).ok()); // now entry 4 is none
        const auto late = doc().edit(*fix);
        QVERIFY(!late.ok());
        QVERIFY(doc().edit(setValue("v", "/supply/sections/3/volts", 400)).ok());
        doc().undoStack().undo();
        doc().undoStack().undo();
        QVERIFY(doc().edit(setValue("c3", "/supply/sections/4/volts", 630)).ok()); // mended by hand meanwhile
        QVERIFY2(!doc().edit(*fix).ok(), "it would put 500 V in the place of 630 V");
        QCOMPARE(doc().build().supply.sections[4].volts, 630.0);
    }

    /// The ranges of a hundred million amplifiers would take weeks: the window closes because they are given up.
    void closingDoesNotWaitForAComputation() {
        doc().setBandSamples(100'000'000);
        for (int k = 1; k < 7; ++k) doc().stage(k, 229);
        QVERIFY(doc().edit(setValue("mains", "/transformer/plateVolts", 281)).ok());
        WAIT_FOR(doc().steady());
        doc().stage(4, 228);
        WAIT_FOR(doc().stage(4, 228)); // its rough ranges: the others are being computed now
        doc().discardJournal();
        w.reset();
    }
};

EMBER_TESTS(TestReadings)
#include "test_readings.moc"
