// Readings of single valves in their dialog: typed, from a tracer's file, taken over, matched.

#include "../support/suite.h"
#include "../support/window_test.h"

#include "app/stations/stages/readings_dialog.h"
#include "app/stations/station.h"

#include <QComboBox>
#include <QLineEdit>
#include <QPushButton>
#include <QTableWidget>

using namespace ember;
using namespace ember::app;

class TestValveReadings : public WindowTest {
    Q_OBJECT

    /// Row by row as a builder types them: plate, screen, grid, plate mA.
    static void typeRows(QTableWidget& t, const std::vector<std::array<const char*, 4>>& rows) {
        for (std::size_t r = 0; r < rows.size(); ++r)
            for (int c = 0; c < 4; ++c)
                t.setItem(static_cast<int>(r), c, new QTableWidgetItem(rows[r][static_cast<std::size_t>(c)]));
    }
    template <typename T>
    static T& in(QWidget& dialog, const char* name) {
        auto* found = dialog.findChild<T*>(name);
        if (!found) qFatal("the dialog has no %s", name);
        return *found;
    }

  private Q_SLOTS:
    /// From Bias: three readings of V3 are typed, judged while they are typed, and the plan has the weaker valve then;
    /// one undo takes them back.
    void readingsAreTypedAndTakenOver() {
        settleSteady();
        const double before = doc().build().bottles[2].emission;
        const std::string id = doc().build().bottles[2].id;
        ReadingsDialog dialog(doc(), id, w.get());
        dialog.show();
        auto& table = in<QTableWidget>(dialog, "readingsTable");
        auto& take = in<QPushButton>(dialog, "readingsTake");
        auto& verdict = in<QLabel>(dialog, "readingsVerdict");
        QVERIFY(!take.isEnabled());
        QVERIFY(verdict.text().contains("No reading yet"));
        typeRows(table,
                 {{"250", "250", "-7.3", "36"}, {"250 V", "250", "-10", "17 mA"}, {"300", "300", "-10", "29,5"}});
        QVERIFY2(take.isEnabled(), qPrintable(verdict.text()));
        QVERIFY2(verdict.text().contains("Against an average EL84"), qPrintable(verdict.text()));
        QVERIFY(table.item(0, 6) && table.item(0, 6)->text().endsWith("%"));
        QTest::mouseClick(&take, Qt::LeftButton);
        const Valve& now = doc().build().bottles[2];
        QCOMPARE(now.readings.size(), std::size_t(3));
        QCOMPARE(now.readings[2].plateAmps, 0.0295);
        QVERIFY(now.emission < 0.95);
        doc().undoStack().undo();
        QCOMPARE(doc().build().bottles[2].emission, before);
        QVERIFY(doc().build().bottles[2].readings.empty());
        dialog.accept();
    }

    /// A cell that is no number is named by its row and column; nothing can be taken over meanwhile.
    void whatIsNoNumberIsNamed() {
        ReadingsDialog dialog(doc(), doc().build().bottles[2].id, w.get());
        dialog.show();
        auto& table = in<QTableWidget>(dialog, "readingsTable");
        typeRows(table, {{"250", "250", "-7.3", "48"}, {"two", "250", "-7.3", "48"}});
        auto& verdict = in<QLabel>(dialog, "readingsVerdict");
        QVERIFY2(verdict.text().contains("Row 2, plate V"), qPrintable(verdict.text()));
        QVERIFY(!in<QPushButton>(dialog, "readingsTake").isEnabled());
        typeRows(table, {{"250", "250", "7.3", "48"}}); // the sign of the grid
        table.setItem(1, 0, new QTableWidgetItem("250"));
        QVERIFY2(verdict.text().contains("below it: -7.3 V?"), qPrintable(verdict.text()));
        in<QPushButton>(dialog, "readingsClear").click();
        QVERIFY(verdict.text().contains("No reading yet"));
        dialog.accept();
    }

    /// Readings that were not taken over are asked for when the dialog closes, and kept if so wished.
    void nothingTypedIsLost() {
        auto* dialog = new ReadingsDialog(doc(), doc().build().bottles[2].id, w.get());
        dialog->show();
        typeRows(in<QTableWidget>(*dialog, "readingsTable"), {{"250", "250", "-7.3", "40"}});
        QTimer::singleShot(50, qApp, [] {
            if (auto* box = qobject_cast<QMessageBox*>(QApplication::activeModalWidget()))
                box->buttons().first()->click();
        });
        in<QPushButton>(*dialog, "readingsClose").click();
        QCOMPARE(doc().build().bottles[2].readings.size(), std::size_t(1));
        delete dialog;
    }

    /// Four valves and two spares of different strength: the dialog proposes the pairs and puts them into the sockets.
    void theBestPairsGoIntoTheSockets() {
        settleSteady();
        ReadingsDialog dialog(doc(), doc().build().bottles[2].id, w.get());
        dialog.show();
        auto& valve = in<QComboBox>(dialog, "readingsValve");
        auto& table = in<QTableWidget>(dialog, "readingsTable");
        auto& take = in<QPushButton>(dialog, "readingsTake");
        for (int k = 0; k < 2; ++k) QTest::mouseClick(&in<QPushButton>(dialog, "readingsSpare"), Qt::LeftButton);
        QCOMPARE(doc().build().spares.size(), std::size_t(2));
        std::vector<int> of;
        for (int k = 0; k < valve.count(); ++k)
            if (valve.itemText(k).contains("EL84")) of.push_back(k);
        QCOMPARE(of.size(), std::size_t(6));
        const char* amps[] = {"48", "38", "47.5", "56", "38.4", "56.4"};
        for (std::size_t k = 0; k < 6; ++k) {
            valve.setCurrentIndex(of[k]);
            typeRows(table, {{"250", "250", "-7.3", amps[k]}});
            QVERIFY(take.isEnabled());
            QTest::mouseClick(&take, Qt::LeftButton);
        }
        in<QPushButton>(dialog, "readingsMatching").click();
        auto& proposal = in<QLabel>(dialog, "matchProposal");
        auto& put = in<QPushButton>(dialog, "matchPut");
        QVERIFY2(proposal.text().contains("Group 3"), qPrintable(proposal.text()));
        QCOMPARE(in<QTableWidget>(dialog, "matchTable").rowCount(), 6);
        QVERIFY2(put.isEnabled(), qPrintable(proposal.text()));
        QTest::mouseClick(&put, Qt::LeftButton);
        QVERIFY(!put.isEnabled());
        std::vector<double> sockets;
        for (const Valve& v : doc().build().bottles)
            if (v.type == "EL84") sockets.push_back(v.readings.at(0).plateAmps);
        for (const std::size_t pair : {0, 2}) QVERIFY(std::abs(sockets[pair] / sockets[pair + 1] - 1) < 0.02);
        dialog.accept();
    }
};

EMBER_TESTS(TestValveReadings)
#include "test_valve_readings.moc"
