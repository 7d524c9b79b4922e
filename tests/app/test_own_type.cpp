// A valve of one's own in its dialog: typed, judged while it is typed, chosen for a socket.

#include "../support/suite.h"
#include "../support/window_test.h"

#include "app/stations/stages/own_type_dialog.h"
#include "app/stations/stages/valve_dialog.h"

#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTableWidget>

#include <array>
#include <fstream>

using namespace ember;
using namespace ember::app;

class TestOwnType : public WindowTest {
    Q_OBJECT

    template <typename T>
    static T& in(QWidget& dialog, const char* name) {
        auto* found = dialog.findChild<T*>(name);
        if (!found) qFatal("the dialog has no %s", name);
        return *found;
    }
    /// Plate, grid, plate mA, the screen's columns empty.
    static void typePoints(QTableWidget& t, const std::vector<std::array<const char*, 3>>& rows) {
        for (std::size_t r = 0; r < rows.size(); ++r)
            for (const auto& [column, k] : {std::pair(0, 0), {2, 1}, {3, 2}})
                t.setItem(static_cast<int>(r), column, new QTableWidgetItem(rows[r][static_cast<std::size_t>(k)]));
    }

  private Q_SLOTS:
    /// Six points of a sheet make a type; it stands in the list, goes into a socket's choice, and one undo takes it
    /// away.
    void aSheetBecomesAType() {
        OwnTypeDialog dialog(doc(), {}, w.get());
        dialog.show();
        auto& verdict = in<QLabel>(dialog, "ownVerdict");
        auto& keep = in<QPushButton>(dialog, "ownKeep");
        QVERIFY(verdict.text().contains("A point is"));
        QVERIFY(!keep.isEnabled());
        in<QLineEdit>(dialog, "ownName").setText("LF21");
        typePoints(in<QTableWidget>(dialog, "ownPoints"), {{"250", "-8.5", "10.5"}, {"250", "-6", "18 mA"}});
        in<QLineEdit>(dialog, "ownPlateWatts").setText("3.5");
        in<QLineEdit>(dialog, "ownGridPlate").setText("3,9");
        in<QComboBox>(dialog, "ownSystem").setCurrentIndex(0);
        WAIT_FOR2(keep.isEnabled(), qPrintable(verdict.text()));
        QVERIFY2(verdict.text().contains("All points stand near 250 V"), qPrintable(verdict.text()));
        typePoints(in<QTableWidget>(dialog, "ownPoints"), {{"250", "-8.5", "10.5"},
                                                           {"250", "-6", "18 mA"},
                                                           {"120", "-2", "9"},
                                                           {"180", "-6", "7.8"},
                                                           {"250", "-18", "0.1"}});
        WAIT_FOR2(!verdict.text().contains("All points"), qPrintable(verdict.text()));
        QVERIFY(!verdict.text().contains("cut-off"));
        QVERIFY(in<QTableWidget>(dialog, "ownPoints").item(0, 8)->text().endsWith("%"));
        QTest::mouseClick(&keep, Qt::LeftButton);
        QCOMPARE(doc().build().types.size(), std::size_t(1));
        QCOMPARE(doc().build().types[0].gridPlate, 3.9e-12);
        QCOMPARE(doc().build().types[0].plateWatts, 3.5);
        QVERIFY(doc().build().types[0].system == RatingSystem::DesignCentre);
        ValveDialog choice(doc(), "LF21", w.get());
        choice.show();
        QCOMPARE(choice.type(), std::string("LF21"));
        QVERIFY(in<QPushButton>(choice, "valveChange").isVisible());
        in<QLineEdit>(choice, "valveSearch").setText("own");
        QCOMPARE(in<QTableWidget>(choice, "valveTable").rowCount(), 1);
        in<QPushButton>(choice, "valveAway").click();
        QVERIFY(doc().build().types.empty());
        doc().undoStack().undo();
        doc().undoStack().undo();
        QVERIFY(doc().build().types.empty());
    }

    /// What is no number, or a name that is taken, is said, and nothing is kept.
    void whatIsWrongIsNamed() {
        OwnTypeDialog dialog(doc(), {}, w.get());
        dialog.show();
        auto& verdict = in<QLabel>(dialog, "ownVerdict");
        typePoints(in<QTableWidget>(dialog, "ownPoints"), {{"250", "-8.5", "many"}});
        WAIT_FOR2(verdict.text().contains("Row 1, plate mA"), qPrintable(verdict.text()));
        typePoints(in<QTableWidget>(dialog, "ownPoints"), {{"250", "-8.5", "10.5"}});
        WAIT_FOR2(verdict.text().contains("needs a name"), qPrintable(verdict.text()));
        in<QLineEdit>(dialog, "ownName").setText("EL84");
        WAIT_FOR2(verdict.text().contains("catalogue has EL84"), qPrintable(verdict.text()));
        in<QComboBox>(dialog, "ownKind").setCurrentIndex(1);
        in<QLineEdit>(dialog, "ownName").setText("LF22");
        WAIT_FOR2(verdict.text().contains("screen volts"), qPrintable(verdict.text()));
        QVERIFY(!in<QPushButton>(dialog, "ownKeep").isEnabled());
    }

    void pointsComeFromAFile() {
        const QString path = dir.filePath("tracer.csv");
        std::ofstream(path.toStdString()) << "Va;Vg2;Vg;Ia (mA);Ig2 (mA)\n250;250;-7;48;5.5\n250;250;-10;30;3.4\n"
                                             "100;250;-7;41;9\n200;200;-5;39;4.4\n";
        OwnTypeDialog dialog(doc(), {}, w.get());
        dialog.show();
        dialog.load(path);
        auto& verdict = in<QLabel>(dialog, "ownVerdict");
        QVERIFY2(verdict.text().contains("off its figures"), qPrintable(verdict.text()));
        QCOMPARE(in<QComboBox>(dialog, "ownKind").currentIndex(), 1);
        QCOMPARE(in<QLineEdit>(dialog, "ownSource").text(), QString("tracer.csv"));
        dialog.load(dir.filePath("nothing.csv"));
        QVERIFY(verdict.text().contains("cannot be opened"));
    }
};

EMBER_TESTS(TestOwnType)
#include "test_own_type.moc"
