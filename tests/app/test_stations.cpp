// Each station as its user meets it: typed readings, stop limits, explanations, clocks, captures, waivers, strikes.

#include "../support/parts.h"
#include "../support/power_test.h"
#include "../support/suite.h"

#include "app/stations/bias_station.h"
#include "app/stations/logbook_station.h"
#include "app/stations/measure_station.h"
#include "app/stations/supply/supply_station.h"
#include "app/window/ember_line.h"
#include "app/window/log_line.h"

#include <QPushButton>
#include <QTableWidget>
#include <QtMath>

#include <cmath>

using namespace ember;
using namespace ember::app;

class TestStations : public PowerTest {
    Q_OBJECT
    /// A 16-bit WAV of a 1 kHz tone at `share` of full scale.
    QString wav(const char* name, double share, int seconds = 1) {
        QByteArray data;
        for (int k = 0; k < 48000 * seconds; ++k) {
            const double v = std::clamp(share * std::sin(2 * M_PI * 1000 * k / 48000.0), -1.0, 1.0);
            const auto s = static_cast<qint16>(std::lround(32767 * v));
            data.append(reinterpret_cast<const char*>(&s), 2);
        }
        QByteArray head("RIFF");
        const auto number = [&](quint32 v, int bytes) { head.append(reinterpret_cast<const char*>(&v), bytes); };
        number(36 + static_cast<quint32>(data.size()), 4);
        head += "WAVEfmt ";
        number(16, 4);
        number(1, 2);
        number(1, 2);
        number(48000, 4);
        number(96000, 4);
        number(2, 2);
        number(16, 2);
        head += "data";
        number(static_cast<quint32>(data.size()), 4);
        QFile f(dir.filePath(name));
        if (!f.open(QIODevice::WriteOnly)) qFatal("no file");
        f.write(head + data);
        return f.fileName();
    }

    /// What the log line answers to what is done here, and not what it said before.
    QString saysAfter(const std::function<void()>& act) {
        w->logLine()->say({}, true);
        act();
        return verdict();
    }

  private Q_SLOTS:
    void aReadingPastTheStopLimitSaysToSwitchOff() {
        atStage(2);
        chooseRow("B+1");
        const double stop = *expectation("B+1").stopAbove;
        type(power()->entry(), QString::number(stop + 5, 'f', 1));
        const auto& log = doc().build().log;
        QCOMPARE(log[log.size() - 2].verdict, std::string("stop"));
        QVERIFY(w->logLine()->verdict().contains("Switch off"));
        QVERIFY2(doc().dischargeWatch().running(), "a stop starts the clock");
        QVERIFY(!child<QPushButton>("stagePassed")->isEnabled());
        // It ends the stage, and no words explain it away: the stage is begun again, every reading with it.
        QVERIFY(last().kind == "stage" && last().event == StageEvent::Ended);
        QVERIFY(procedure::stageEnded(doc().build(), 2));
        QVERIFY(!power()->entry()->isEnabled());
        QTest::keyClick(power(), Qt::Key_F2);
        QVERIFY2(w->logLine()->verdict().contains("not explained"), qPrintable(w->logLine()->verdict()));
        auto* again = child<QPushButton>("beginAgain");
        QVERIFY(again->isVisible());
        again->click();
        QVERIFY(!procedure::stageEnded(doc().build(), 2) && power()->entry()->isEnabled());
        QVERIFY(procedure::lastReading(doc().build(), 2, "B+1") == nullptr);
    }

    void aReadingOutOfBandIsExplainedInWords() {
        atStage(0);
        chooseRow("load-left");
        type(power()->entry(), "6");
        QCOMPARE(last().verdict, std::string("low"));
        answerText("a four ohm resistor for now");
        QTest::keyClick(power(), Qt::Key_F2);
        QCOMPARE(last().text, std::string("a four ohm resistor for now"));
        QCOMPARE(last().point, std::string("load-left"));
        const auto* rows = child<QTableWidget>("readings");
        QVERIFY(rows->item(rows->currentRow(), 3)->text().contains("explained"));
    }

    void whatIsNoNumberStaysInTheField() {
        atStage(0);
        const auto count = doc().build().log.size();
        type(power()->entry(), "about a half");
        QCOMPARE(doc().build().log.size(), count);
        QCOMPARE(power()->entry()->text(), QString("about a half"));
    }

    void enterMovesOnAndPageKeysWalk() {
        atStage(1);
        auto* rows = child<QTableWidget>("readings");
        rows->selectRow(0);
        type(power()->entry(), QString::number(power()->stage()->expectations[0].band.nominal, 'g', 4));
        QCOMPARE(rows->currentRow(), 1);
        QTest::keyClick(power()->entry(), Qt::Key_PageDown);
        QCOMPARE(rows->currentRow(), 2);
        QTest::keyClick(power()->entry(), Qt::Key_PageUp);
        QCOMPARE(rows->currentRow(), 1);
    }

    void theEmberLineShowsTheStageThatIsLookedAt() {
        auto* line = w->findChild<EmberLine*>();
        const QString plan = line->accessibleDescription();
        atStage(3);
        const QString stage = line->accessibleDescription();
        QVERIFY2(stage != plan && stage.contains("limiter"), qPrintable(stage));
        const auto volts = QString::fromStdString(format(power()->stage()->steady->nodes[0].mean, Unit::Volt));
        QVERIFY2(stage.contains(volts), qPrintable(stage));
        w->go("supply");
        waitForFigures();
        WAIT_FOR(!line->accessibleDescription().contains(volts));
    }

    void otherMainsOtherExpectations() {
        atStage(5);
        const double before = expectation("B+1").band.nominal;
        QLineEdit* mains = nullptr;
        for (auto* e : power()->findChildren<QLineEdit*>())
            if (e->accessibleName() == "Mains as read") mains = e;
        QVERIFY(mains);
        type(mains, "241 V");
        settle();
        QVERIFY(power()->stage() && expectation("B+1").band.nominal > before * 1.03);
        QVERIFY2(saysAfter([&] { type(mains, "12 V"); }).contains("161 V to 276 V"), qPrintable(verdict()));
    }

    /// A point that only a later step reads is not kept before that step is there; then it is filed under it.
    void theLogLineFilesUnderTheStepThatIsThere() {
        atStage(3);
        auto* line = w->logLine()->entry();
        const auto size = doc().build().log.size();
        type(line, "output-plate-v3 270");
        QCOMPARE(doc().build().log.size(), size);
        QVERIFY2(verdict().contains("Pass step"), qPrintable(verdict()));
        atStage(4);
        type(line, "output-plate-v3 270");
        QCOMPARE(last().point, std::string("output-plate-v3"));
        QCOMPARE(last().stage, 4);
    }

    void biasTurnsVoltsIntoWattsAndAdvice() {
        w->go("bias");
        type(child<QLineEdit>("sense-v3"), "0.55");
        QCOMPARE(last().verdict, std::string("stop"));
        QVERIFY2(doc().dischargeWatch().running(), "a stop starts the discharge clock here too");
        QVERIFY(child<QLineEdit>("sense-v4")->isVisible());
        type(child<QLineEdit>("sense-v3"), "0.30");
        QCOMPARE(last().verdict, std::string("in range"));
        const double before = adjusterOf(doc().build(), "v3");
        type(child<QLineEdit>("adjuster-v3"), "42");
        QVERIFY(std::abs(adjusterOf(doc().build(), "v3") - 0.42) < 1e-12);
        doc().undoStack().undo();
        QCOMPARE(adjusterOf(doc().build(), "v3"), before);
        auto* sense = child<QLineEdit>("sense-v6");
        QVERIFY2(saysAfter([&] { type(sense, "volts"); }).contains("\"volts\" was not understood"),
                 qPrintable(verdict()));
    }

    void aCaptureFromAFileIsMeasured() {
        w->go("measure");
        auto* station = w->station<MeasureStation>();
        station->analyseFile(wav("tone.wav", 0.5));
        WAIT_FOR_EQUAL(doc().build().log.size(), std::size_t(1));
        // Half of 20 V peak is 7.07 V RMS: 6.25 W in 8 ohm.
        QVERIFY2(child<QLabel>("power")->text().startsWith("6.25"), qPrintable(child<QLabel>("power")->text()));
        QCOMPARE(last().kind, std::string("measure"));
        QVERIFY(last().text.find("6.25 W") != std::string::npos);
    }

    void anOscilloscopesTableIsMeasuredInItsOwnVolts() {
        QFile f(dir.filePath("scope.csv"));
        QVERIFY(f.open(QIODevice::WriteOnly));
        f.write("Time (ms),CH1 (V)\n");
        for (int k = 0; k < 20000; ++k)
            f.write(QString("%1,%2\n").arg(k / 50.0).arg(10 * std::sin(2 * M_PI * k / 50.0), 0, 'g', 9).toUtf8());
        f.close();
        w->go("measure");
        w->station<MeasureStation>()->analyseFile(f.fileName());
        WAIT_FOR_EQUAL(doc().build().log.size(), std::size_t(1));
        // 10 V peak is 7.07 V RMS: 6.25 W in 8 ohm, at 1 kHz.
        QVERIFY2(child<QLabel>("power")->text().startsWith("6.25"), qPrintable(child<QLabel>("power")->text()));
    }

    void aClippedCaptureSaysSoBeforeAnyFigure() {
        w->go("measure");
        w->station<MeasureStation>()->analyseFile(wav("clipped.wav", 1.6));
        WAIT_FOR_EQUAL(doc().build().log.size(), std::size_t(1));
        bool said = false;
        for (auto* l : w->station<MeasureStation>()->findChildren<QLabel*>())
            said = said || l->text().contains("clipped");
        QVERIFY(said);
    }

    void aBrokenCaptureIsASentence_data() {
        QTest::addColumn<QByteArray>("content");
        QTest::newRow("empty") << QByteArray();
        QTest::newRow("prose") << QByteArray("not a sound at all");
        QTest::newRow("cut header") << QByteArray("RIFF\x10\x00\x00\x00WAVEfm");
        QTest::newRow("no samples") << QByteArray(
            "RIFF\x24\x00\x00\x00WAVEfmt "
            "\x10\x00\x00\x00\x01\x00\x01\x00\x80\xbb\x00\x00\x00\x77\x01\x00\x02\x00\x10\x00"
            "data\x00\x00\x00\x00",
            44);
    }
    void aBrokenCaptureIsASentence() {
        QFETCH(QByteArray, content);
        QFile f(dir.filePath("broken.wav"));
        QVERIFY(f.open(QIODevice::WriteOnly));
        f.write(content);
        f.close();
        w->go("measure");
        const QString before = child<QLabel>("power")->text();
        w->logLine()->say({}, true);
        w->station<MeasureStation>()->analyseFile(f.fileName());
        WAIT_FOR(!verdict().isEmpty());
        QVERIFY2(verdict().contains("broken.wav"), qPrintable(verdict()));
        QVERIFY(doc().build().log.empty());
        QCOMPARE(child<QLabel>("power")->text(), before);
    }

    void withoutABenchTheToneButtonRests() {
        w->go("measure");
        QVERIFY(!child<QPushButton>("take")->isEnabled());
        doc().startPractice(3, {});
        QVERIFY(child<QPushButton>("take")->isEnabled());
        auto* input = child<QLineEdit>("input");
        QVERIFY2(saysAfter([&] { type(input, "lots"); }).contains("\"lots\" was not understood"),
                 qPrintable(verdict()));
        QVERIFY(doc().build().log.empty());
        doc().stopPractice();
    }

    void theLogbookStrikesOutAndKeeps() {
        w->go("logbook");
        type(child<QLineEdit>("note"), "capacitor got warm");
        auto* table = child<QTableWidget>("log");
        QCOMPARE(table->rowCount(), 1);
        table->setCurrentCell(0, 0);
        answerText("it was the valve");
        QTest::mouseClick(child<QPushButton>("strike"), Qt::LeftButton);
        QVERIFY(doc().build().log[0].struck);
        QCOMPARE(doc().build().log[0].text, std::string("capacitor got warm"));
        QVERIFY(table->item(0, 3)->text().contains("it was the valve"));
        QVERIFY(table->item(0, 3)->font().strikeOut());
        type(child<QLineEdit>("note"), "   ");
        QCOMPARE(table->rowCount(), 1);
    }

    void aFindingIsWaivedWithItsReason() {
        QVERIFY(doc().edit(setValue("", "/supply/sections/4/volts", 450)).ok()); // a finding to waive
        waitForFigures();
        w->go("supply");
        QPushButton* waive = nullptr;
        for (auto* b : w->findChildren<QPushButton*>())
            if (b->text().startsWith("waive") && !waive) waive = b;
        QVERIFY(waive);
        const std::size_t before = doc().build().waivers.size();
        answerText("it is a 400 V part of a good make");
        waive->click();
        QCOMPARE(doc().build().waivers.size(), before + 1);
        QCOMPARE(doc().build().waivers.back().reason, std::string("it is a 400 V part of a good make"));
        waitForFigures();
        int waived = 0;
        for (const auto& f : doc().findings()) waived += f.waived;
        QCOMPARE(waived, int(before) + 1);
        doc().undoStack().undo();
        QCOMPARE(doc().build().waivers.size(), before);
    }

    void theSupplyShowsThreeMainsAndFourCurves() {
        w->go("supply");
        settle();
        auto* s = w->station<SupplyStation>();
        const QImage first = s->grab().toImage();
        for (int k = 0; k < 4; ++k) {
            s->showCurve(k);
            draw();
            if (k != 1) QVERIFY2(s->grab().toImage() != first, qPrintable(QString::number(k)));
        }
        s->showCurve(1);
        draw();
        for (const char* mains : {"207 V", "253 V"}) {
            QPushButton* button = nullptr;
            for (auto* b : s->findChildren<QPushButton*>())
                if (b->text() == mains) button = b;
            QVERIFY2(button, mains);
            QTest::mouseClick(button, Qt::LeftButton);
            draw();
            QVERIFY2(s->grab().toImage() != first, mains);
        }
    }

    void everyFieldAndButtonHasANameForThoseWhoHear() {
        for (int k = 0; k < w->stationCount(); ++k) {
            w->go(k);
            QVERIFY(!w->station(k)->accessibleName().isEmpty());
            for (auto* e : w->station(k)->findChildren<QLineEdit*>())
                if (e->isVisible())
                    QVERIFY2(!e->accessibleName().isEmpty() || !e->placeholderText().isEmpty() ||
                                 e->parent()->inherits("QComboBox"),
                             qPrintable(w->station(k)->id + " " + e->objectName()));
            for (auto* b : w->station(k)->findChildren<QPushButton*>())
                if (b->isVisible()) QVERIFY(!b->text().isEmpty() || !b->accessibleName().isEmpty());
        }
    }

    void aStationIsMadeWhenItIsWanted() {
        auto fresh = freshWindow();
        fresh->openDemo();
        QVERIFY(fresh->station<LogbookStation>() != nullptr);
        QCOMPARE(fresh->station<LogbookStation>(), fresh->station<LogbookStation>());
        QVERIFY(fresh->station(99) == nullptr);
        fresh->document().discardJournal();
    }
};

EMBER_TESTS(TestStations)
#include "test_stations.moc"
