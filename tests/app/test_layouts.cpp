// Layouts beside each other: proposed, used, kept, laid over, forgotten.

#include "../support/chassis_test.h"
#include "../support/suite.h"

#include "app/stations/chassis/layouts_dialog.h"
#include "core/build/starts.h"

#include <QCheckBox>
#include <QHeaderView>
#include <QLabel>
#include <QPushButton>
#include <QTableWidget>

#include <cmath>

using namespace ember;
using namespace ember::app;

class TestLayouts : public ChassisTest {
    Q_OBJECT
  private Q_SLOTS:
    void arrangementsAreProposedUsedAndTakenBack() {
        w->go("chassis");
        settle(); // nothing that comes later lays the table out anew
        LayoutsDialog* d = station()->showLayouts();
        auto* table = d->findChild<QTableWidget*>("layoutTable");
        const int before = table->rowCount();
        QVERIFY(before >= 4); // as it is, and the schools
        QCOMPARE(table->item(0, 0)->text(), QString("as it is now"));
        QCOMPARE(table->item(0, 1)->text(), QString("1")); // the misfit left open in the demo
        const double x = part("p-pt1").x;
        d->findChild<QPushButton*>("propose")->click();
        QVERIFY(d->proposing());
        WAIT_FOR(!d->proposing());
        WAIT_FOR_EQUAL(table->rowCount(), before + 5); // five unlike ones
        QCOMPARE(table->currentRow(), before);
        QCOMPARE(table->item(before, 1)->text(), QString("0"));
        const QString remark = d->findChild<QLabel*>("layoutRemark")->text();
        QVERIFY2(remark.contains("Smallest plate"), qPrintable(remark));
        QVERIFY(d->findChild<QLabel*>("layoutRemark")->text().contains("dB of pickup"));
        d->findChild<QPushButton*>("useLayout")->click();
        QVERIFY2(doc().undoStack().undoText().startsWith("layout: "), qPrintable(doc().undoStack().undoText()));
        QVERIFY(plate()->layout().fit.empty());
        QVERIFY(std::abs(part("p-v3").y - part("p-v4").y) < 1e-6 || std::abs(part("p-v3").x - part("p-v4").x) < 1e-6);
        doc().undoStack().undo();
        QCOMPARE(part("p-pt1").x, x);
        d->close();
    }

    /// A click on a figure's head sorts by it, a second one the other way round; the present layout stays on top.
    void arrangementsAreSortedByTheFigureThatIsClicked() {
        w->go("chassis");
        settle(); // nothing that comes later lays the table out anew
        LayoutsDialog* d = station()->showLayouts();
        auto* table = d->findChild<QTableWidget*>("layoutTable");
        const int before = table->rowCount();
        d->propose();
        WAIT_FOR_EQUAL(table->rowCount(), before + 5);
        const int shown = table->rowCount();
        d->findChild<QCheckBox*>("allArrangements")->setChecked(true);
        QVERIFY(table->rowCount() > shown);
        const auto pickup = [&](int row) { return table->item(row, 2)->text().section(' ', 0, 0).toDouble(); };
        const QHeaderView* heads = table->horizontalHeader();
        for (const bool up : {true, false}) {
            draw(); // heads have their widths
            const QPoint head(heads->sectionViewportPosition(2) + heads->sectionSize(2) / 2, 8);
            QTest::mouseClick(heads->viewport(), Qt::LeftButton, {}, head);
            QCOMPARE(table->item(0, 0)->text(), QString("as it is now"));
            for (int k = 2; k < table->rowCount(); ++k)
                QVERIFY(up ? pickup(k) >= pickup(k - 1) : pickup(k) <= pickup(k - 1));
        }
        d->close();
    }

    /// One button gives every part of the circuit its place, and one undo takes them all back.
    void missingPartsArePlacedTogether() {
        w->go("chassis");
        auto* button = child<QPushButton>("placeAll");
        QVERIFY2(button->isHidden(), "the demo has all its parts");
        doc().setBuild(ember::begunFrom(*ember::startOf("single-ended-triode")), {});
        settleSteady();
        QVERIFY(!button->isHidden() && button->text().contains("missing"));
        QVERIFY(doc().build().chassis.parts.empty());
        QTest::mouseClick(button, Qt::LeftButton);
        WAIT_FOR(button->isHidden());
        settleSteady();
        QVERIFY(doc().build().chassis.parts.size() > 12);
        QVERIFY(plate()->layout().fit.empty());
        doc().undoStack().undo();
        QVERIFY(doc().build().chassis.parts.empty() && !button->isHidden());
    }

    void askingForProposalsCanBeStopped() {
        w->go("chassis");
        LayoutsDialog* d = station()->showLayouts();
        d->findChild<QPushButton*>("propose")->click();
        d->findChild<QPushButton*>("stopProposals")->click();
        WAIT_FOR(!d->proposing());
        WAIT_FOR(d->findChild<QPushButton*>("propose")->isEnabled());
        QCOMPARE(doc().undoStack().count(), 0);
    }

    /// Any two: the first as it stands, the other's outlines on it, the change of each figure as the table has it.
    void twoLayoutsLieOverEachOther() {
        w->go("chassis");
        settle(); // nothing that comes later lays the table out anew
        LayoutsDialog* d = station()->showLayouts();
        auto* table = d->findChild<QTableWidget*>("layoutTable");
        auto* over = d->findChild<QLabel*>("layoutsOver");
        QVERIFY(!over->isVisible());
        table->selectRow(1);
        table->selectionModel()->setCurrentIndex(table->model()->index(2, 0),
                                                 QItemSelectionModel::Select | QItemSelectionModel::Rows);
        QVERIFY(over->isVisible() && !over->pixmap().isNull());
        const QString words = d->findChild<QLabel*>("layoutRemark")->text();
        QVERIFY2(words.contains("From \"" + table->item(1, 0)->text()) && words.contains(table->item(2, 0)->text()),
                 qPrintable(words));
        const auto millimetres = [&](int row) { return table->item(row, 6)->text().section(' ', 0, 0).toInt(); };
        if (const int change = millimetres(2) - millimetres(1); std::abs(change) > 1)
            QVERIFY2(words.contains(QString("signal path %1%2").arg(change > 0 ? "+" : "").arg(change)) ||
                         words.contains(QString("signal path %1%2").arg(change > 0 ? "+" : "").arg(change + 1)) ||
                         words.contains(QString("signal path %1%2").arg(change > 0 ? "+" : "").arg(change - 1)),
                     qPrintable(words));
        table->selectRow(1);
        QVERIFY(!over->isVisible());
        d->close();
    }

    void aLayoutIsKeptLaidOverAndForgotten() {
        w->go("chassis");
        LayoutsDialog* d = station()->showLayouts();
        auto* table = d->findChild<QTableWidget*>("layoutTable");
        table->selectRow(0);
        d->findChild<QPushButton*>("keepLayout")->click();
        QVERIFY(doc().build().chassis.kept.empty()); // a name is asked for first
        type(d->findChild<QLineEdit*>("layoutName"), "first thought");
        QCOMPARE(doc().build().chassis.kept.size(), std::size_t(1));
        QCOMPARE(table->item(1, 0)->text(), QString("kept: first thought"));
        choose("p-c2");
        QTest::keyClick(plate(), Qt::Key_Right);
        const QImage without = plate()->grab().toImage();
        table->selectRow(1);
        QVERIFY(plate()->grab().toImage() != without);
        d->findChild<QPushButton*>("useLayout")->click();
        QVERIFY(std::abs(part("p-c2").x - 0.24) < 1e-9);
        table->selectRow(1);
        d->findChild<QPushButton*>("forgetLayout")->click();
        QVERIFY(doc().build().chassis.kept.empty());
        d->close();
    }
};

EMBER_TESTS(TestLayouts)
#include "test_layouts.moc"
