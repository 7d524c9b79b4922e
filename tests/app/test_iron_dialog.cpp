// An output transformer from readings, in its dialog: judged while it is typed, taken over, undone.

#include "../support/parts.h"
#include "../support/suite.h"
#include "../support/window_test.h"

#include "app/stations/stages/iron_dialog.h"
#include "core/build/path.h"

#include <QComboBox>
#include <QLineEdit>
#include <QPushButton>
#include <QTableWidget>

#include <algorithm>
#include <cmath>

using namespace ember;
using namespace ember::app;

class TestIronDialog : public WindowTest {
    Q_OBJECT
    IronDialog* dialog = nullptr; // the window's

    void open() {
        dialog = new IronDialog(doc(), *pointerOfId(doc().build(), "ot1"), true, w.get());
        dialog->show();
    }
    void write(const char* field, const char* words) {
        auto* f = dialog->findChild<QLineEdit*>(field);
        if (!f) qFatal("the dialog has no %s", field);
        f->setText(words);
    }
    QString said(const char* object) { return dialog->findChild<QLabel*>(object)->text(); }
    QPushButton* take() { return dialog->findChild<QPushButton*>("ironTake"); }
    QTableWidget* values() { return dialog->findChild<QTableWidget*>("ironValues"); }
    /// What the table has of a value, as read.
    QString asRead(const QString& words) {
        for (int row = 0; row < values()->rowCount(); ++row)
            if (values()->item(row, 0)->text() == words) return values()->item(row, 2)->text();
        return {};
    }
    const OutputTransformer& iron() {
        static Build now;
        now = doc().build();
        return partOf<OutputTransformer>(now, "ot1");
    }

  private Q_SLOTS:
    /// Where old iron is entered stands what to look for and whom to ask.
    void oldIronComesWithItsDangers() {
        open();
        QString all;
        for (const QLabel* l : dialog->findChildren<QLabel*>()) all += l->text() + "\n";
        for (const char* words : {"insulation that crumbles", "PCB", "asbestos", "waste authority"})
            QVERIFY2(all.contains(words), words);
    }
    /// From the plate alone: what is not stated on it is typical of how it is wound, and said to be so until it is
    /// read.
    void aNameplateGivesTypicalIron() {
        open();
        QTest::mouseClick(dialog->findChild<QPushButton*>("ironPlate"), Qt::LeftButton);
        QVERIFY(take()->isEnabled());
        write("plateWatts", "30");
        write("plateImpedance", "6.6k");
        write("plateHertz", "30");
        QCOMPARE(asRead("leakage"), QString("19.1 mH")); // alike with the load at 55 kHz
        dialog->findChild<QComboBox*>("plateClass")->setCurrentIndex(2);
        QCOMPARE(asRead("leakage"), QString("9.55 mH"));
        QCOMPARE(asRead("primary inductance"), QString("70.0 H")); // twice 6.6 kohm at 30 Hz
        write("plateImpedance", "wide");
        QVERIFY(said("ironNotes").contains("primary:") && !take()->isEnabled());
        write("plateImpedance", "6.6k");
        QTest::mouseClick(take(), Qt::LeftButton);
        QCOMPARE(iron().watts, 30.0);
        settleSteady();
        const auto& all = doc().findings();
        QVERIFY(std::any_of(all.begin(), all.end(), [](const auto& f) { return f.id == "typical-iron/ot1"; }));
        doc().undoStack().undo();
        QCOMPARE(iron().watts, 15.0);
        dialog->accept();
    }

    /// Leads without papers: ohms and volts between them name ends, taps and loads, and the plan takes them over.
    void unknownLeadsAreNamed() {
        open();
        QTest::mouseClick(dialog->findChild<QPushButton*>("ironUnknown"), Qt::LeftButton);
        auto* rows = dialog->findChild<QTableWidget*>("leadRows");
        QVERIFY(rows && rows->isVisible() && !take()->isEnabled());
        const char* typed[][4] = {{"red", "blue", "115", "5"},
                                  {"blue", "brown", "122", "5"},
                                  {"red", "brown", "237", "10"},
                                  {"black", "green", "0.45", "353.6 mV"},
                                  {"red", "black", "open", nullptr}};
        int row = 0;
        for (const auto& cells : typed) {
            for (int c = 0; c < 4; ++c)
                if (cells[c]) rows->setItem(row, c, new QTableWidgetItem(cells[c]));
            ++row;
        }
        QVERIFY2(take()->isEnabled(), qPrintable(said("leadWords")));
        auto* leads = dialog->findChild<QTableWidget*>("leadsFound");
        QCOMPARE(leads->rowCount(), 5);
        QCOMPARE(leads->item(1, 3)->text(), QString("centre tap"));
        QVERIFY2(said("leadWords").contains("made for"), qPrintable(said("leadWords")));
        const double before = iron().primaryResistanceA;
        QTest::mouseClick(take(), Qt::LeftButton);
        QVERIFY(std::abs(iron().primaryImpedance - 6400) < 10);
        QVERIFY(iron().primaryResistanceA != before && iron().secondaryResistance == 0.45);
        doc().undoStack().undo();
        QCOMPARE(iron().primaryResistanceA, before);
        rows->setItem(2, 3, new QTableWidgetItem("14"));
        QVERIFY2(said("leadWords").contains("do not add up"), qPrintable(said("leadWords")));
        QVERIFY(!take()->isEnabled());
        dialog->accept();
    }

    /// Ratio and resistances as a meter gives them; the plan has them after one click, and not after one undo.
    void readingsAreTakenOver() {
        open();
        QVERIFY(!take()->isEnabled());
        QVERIFY(said("ironNotes").contains("no reading yet"));
        write("ironPrimary", "12 V");
        QVERIFY(said("ironNotes").contains("ratio needs both"));
        write("ironSecondary", "424 mV");
        write("ironOhmsA", "121");
        QVERIFY2(take()->isEnabled(), qPrintable(said("ironNotes")));
        QCOMPARE(asRead("primary impedance"), QString::fromUtf8("6.41 kΩ"));
        QVERIFY2(said("ironLikely").contains(QString::fromUtf8("made for 6.60 kΩ?")), qPrintable(said("ironLikely")));
        const OutputTransformer before = iron();
        QTest::mouseClick(take(), Qt::LeftButton);
        QVERIFY(std::abs(iron().primaryImpedance - 8 * std::pow(12 / 0.424, 2)) < 1e-6);
        QCOMPARE(iron().primaryResistanceA, 121.0);
        QCOMPARE(iron().primaryResistanceB, before.primaryResistanceB); // not read, not touched
        QVERIFY(doc().undoStack().undoText().contains("OT1 as it was measured"));
        doc().undoStack().undo();
        QCOMPARE(iron().primaryImpedance, before.primaryImpedance);
    }

    /// What is no number is named; what a reading cannot tell is said, and nothing is taken over from it.
    void whatCannotBeIsSaid() {
        open();
        write("ironOhmsA", "many");
        QVERIFY2(said("ironNotes").contains("ohms of half a"), qPrintable(said("ironNotes")));
        QVERIFY(!take()->isEnabled());
        write("ironOhmsA", "");
        write("ironShortVolts", "3 V");
        write("ironShortAmps", "4.6 mA");
        write("ironShortHertz", "50 Hz");
        QVERIFY2(said("ironNotes").contains("hides the leakage"), qPrintable(said("ironNotes")));
        QVERIFY(!take()->isEnabled());
        write("ironShortHertz", "10 kHz");
        write("ironShortAmps", "2.3 mA");
        QVERIFY2(asRead("leakage").endsWith("mH"), qPrintable(said("ironNotes")));
        QVERIFY(take()->isEnabled());
        write("ironResonance", "90 kHz");
        QVERIFY(asRead("winding capacitance").endsWith("pF"));
    }
};

EMBER_TESTS(TestIronDialog)
#include "test_iron_dialog.moc"
