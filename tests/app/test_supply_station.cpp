// The Supply beside its picture: curves read and written, figures pinned and spread, values asked for.

#include "../support/suite.h"
#include "../support/supply_test.h"

#include "app/stations/find_value_dialog.h"
#include "app/stations/supply/source_dialog.h"
#include "app/stations/supply/supply_panel.h"

#include <QComboBox>
#include <QFile>
#include <QImage>
#include <QPushButton>
#include <QRegularExpression>

#include <cmath>

using namespace ember;
using namespace ember::app;

class TestSupplyStation : public SupplyTest {
    Q_OBJECT
    QByteArray written(const QString& name) {
        QFile f(dir.filePath(name));
        return f.open(QIODevice::ReadOnly) ? f.readAll() : QByteArray();
    }

  private Q_SLOTS:
    void theFusesAreProposedWithTheirReasons() {
        w->go("supply");
        waitForFigures();
        auto* words = child<QLabel>("fuseAdvice");
        settle();
        WAIT_FOR(words->text().contains("RMS"));
        QVERIFY(words->text().contains("from cold"));
        fall()->insert(1, SectionKind::Fuse);
        settle();
        WAIT_FOR_EQUAL(words->text().count("RMS"), 2); // the one in the chain too
    }

    void withoutAComparisonEachFigureSaysWhatTheWindingLeavesOpen() {
        w->go("supply");
        settle();
        WAIT_FOR(figures().contains(QChar(0xb1)));
        const double open = doc().figures().within.at("b1.mean");
        const PowerTransformer& t = doc().build().transformer;
        QVERIFY(doc()
                    .edit(together("", {setValue("", "/transformer/voltsTolerance", 2 * t.voltsTolerance),
                                        setValue("", "/transformer/resistanceTolerance", 2 * t.resistanceTolerance)}))
                    .ok());
        settle();
        QVERIFY(doc().figures().within.at("b1.mean") > 1.7 * open);
    }

    void everyCurveIsShownAndRead() {
        w->go("supply");
        settle();
        QImage last;
        for (int k = 0; k < 8; ++k) {
            station()->showCurve(k);
            draw();
            const QImage now = station()->curvesView()->grab().toImage();
            QVERIFY2(now != last, qPrintable(QString::number(k)));
            last = now;
            const double at = k == 0 ? 5 : k >= 6 ? 100 : 0.4;
            QVERIFY2(station()->curvesView()->readAt(at).contains("B+1"),
                     qPrintable(station()->curvesView()->readAt(at)));
        }
        station()->showCurve(1);
        QVERIFY(station()->curvesView()->readAt(1e9).isEmpty());
        // Late in the switch-on it reads what the steady state says.
        const QString late = station()->curvesView()->readAt(29.5);
        const auto match = QRegularExpression("B\\+1 ([0-9.]+) V").match(late);
        QVERIFY(match.hasMatch());
        QVERIFY(std::abs(match.captured(1).toDouble() / doc().figures().nominal->nodes[0].mean - 1) < 0.02);
    }

    void arrowsMoveTheCursor() {
        w->go("supply");
        settle();
        auto* plot = child<QWidget>("supplyPlot");
        plot->setFocus();
        QTest::keyClick(plot, Qt::Key_Right);
        const QString first = child<QLabel>("curveReading")->text();
        QVERIFY(first.contains("B+1"));
        for (int k = 0; k < 8; ++k) QTest::keyClick(plot, Qt::Key_Right);
        QVERIFY(child<QLabel>("curveReading")->text() != first);
    }

    void aMarkReadsHowFarTheNodeSagged() {
        w->go("supply");
        station()->showCurve(4); // the bass note
        settle();
        auto* plot = child<QWidget>("supplyPlot");
        const auto reading = [&] { return child<QLabel>("curveReading")->text(); };
        plot->setFocus();
        QTest::keyClick(plot, Qt::Key_Left); // a cursor to mark
        QTest::keyClick(plot, Qt::Key_Space);
        QTest::keyClick(plot, Qt::Key_Right);
        QVERIFY2(reading().startsWith("relative to the mark +"), qPrintable(reading()));
        QVERIFY(reading().contains(QRegularExpression("B\\+2 [-+]")));
        const auto* shown = child<QLabel>("curveReading"); // whole, not cut off
        WAIT_FOR(shown->fontMetrics().horizontalAdvance(reading()) < shown->width());
        // By hand: at rest before the note, and near its end.
        const auto& c = doc().figures().burst;
        const auto at = [&](double t) {
            const auto k = std::lower_bound(c.seconds.begin(), c.seconds.end(), t) - c.seconds.begin();
            return c.nodes[1][static_cast<std::size_t>(k)];
        };
        QVERIFY(at(0.65) < at(0.15) - 10);
        const auto said =
            QRegularExpression("B\\+2 (-[0-9.]+) V").match(station()->curvesView()->readBetween(0.15, 0.65));
        QVERIFY(said.hasMatch());
        QVERIFY(std::abs(said.captured(1).toDouble() - (at(0.65) - at(0.15))) < 0.5);
        QTest::keyClick(plot, Qt::Key_Escape);
        QVERIFY(!reading().contains("mark"));
        QTest::keyClick(plot, Qt::Key_Space);
        station()->showCurve(1); // another picture has no mark
        QTest::keyClick(plot, Qt::Key_Right);
        QVERIFY(!reading().contains("mark"));
    }

    void curvesAndCircuitAreWritten() {
        w->go("supply");
        settle();
        station()->showCurve(4);
        for (const char* name : {"a.png", "a.svg", "a.csv", "a.cir"})
            QVERIFY2(station()->exportTo(dir.filePath(name)).ok(), name);
        QVERIFY(QImage(dir.filePath("a.png")).width() > 500);
        QVERIFY(written("a.svg").contains("<svg"));
        const QList<QByteArray> rows = written("a.csv").split('\n');
        QVERIFY(rows[0].contains("B+1 s,B+1 V"));
        QVERIFY(rows.size() > 1000);
        for (const QByteArray& cell : rows[500].split(',')) {
            bool number = cell.isEmpty();
            if (!number) cell.toDouble(&number);
            QVERIFY2(number, cell.constData());
        }
        QVERIFY(written("a.cir").startsWith("* Larkfield"));
        QVERIFY(!station()->exportTo(dir.filePath("a.doc")).ok());
        QVERIFY(!station()->exportTo(dir.filePath("none/a.csv")).ok());
    }

    void pinnedFiguresShowWhatAChangeDid() {
        w->go("supply");
        settleSteady();
        child<QPushButton>("pinFigures")->click();
        QCOMPARE(station()->figuresPanel()->pinCount(), std::size_t(1));
        QVERIFY(!figures().contains("(")); // nothing has changed yet
        type(field("/supply/sections/3/resistance"), "10k");
        waitForFigures();
        WAIT_FOR2(figures().contains(QRegularExpression("B\\+3 [0-9.]+ V \\(-")), qPrintable(figures()));
        for (int k = 0; k < 6; ++k) station()->figuresPanel()->pin(QString::number(k));
        QCOMPARE(station()->figuresPanel()->pinCount(), SupplyPanel::mostPins);
        QVERIFY(!child<QPushButton>("pinFigures")->isEnabled());
        child<QPushButton>("unpinFigures")->click();
        QCOMPARE(station()->figuresPanel()->pinCount(), SupplyPanel::mostPins - 1);
        w->openDemo(); // pins are of the build they came from
        QCOMPARE(station()->figuresPanel()->pinCount(), std::size_t(0));
    }

    void pinnedCurvesStandWhileTheNewOnesAreComputed() {
        w->go("supply");
        settle();
        child<QPushButton>("pinFigures")->click();
        type(field("/supply/sections/3/resistance"), "8k2");
        waitForFigures(); // the steady ones: the curves take longer
        QVERIFY(doc().figures().switchOn.seconds.empty());
        for (int kind = 0; kind <= SupplyStation::biasPicture; ++kind) {
            station()->showCurve(kind);
            QCoreApplication::processEvents();
        }
        station()->showCurve(1);
        bool said = false;
        for (const QLabel* l : station()->curvesView()->findChildren<QLabel*>())
            said = said || l->text() == "computing ...";
        QVERIFY(said || !doc().figures().switchOn.seconds.empty());
        settle();
        QVERIFY(!doc().figures().switchOn.seconds.empty());
    }

    void aThousandBuildsSpreadAndASpreadCanBeStopped() {
        w->go("supply");
        settleSteady();
        auto* panel = station()->figuresPanel();
        child<QPushButton>("spreadFigures")->click();
        QVERIFY(panel->spreading());
        WAIT_FOR(!panel->spreading());
        WAIT_FOR2(figures().contains(".."), qPrintable(figures()));
        auto* choice = child<QComboBox>("comparedWith");
        QVERIFY(choice->currentText().contains("builds"));
        // The middle of the builds, near what the plan says, and between the ends beside it.
        const QRegularExpression line("B\\+1 ([0-9.]+) V \\(([0-9.]+)\\.\\.([0-9.]+)\\)");
        const auto b1 = line.match(figures());
        QVERIFY2(b1.hasMatch(), qPrintable(figures()));
        const double middle = b1.captured(1).toDouble();
        QVERIFY(b1.captured(2).toDouble() < middle && middle < b1.captured(3).toDouble());
        QVERIFY(std::abs(middle / doc().figures().nominal->nodes[0].mean - 1) < 0.03);
        type(field("/supply/sections/3/resistance"), "10k"); // of another build now: gone
        QVERIFY(!choice->currentText().contains("builds"));
        panel->spread();
        panel->stopSpread();
        WAIT_FOR(!panel->spreading());
        QVERIFY(!choice->currentText().contains("builds"));
    }

    void everyPartIsListedWhenAsked() {
        w->go("supply");
        settleSteady();
        QVERIFY(!figures().contains("R1 heat"));
        child<QPushButton>("everyPart")->click();
        QVERIFY(figures().contains("R1 heat") && figures().contains("C1 ripple current"));
    }

    void aValueIsFoundAndUsed() {
        w->go("supply");
        settleSteady();
        FindValueDialog* d = station()->findValue();
        d->askFor("/supply/sections/3/resistance");
        auto* wanted = d->findChild<QLineEdit*>("wantedFigure");
        type(wanted, "255 V");
        WAIT_FOR(!d->searching());
        auto* answer = d->findChild<QLabel*>("valueFound");
        WAIT_FOR2(answer->text().contains("R1 would be"), qPrintable(answer->text()));
        d->findChild<QPushButton*>("useAbove")->click();
        QVERIFY(supply().sections[3].resistance < 4700 && supply().sections[3].resistance > 1000);
        waitForFigures();
        QVERIFY(std::abs(doc().figures().nominal->nodes[2].mean - 255) < 10);
        d->close();
    }

    void aWishThatCannotBeMetIsAnsweredInWords() {
        w->go("supply");
        settleSteady();
        FindValueDialog* d = station()->findValue();
        d->askFor("/supply/sections/3/resistance");
        auto* wanted = d->findChild<QLineEdit*>("wantedFigure");
        auto* answer = d->findChild<QLabel*>("valueFound");
        type(wanted, "nonsense");
        QVERIFY(!d->searching());
        QVERIFY(!answer->text().isEmpty());
        type(wanted, "900 V");
        WAIT_FOR(!d->searching());
        WAIT_FOR2(answer->text().contains("no value gives"), qPrintable(answer->text()));
        QVERIFY(!d->findChild<QPushButton*>("useAbove")->isEnabled());
        d->close();
    }

    void whatIsInHandIsCombined() {
        w->go("supply");
        FindValueDialog* d = station()->findValue();
        d->findChild<QLineEdit*>("handWanted")->setText("3k");
        d->findChild<QLineEdit*>("handLoad")->setText("1 W");
        d->findChild<QLineEdit*>("hand")->setText("2x 1k5 2W, 10k 2W");
        auto* out = d->findChild<QLabel*>("combinations");
        QVERIFY2(out->text().contains("1.50 kΩ + 1.50 kΩ"), qPrintable(out->text()));
        d->findChild<QLineEdit*>("hand")->setText("1k, wood");
        QVERIFY2(out->text().contains("wood"), qPrintable(out->text()));
        d->close();
    }

    void theWindingComesFromATestUnderLoad() {
        w->go("supply");
        settleSteady();
        child<QPushButton>("sourceWanted")->click();
        auto* d = w->findChild<SourceDialog*>();
        QVERIFY(d && d->isVisible());
        d->findChild<QComboBox*>("sourceWay")->setCurrentIndex(2);
        const auto set = [&](int k, const char* words) {
            d->findChild<QLineEdit*>(QString("source-%1").arg(k))->setText(words);
        };
        set(0, "264 V");
        set(1, "230 V");
        set(2, "3k3");
        auto* found = d->findChild<QLabel*>("sourceFound");
        d->findChild<QPushButton*>("sourceAnswer")->click(); // the last one is missing
        QVERIFY2(found->text().contains("DC volts"), qPrintable(found->text()));
        QVERIFY(!d->findChild<QPushButton*>("sourceUse")->isEnabled());
        set(3, "900 V");
        d->findChild<QPushButton*>("sourceAnswer")->click();
        QVERIFY2(found->text().contains("cannot be"), qPrintable(found->text()));
        set(3, "290 V");
        d->findChild<QPushButton*>("sourceAnswer")->click();
        QVERIFY2(found->text().contains("A leg of 264"), qPrintable(found->text()));
        d->findChild<QPushButton*>("sourceUse")->click();
        QCOMPARE(doc().build().transformer.plateVolts, 264.0);
        QVERIFY(doc().build().transformer.plateResistance > 10);
        doc().undoStack().undo();
        d->close();
    }
};

EMBER_TESTS(TestSupplyStation)
#include "test_supply_station.moc"
