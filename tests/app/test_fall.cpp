// The supply's chain in its picture, driven as a builder would: parts put in, moved, taken away and hung, by keys and
// menu.

#include "../support/suite.h"
#include "../support/supply_test.h"

#include "app/window/log_line.h"
#include "core/build/chain_edits.h"

#include <QRegularExpression>

#include <cmath>

using namespace ember;
using namespace ember::app;

class TestFall : public SupplyTest {
    Q_OBJECT
  private Q_SLOTS:
    void insertPutsASectionBehindTheFocusedOne() {
        w->go("supply");
        field("/supply/sections/1/inductance")->setFocus();
        choose("resistor");
        QTest::keyClick(field("/supply/sections/1/inductance"), Qt::Key_Insert);
        WAIT_FOR_EQUAL(supply().sections.size(), std::size_t(6));
        QVERIFY(supply().sections[2].kind == SectionKind::Resistor);
        QCOMPARE(doc().build().channels[0].stages[2].node, 3); // the plates stay with their capacitor
        waitForFigures();
        QCOMPARE(doc().figures().nominal->nodes.size(), std::size_t(4));
        doc().undoStack().undo();
        QCOMPARE(supply().sections.size(), std::size_t(5));
        QCOMPARE(doc().build().channels[0].stages[2].node, 2);
    }

    void controlKeysMoveAndTakeAway() {
        w->go("supply");
        field("/supply/sections/1/inductance")->setFocus();
        QTest::keyClick(field("/supply/sections/1/inductance"), Qt::Key_Left, Qt::ControlModifier);
        QCOMPARE(supply().sections[0].id, std::string("l1"));
        QCOMPARE(supply().sections[1].id, std::string("c1"));
        WAIT_FOR(fall()->focused().has_value());
        QCOMPARE(*fall()->focused(), std::size_t(0)); // the focus goes with it
        QTest::keyClick(field("/supply/sections/0/inductance"), Qt::Key_Left, Qt::ControlModifier);
        QCOMPARE(supply().sections[0].id, std::string("l1")); // the chain begins here
        doc().undoStack().undo();
        field("/supply/sections/4/capacitance")->setFocus();
        QTest::keyClick(field("/supply/sections/4/capacitance"), Qt::Key_Delete, Qt::ControlModifier);
        QCOMPARE(supply().sections.size(), std::size_t(4)); // the small valves lose their capacitor: said, not refused
        settleSteady();
        QVERIFY(field("/supply/sections/3/resistance")->toolTip().contains("no capacitor"));
        QVERIFY(doc().figures().nominal.has_value());
        doc().undoStack().undo();
        field("/supply/sections/3/resistance")->setFocus();
        QTest::keyClick(field("/supply/sections/3/resistance"), Qt::Key_Delete, Qt::ControlModifier);
        QCOMPARE(supply().sections.size(), std::size_t(4));
    }

    void everyKindOfSectionIsDrawn() {
        w->go("supply");
        for (const SectionKind kind : {SectionKind::Switch, SectionKind::Fuse, SectionKind::Meter, SectionKind::Tap}) {
            fall()->insert(2, kind);
            settleSteady();
            const QImage picture = fall()->grab().toImage();
            QVERIFY(!picture.isNull());
            QVERIFY2(field("/supply/sections/2/" + QString(kind == SectionKind::Switch ? "closes"
                                                           : kind == SectionKind::Tap  ? "volts"
                                                                                       : "resistance")),
                     kindWord(kind));
            doc().undoStack().undo();
        }
    }

    void aChokeOfNothingIsSaidAtTheChoke() {
        w->go("supply");
        QVERIFY(!field("/supply/sections/1/inductance")->toolTip().contains("no inductance"));
        type(field("/supply/sections/1/inductance"), "0");
        settleSteady();
        QVERIFY(field("/supply/sections/1/inductance")->toolTip().contains("no inductance"));
        QVERIFY(doc().figures().nominal->nodes[1].rippleRms > 0.5); // the other figures stay, with what that means
        type(field("/supply/sections/1/inductance"), "-3");
        QCOMPARE(supply().sections[1].inductance, 0.0); // refused with its range
        QVERIFY(w->logLine()->verdict().contains("H")); // the range it may have
        doc().undoStack().undo();
        settleSteady();
        QVERIFY(!field("/supply/sections/1/inductance")->toolTip().contains("no inductance"));
    }

    void aLongChainScrollsInsteadOfSqueezing() {
        w->go("supply");
        for (int k = 0; k < 10; ++k) fall()->insert(supply().sections.size(), SectionKind::Resistor);
        settleSteady();
        QVERIFY(doc().figures().nominal.has_value());
        QCOMPARE(doc().figures().nominal->nodes.size(), std::size_t(13));
        QVERIFY(fall()->minimumWidth() > 1200);
        QCOMPARE(w->width(), 1280); // the window keeps its size
    }

    void connectedAsADoublerItDoubles() {
        w->go("supply");
        waitForFigures();
        const double before = doc().figures().cold->nodes[0].most;
        fall()->connectAs(Connection::Doubler);
        QCOMPARE(supply().sections[0].inSeries, 2);
        waitForFigures();
        QVERIFY(doc().figures().cold.has_value());
        QVERIFY(doc().figures().cold->nodes[0].most > 1.8 * before);
        bool unshared = false;
        for (const auto& f : doc().findings()) unshared = unshared || f.id == "balancing/c1";
        QVERIFY(unshared);
    }

    void tabGoesAlongTheFall() {
        w->go("supply");
        settleSteady();
        auto* first = field("/transformer/plateVolts");
        first->setFocus();
        QStringList passed;
        int last = -1;
        for (int k = 0; k < 10; ++k) {
            auto* now = qobject_cast<QuantityField*>(QApplication::focusWidget());
            QVERIFY(now);
            passed << now->objectName();
            QVERIFY(!now->accessibleName().isEmpty());
            // From left to right; a part's own values stand above each other or side by side.
            const int x = now->geometry().center().x();
            QVERIFY2(x > last - 90, qPrintable(passed.join(' ')));
            last = std::max(last, x);
            QTest::keyClick(now, Qt::Key_Tab);
        }
        QCOMPARE(passed.removeDuplicates(), 0);
        QVERIFY(passed.contains("/supply/sections/0/capacitance") && passed.contains("/supply/sections/3/resistance"));
    }

    void aBleederHangsUnderItsNodeAndIsTakenAway() {
        w->go("supply");
        settle();
        const auto slow = [&] {
            for (const auto& f : doc().findings())
                if (f.id == "slow-discharge") return true;
            return false;
        };
        QVERIFY(!slow());
        QVERIFY(doc().edit(removeAt("no bleeder", "/supply/bleeders/0")).ok());
        settle();
        QVERIFY(slow());
        chooseAt("/supply/sections/0/capacitance", "At B+1", "bleeder");
        WAIT_FOR_EQUAL(supply().bleeders.size(), std::size_t(1));
        auto* ohms = field("/supply/bleeders/0/resistor/resistance");
        QVERIFY(ohms && ohms->isVisible() && !ohms->geometry().isEmpty());
        type(ohms, "100k");
        settle();
        QVERIFY(!slow());
        QVERIFY(figures().contains("V1 output"));
        // Its volts' limit is said at it, as at any part.
        type(field("/supply/bleeders/0/resistor/resistance"), "4k7");
        settle();
        QVERIFY(field("/supply/bleeders/0/resistor/resistance")->toolTip().contains("RB1"));
        field("/supply/bleeders/0/resistor/resistance")->setFocus();
        QTest::keyClick(field("/supply/bleeders/0/resistor/resistance"), Qt::Key_Delete, Qt::ControlModifier);
        QVERIFY(supply().bleeders.empty());
        doc().undoStack().undo();
        QCOMPARE(supply().bleeders.size(), std::size_t(1));
        QVERIFY(field("/supply/bleeders/0/resistor/resistance"));
    }

    void everyRectifierOfTheMenuCanBeTaken() {
        w->go("supply");
        for (const RectifierType& r : Catalogue::shipped().rectifiers) {
            if (!r.forHighVoltage()) continue;
            chooseAt("/supply/sections/0/capacitance", "Rectifier", QString::fromStdString(r.type));
            WAIT_FOR2(Catalogue::shipped().rectifier(supply().rectifier.type) == &r, r.type.c_str());
        }
        waitForFigures();
        QVERIFY(doc().figures().nominal.has_value());
        QVERIFY(!fall()->grab().isNull()); // silicon is drawn as such
    }

    void aTapGetsAValveByItsMenu() {
        w->go("supply");
        fall()->insert(supply().sections.size(), SectionKind::Tap);
        const std::size_t at = supply().sections.size() - 2;
        QVERIFY(supply().sections[at].kind == SectionKind::Tap);
        const QString pointer = QString("/supply/sections/%1/volts").arg(at);
        settleSteady();
        chooseAt(pointer, "'s rectifier", "5V4G");
        WAIT_FOR_EQUAL(supply().sections[at].type, std::string("5V4G"));
        settle();
        // A valve wants a winding of its own: said, with the edit that adds it.
        const auto& all = doc().findings();
        const auto found =
            std::find_if(all.begin(), all.end(), [](const auto& f) { return f.id.starts_with("rectifier-winding/"); });
        QVERIFY(found != all.end() && found->fix);
        QVERIFY(doc().edit(*found->fix).ok());
        QCOMPARE(doc().build().transformer.heaters.back().feeds, supply().sections[at].id);
        settleSteady();
        QVERIFY(doc().figures().nominal->heaters.size() >= 4);
        while (doc().undoStack().canUndo()) doc().undoStack().undo();
        QCOMPARE(supply().sections.size(), std::size_t(5));
    }

    void anAbsurdChainSaysSoAndKeepsTheRest() {
        w->go("supply");
        settleSteady();
        auto* c1 = field("/supply/sections/0/capacitance");
        const QString before = figures();
        for (const char* words : {"0", "-5u", "10 F"}) {
            type(c1, words);
            QVERIFY2(!c1->problem().isEmpty(), words);
            QTest::keyClick(c1, Qt::Key_Escape);
        }
        QCOMPARE(supply().sections[0].capacitance, 22e-6);
        QVERIFY(before.contains("B+1 "));
        QCOMPARE(figures(), before);
    }
};

EMBER_TESTS(TestFall)
#include "test_fall.moc"
