// Every value of the build, found and changed in one list.

#include "../support/parts.h"
#include "../support/suite.h"
#include "../support/window_test.h"

#include "app/window/values_sheet.h"

#include <QPushButton>
#include <QTableWidget>

using namespace ember;
using namespace ember::app;

class TestValues : public WindowTest {
    Q_OBJECT
    ValuesSheet* sheet() { return w->findChild<ValuesSheet*>("values"); }
    QTableWidget* table() { return sheet()->findChild<QTableWidget*>("valuesTable"); }
    QString answerLine() { return sheet()->findChildren<QLabel*>().constFirst()->text(); }
    int rowOf(const QString& what) {
        for (int r = 0; r < table()->rowCount(); ++r)
            if (table()->item(r, 0)->text() == what) return r;
        return -1;
    }
    void enter(const QString& what, const QString& value) {
        const int row = rowOf(what);
        QVERIFY2(row >= 0, qPrintable(what));
        table()->item(row, 1)->setText(value);
    }

  private Q_SLOTS:
    void ctrlEOpensItAndTypingFinds() {
        QTest::keyClick(w.get(), Qt::Key_E, Qt::ControlModifier);
        QVERIFY(sheet() && sheet()->isVisible());
        const int all = table()->rowCount();
        QVERIFY2(all > 150, qPrintable(QString::number(all)));
        auto* filter = sheet()->findChild<QLineEdit*>("valuesFilter");
        QTest::keyClicks(filter, "mains");
        QVERIFY(table()->rowCount() >= 4 && table()->rowCount() < 12);
        QTest::keyClick(filter, Qt::Key_Return);
        QVERIFY(sheet()->focusWidget() != filter && table()->currentRow() == 0);
    }

    void aNumberIsTakenAndUndone() {
        w->showValues("l1 inductance");
        enter("supply, l1, inductance", "7 H");
        QCOMPARE(doc().build().supply.sections[1].inductance, 7.0);
        QVERIFY(doc().undoStack().undoText().contains("l1"));
        doc().undoStack().undo();
        QCOMPARE(doc().build().supply.sections[1].inductance, demoInductance);
        QCOMPARE(table()->item(rowOf("supply, l1, inductance"), 1)->text(), QString("5 H"));
    }

    void nonsenseIsAnsweredAndPutBack() {
        w->showValues("fuse");
        enter("fuse f1, amps", "0");
        QVERIFY(answerLine().contains("fuse f1, amps"));
        QCOMPARE(doc().build().fuse.amps, 0.8);
        QCOMPARE(table()->item(rowOf("fuse f1, amps"), 1)->text(), QString("800 mA"));
        enter("fuse f1, slow", "false");
        QVERIFY(!doc().build().fuse.slow);
    }

    void aChoiceTakesItsNames() {
        w->showValues("connection");
        enter("supply, connection", "bridge");
        QCOMPARE(doc().build().supply.connection, Connection::Bridge);
        enter("supply, connection", "sideways");
        QVERIFY(answerLine().contains("bridge"));
        QCOMPARE(doc().build().supply.connection, Connection::Bridge);
    }

    void anUnknownValveIsRefusedByName() {
        w->showValues("v3");
        enter("v3, type", "QQE99");
        QVERIFY2(answerLine().contains("QQE99"), qPrintable(answerLine()));
        QCOMPARE(bottleOf(doc().build(), "v3")->type, std::string("EL84"));
    }

    void anEntryIsDoubledWithNewIdsAndTakenAway() {
        w->showValues("supply c3 capacitance");
        table()->setCurrentCell(0, 1);
        const auto before = doc().build().supply.sections.size();
        QTest::mouseClick(sheet()->findChild<QPushButton*>("valuesDouble"), Qt::LeftButton);
        QCOMPARE(doc().build().supply.sections.size(), before + 1);
        QVERIFY(doc().build().supply.sections.back().id != doc().build().supply.sections[before - 1].id);
        table()->setCurrentCell(0, 1);
        QTest::mouseClick(sheet()->findChild<QPushButton*>("valuesRemove"), Qt::LeftButton);
        QCOMPARE(doc().build().supply.sections.size(), before);
        waitForFigures();
        QVERIFY(doc().figures().nominal.has_value());
    }

    void aSectionThatOthersNeedStays() {
        w->showValues("supply r1 resistance");
        table()->setCurrentCell(0, 1);
        QTest::mouseClick(sheet()->findChild<QPushButton*>("valuesRemove"), Qt::LeftButton);
        QVERIFY2(answerLine().contains("node"), qPrintable(answerLine()));
        QCOMPARE(doc().build().supply.sections.size(), std::size_t(5));
    }

  private:
    static constexpr double demoInductance = 5;
};

EMBER_TESTS(TestValues)
#include "test_values.moc"
