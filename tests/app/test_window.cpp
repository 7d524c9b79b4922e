// The demo, walked from Supply to the report in the real window.

#include "../support/suite.h"
#include "../support/window_test.h"

#include "app/stations/bias_station.h"
#include "app/stations/first_power_station.h"
#include "app/stations/logbook_station.h"
#include "app/stations/measure_station.h"
#include "app/stations/supply/supply_station.h"
#include "app/theme/theme.h"
#include "app/widgets/quantity_field.h"
#include "app/window/log_line.h"
#include "app/window/main_window.h"

#include <QLabel>
#include <QPushButton>
#include <QSettings>
#include <QTableWidget>
#include <QTemporaryDir>
#include <QTest>

#include <cmath>

using namespace ember;
using namespace ember::app;

class TestWindow : public WindowTest {
    Q_OBJECT
  private Q_SLOTS:
    void theDemoOpensAndPaints() {
        QVERIFY(w->windowTitle().contains("Larkfield"));
        for (int k = 0; k < w->stationCount(); ++k) {
            w->go(k);
            draw();
            QVERIFY2(w->minimumSizeHint().width() <= 1280,
                     qPrintable(QString("%1 needs %2").arg(w->station(k)->id).arg(w->minimumSizeHint().width())));
            const QImage picture = w->grab().toImage();
            QVERIFY(picture.width() >= 1280);
        }
    }

    void keysGoToStations() {
        QTest::keyClick(w.get(), Qt::Key_8, Qt::AltModifier);
        QVERIFY(w->station<BiasStation>()->isVisible());
        QTest::keyClick(w.get(), Qt::Key_2, Qt::AltModifier);
        QVERIFY(w->station<SupplyStation>()->isVisible());
        QTest::keyClick(w.get(), Qt::Key_L, Qt::ControlModifier);
        QVERIFY(w->logLine()->entry()->hasFocus());
    }

    void aValueIsEditedWhereItStands() {
        auto* r1 = child<QuantityField>("/supply/sections/3/resistance");
        QVERIFY(r1 && r1->isVisible());
        const double before = w->document().figures().nominal->nodes[2].mean;
        r1->setFocus();
        r1->selectAll();
        QTest::keyClicks(r1, "6k8");
        QTest::keyClick(r1, Qt::Key_Return);
        QCOMPARE(w->document().build().supply.sections[3].resistance, 6800.0);
        waitForFigures();
        QVERIFY(w->document().figures().nominal->nodes[2].mean < before - 5);
        QVERIFY(w->windowTitle().contains('*'));
        QTest::keyClick(w.get(), Qt::Key_Z, Qt::ControlModifier);
        QCOMPARE(w->document().build().supply.sections[3].resistance, 4700.0);
    }

    void arrowsStepTheStandardSeries() {
        auto* r1 = child<QuantityField>("/supply/sections/3/resistance");
        r1->setFocus();
        QTest::keyClick(r1, Qt::Key_Up);
        QCOMPARE(w->document().build().supply.sections[3].resistance, 5600.0);
        QTest::keyClick(r1, Qt::Key_Down);
        QCOMPARE(w->document().build().supply.sections[3].resistance, 4700.0);
        QTest::keyClick(r1, Qt::Key_Up, Qt::ShiftModifier);
        QCOMPARE(w->document().build().supply.sections[3].resistance, 4750.0);
    }

    void nonsenseIsRefusedWhereItIsTyped_data() {
        QTest::addColumn<QString>("typed");
        for (const char* t : {"0 F", "-5", "10 M", "abc", "1,000", "33 V"}) QTest::newRow(t) << QString(t);
    }
    void nonsenseIsRefusedWhereItIsTyped() {
        QFETCH(QString, typed);
        auto* c1 = child<QuantityField>("/supply/sections/0/capacitance");
        c1->setFocus();
        c1->selectAll();
        QTest::keyClicks(c1, typed);
        QTest::keyClick(c1, Qt::Key_Return);
        QVERIFY(!c1->problem().isEmpty());
        QCOMPARE(w->document().build().supply.sections[0].capacitance, 22e-6);
        QTest::keyClick(c1, Qt::Key_Escape);
        QVERIFY(c1->problem().isEmpty());
    }

    void aFindingIsMendedByItsFix() {
        QVERIFY(w->document().edit(setValue("c3", "/supply/sections/4/volts", 400)).ok());
        QPushButton* fix = nullptr;
        const auto seen = [&] {
            for (auto* b : w->findChildren<QPushButton*>("fix-capacitor-volts/c3"))
                if (b->isVisible()) fix = b;
            return fix != nullptr;
        };
        WAIT_FOR(seen()); // the list comes into sight a turn after its findings
        QTest::mouseClick(fix, Qt::LeftButton);
        QCOMPARE(w->document().build().supply.sections[4].volts, 500.0);
        waitForFigures();
        for (const auto& f : w->document().findings()) QVERIFY(f.id != "capacitor-volts/c3");
    }

    void theLogLineJudgesAReading() {
        w->document().stage(0, 230);
        settle();
        auto* line = w->logLine()->entry();
        line->setFocus();
        QTest::keyClicks(line, "earth 0.05");
        settle();
        QTest::keyClicks(line, " ");
        QVERIFY2(w->logLine()->verdict().contains("in range"), qPrintable(w->logLine()->verdict()));
        QTest::keyClick(line, Qt::Key_Return);
        QCOMPARE(w->document().build().log.back().point, std::string("earth"));
        QCOMPARE(w->document().build().log.back().stage, 0);
        QTest::keyClicks(line, "warm but no smell");
        QTest::keyClick(line, Qt::Key_Return);
        QCOMPARE(w->document().build().log.back().kind, std::string("note"));
        QTest::keyClicks(line, "earth abc");
        QTest::keyClick(line, Qt::Key_Return);
        QCOMPARE(w->document().build().log.size(), std::size_t(2));
    }

    /// A builder's first evening: every stage from the practice bench, bias, a tone, the report.
    void fromSupplyToTheReport() {
        doc().setBandSamples(250); // rough bands would call healthy readings odd, and each of those asks for its causes
        w->document().startPractice(7, {});
        auto* power = w->station<FirstPowerStation>();
        w->go("first-power");
        settle();
        for (int stage = 0; stage < procedure::stageCount; ++stage) {
            settle();
            QCOMPARE(power->stageIndex(), stage);
            const auto* s = power->stage();
            QVERIFY(s);
            const auto count = s->expectations.size();
            auto* passed = child<QPushButton>("stagePassed");
            for (std::size_t k = 0; k < count; ++k) {
                auto* rows = child<QTableWidget>("readings");
                rows->selectRow(static_cast<int>(k));
                if (k == 0) { // the first by hand, in the middle of the band
                    const auto& band = power->stage()->expectations[0].band;
                    power->entry()->setFocus();
                    QTest::keyClicks(power->entry(), QString::number(band.nominal, 'g', 4));
                    QTest::keyClick(power->entry(), Qt::Key_Return);
                } else {
                    QTest::mouseClick(child<QPushButton>("fromPractice"), Qt::LeftButton);
                    settle();
                    if (w->document().build().log.back().verdict != "in range") {
                        LogEntry words = w->document().build().log.back(); // as F2 writes it
                        words.text = "within what this meter does";
                        w->document().log(words);
                    }
                }
            }
            QVERIFY2(passed->isEnabled(),
                     qPrintable(QString("stage %1: %2").arg(stage).arg(child<QLabel>("obstacles")->text())));
            QTest::mouseClick(passed, Qt::LeftButton);
            settle();
        }
        QCOMPARE(procedure::currentStage(w->document().build(), procedure::Strand::Practice), procedure::stageCount);
        QVERIFY2(procedure::currentStage(w->document().build()) == 0, "the amplifier itself is not proved by it");
        for (const auto& e : w->document().build().log)
            if (e.kind == "reading") QCOMPARE(e.source, std::string("practice")); // typed ones as well

        w->go("bias");
        auto* sense = child<QLineEdit>("sense-v3");
        QVERIFY(sense && sense->isVisible());
        sense->setFocus();
        QTest::keyClicks(sense, "0.31");
        QTest::keyClick(sense, Qt::Key_Return);
        QCOMPARE(w->document().build().log.back().point, std::string("sense-v3"));
        QCOMPARE(w->document().build().log.back().verdict, std::string("in range"));

        w->go("measure");
        QTest::mouseClick(child<QPushButton>("take"), Qt::LeftButton);
        WAIT_FOR_EQUAL(w->document().build().log.back().kind, std::string("measure"));
        QVERIFY(child<QLabel>("power")->text().endsWith("W"));
        QVERIFY(w->station<MeasureStation>()->findChildren<QLabel*>().size() > 4);
        const auto labels = w->station<MeasureStation>()->findChildren<QLabel*>();
        QVERIFY(std::any_of(labels.begin(), labels.end(),
                            [](const QLabel* l) { return l->text().contains("hum predicted"); }));

        w->go("logbook");
        auto* log = w->station<LogbookStation>();
        const QString html = dir.filePath("r.html"), pdf = dir.filePath("r.pdf");
        QVERIFY(log->writeHtml(html).ok());
        QFile written(html);
        QVERIFY(written.open(QIODevice::ReadOnly));
        const QByteArray page = written.readAll();
        const qsizetype at = page.indexOf("data:image/png;base64,");
        QVERIFY(at > 0); // the finished amplifier
        const QByteArray coded = page.mid(at + 22, page.indexOf('"', at) - at - 22);
        QCOMPARE(QImage::fromData(QByteArray::fromBase64(coded)).size(), QSize(960, 600));
        QVERIFY(log->writePdf(pdf).ok());
        QVERIFY(!log->writeHtml("/nowhere/r.html").ok());
        QVERIFY(!log->writePdf("/nowhere/r.pdf").ok());
        QFile h(html), p(pdf);
        QVERIFY(h.open(QIODevice::ReadOnly) && p.open(QIODevice::ReadOnly));
        const QByteArray text = h.readAll();
        QVERIFY(text.contains("passed: handover") && text.contains("V3 across its sense resistor"));
        QVERIFY(p.read(5) == "%PDF-");
        child<QLineEdit>("filter")->setText("measure");
        QVERIFY(child<QTableWidget>("log")->rowCount() >= 1);
        QVERIFY(child<QTableWidget>("log")->rowCount() < 5);
    }

    void bothThemesShowTheSame() {
        for (const char* name : {"chassis", "supply", "stages", "heaters", "grounds", "wiring", "first-power", "bias",
                                 "measure", "logbook"})
            w->go(name);
        QVERIFY2(w->minimumSizeHint().width() <= 1280 && w->minimumSizeHint().height() <= 800,
                 qPrintable(QString("%1 x %2").arg(w->minimumSizeHint().width()).arg(w->minimumSizeHint().height())));
        w->logLine()->say("a sentence that is no good news", false);
        waitForFigures();
        w->applyTheme(1);
        QCOMPARE(theme::mode(), theme::Mode::Daylight);
        // Nothing keeps a colour of the other theme in its texts.
        int coloured = 0;
        for (const QWidget* of : w->findChildren<QWidget*>()) {
            const auto* label = qobject_cast<const QLabel*>(of);
            const QString words = of->styleSheet() + (label ? label->text() : QString());
            coloured += words.contains('#');
            for (int role = 0; role <= static_cast<int>(theme::Role::Stop); ++role)
                QVERIFY2(!words.contains(theme::color(static_cast<theme::Role>(role), theme::Mode::Dusk).name()),
                         qPrintable(of->objectName() + ": " + words));
        }
        QVERIFY(coloured > 0);
        w->applyTheme(0);
        QCOMPARE(theme::mode(), theme::Mode::Dusk);
    }

    void aBrokenFileLeavesTheOpenBuild() {
        QFile f(dir.filePath("broken.ember.json"));
        QVERIFY(f.open(QIODevice::WriteOnly));
        f.write("{\"format\": \"dim-ember/build\", ");
        f.close();
        QVERIFY(!w->openFile(f.fileName()));
        QVERIFY(w->logLine()->verdict().contains("line"));
        QVERIFY(w->windowTitle().contains("Larkfield"));
    }
};

EMBER_TESTS(TestWindow)
#include "test_window.moc"
