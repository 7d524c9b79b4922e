// The parts list in its window: lines are found, prices typed, undone and written.

#include "../support/suite.h"
#include "../support/window_test.h"

#include "app/window/parts_dialog.h"

#include <QAction>
#include <QFile>
#include <QLabel>
#include <QLineEdit>
#include <QTableWidget>
#include <QTemporaryDir>

using namespace ember;
using namespace ember::app;

class TestPartsDialog : public WindowTest {
    Q_OBJECT
    PartsDialog* dialog() { return w->findChild<PartsDialog*>("parts"); }
    QTableWidget* table() { return dialog()->findChild<QTableWidget*>("partsTable"); }
    QString sums() { return dialog()->findChild<QLabel*>("partsSums")->text(); }
    int rowOf(const QString& what) {
        for (int r = 0; r < table()->rowCount(); ++r)
            if (table()->item(r, 0)->text() == what) return r;
        return -1;
    }

  private Q_SLOTS:
    void pricesAreTypedUndoneAndWritten() {
        for (QAction* a : w->findChildren<QAction*>())
            if (a->text().contains("Parts")) a->trigger();
        QVERIFY(dialog() && dialog()->isVisible());
        const int row = rowOf("EL84");
        QVERIFY(row >= 0);
        QCOMPARE(table()->item(row, 2)->text(), QString("4"));
        QVERIFY(table()->item(row, 1)->text().contains("V3"));
        table()->item(row, 4)->setText("12,50");
        QCOMPARE(table()->item(rowOf("EL84"), 5)->text(), QString("50.00"));
        QVERIFY2(sums().contains("total 50.00"), qPrintable(sums()));
        // Nonsense is answered and put back.
        table()->item(rowOf("EL84"), 4)->setText("cheap");
        QCOMPARE(table()->item(rowOf("EL84"), 4)->text(), QString("12.50"));
        QTemporaryDir folder;
        QVERIFY(dialog()->exportTo(folder.filePath("parts.csv")));
        QFile written(folder.filePath("parts.csv"));
        QVERIFY(written.open(QIODevice::ReadOnly) && written.readAll().contains("\"EL84\",\"V3 V4 V6 V7\",4,,"));
        doc().undoStack().undo();
        QCOMPARE(table()->item(rowOf("EL84"), 4)->text(), QString());
        // The list that was written has the price; read, it is undone as one.
        const auto read = dialog()->importFrom(folder.filePath("parts.csv"));
        QVERIFY(read && *read == "1 price taken over.");
        QCOMPARE(table()->item(rowOf("EL84"), 4)->text(), QString("12.50"));
        doc().undoStack().undo();
        QCOMPARE(table()->item(rowOf("EL84"), 4)->text(), QString());
        QVERIFY(!dialog()->importFrom("/nowhere.csv"));
        // Typed words leave the lines that have them.
        dialog()->findChild<QLineEdit*>("partsFilter")->setText("v3");
        QVERIFY(table()->rowCount() > 0 && table()->rowCount() < 6);
        dialog()->close();
    }
};

EMBER_TESTS(TestPartsDialog)
#include "test_parts_dialog.moc"
