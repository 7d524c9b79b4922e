// Windings, wires and boards changed by hand: menus, dragging, lugs.

#include "../support/suite.h"
#include "../support/window_test.h"

#include "app/stations/underside/underside_picture.h"
#include "app/stations/wires/board_dialog.h"
#include "app/stations/wires/wire_table.h"

#include <QComboBox>
#include <QLabel>
#include <QListWidget>
#include <QMenu>
#include <QPushButton>
#include <QTimer>

using namespace ember;
using namespace ember::app;

class TestWireEdits : public WindowTest {
    Q_OBJECT
    const wires::WireFigures& figures() { return *doc().figures().wires; }
    /// A click on an entry of a list box.
    void pick(const char* box, int k) {
        auto* b = child<QComboBox>(box);
        b->setCurrentIndex(k);
        Q_EMIT b->activated(k);
        settleSteady();
    }

    /// Down the open menu, by words; whether it was there.
    bool walkMenu(const QStringList& way) {
        bool done = false;
        auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
        for (const QString& words : way) {
            QAction* found = nullptr;
            for (QAction* a : menu ? menu->actions() : QList<QAction*>())
                if (a->text() == words) found = a;
            if (!found) break;
            if (found->menu())
                menu = found->menu();
            else
                found->trigger(), done = true;
        }
        while (QWidget* open = QApplication::activePopupWidget()) open->close();
        return done;
    }
    /// Clicks the button and walks down its menu, by words.
    void pickFromMenu(QPushButton* button, const QStringList& way) {
        bool done = false;
        QTimer::singleShot(0, this, [&] { done = walkMenu(way); });
        button->click();
        QVERIFY2(done, qPrintable(way.join(" > ")));
    }

  private Q_SLOTS:
    void smallValvesGetDirectCurrentFromAWindingOfTheirOwn() {
        w->go("heaters");
        settleSteady();
        const auto choose = [&](const char* button, const QStringList& way) {
            pickFromMenu(child<QPushButton>(button), way);
            settleSteady();
        };
        choose("heaterChanges", {"Add a winding of 6.6 V"});
        QCOMPARE(doc().build().transformer.heaters.back().id, std::string("h3"));
        choose("heaterChanges", {"V2 on H1", "from H3"});
        choose("heaterChanges", {"V5 on H1", "from H3"});
        pick("heaterWinding", 2);
        QCOMPARE(child<WireTable>("heaterTable")->rowCount(), 2);
        choose("feed3", {"DC: a bridge of four diodes"});
        choose("feed6", {"a low-dropout regulator"});
        // 6.6 V are not enough for it: that is a finding, and 8.5 V typed at the winding mends it.
        const auto short_ = [&] {
            return std::any_of(doc().findings().begin(), doc().findings().end(),
                               [](const auto& f) { return f.id == "heater-headroom/h3"; });
        };
        QVERIFY(short_());
        auto* volts = child<QLineEdit>("/transformer/heaters/2/volts");
        volts->setFocus();
        volts->selectAll();
        QTest::keyClicks(volts, "8.5");
        QTest::keyClick(volts, Qt::Key_Return);
        settleSteady();
        QVERIFY(!short_());
        QVERIFY(std::abs(figures().heaters.windings[2].sockets[0].low - 6.3) < 0.05);
        // In series they want twice the volts; Ctrl+Z takes it back.
        choose("heaterChanges", {"V5 on H3", "in series with V2"});
        QVERIFY(figures().heaters.windings[2].sockets[0].nominal < 4);
        w->activateWindow(); // the menu has taken the focus away
        settleSteady();
        QTest::keyClick(w.get(), Qt::Key_Z, Qt::ControlModifier);
        for (const Valve& v : doc().build().bottles) QVERIFY2(v.heaterString.empty(), v.id.c_str());
        settleSteady();
        QVERIFY(std::abs(figures().heaters.windings[2].sockets[0].nominal - 6.3) < 0.05);
    }
    void aWiresGaugeAndColourAreChosenFromItsMenu() {
        w->go("wiring");
        settleSteady();
        auto* table = child<WireTable>("wireTable");
        const wires::Run* red = nullptr;
        for (const wires::Run& r : figures().harness.runs)
            if (r.kind == wires::RunKind::HighVoltage && !red) red = &r;
        QVERIFY(red);
        const std::string id = red->wire.id;
        table->select(QString::fromStdString(id));
        const auto choose = [&](const QStringList& way) {
            bool done = false;
            QTimer::singleShot(0, this, [&] { done = walkMenu(way); });
            Q_EMIT table->customContextMenuRequested({10, 10});
            QVERIFY2(done, qPrintable(way.join(" > ")));
            settleSteady();
        };
        choose({"Conductor", "1.5 mm²"});
        choose({"Colour", "violet"});
        const wires::Run* now = figures().harness.find(id);
        QVERIFY(std::abs(now->wire.area - 1.5e-6) < 1e-12 && now->wire.colour == "violet");
        choose({"As proposed"});
        QVERIFY(figures().harness.find(id)->wire.colour == "red");
        choose({"Take away"});
        QVERIFY(!figures().harness.find(id));
        doc().undoStack().undo();
        settleSteady();
        QVERIFY(figures().harness.find(id));
    }
    void aBoardIsLaidOutAndItsPartsAreMoved() {
        w->go("wiring");
        settleSteady();
        child<QPushButton>("openBoards")->click();
        auto* dialog = w->findChild<BoardDialog*>("boards");
        QVERIFY(dialog);
        auto* problems = dialog->findChild<QLabel*>("boardProblems");
        dialog->findChild<QPushButton*>("boardLayOut")->click();
        settleSteady();
        QCOMPARE(doc().build().wiring.boards.size(), std::size_t(1));
        QVERIFY2(problems->text().contains("agrees with the schematic"), qPrintable(problems->text()));
        // A part that lies between two tags is dragged one tag on: it then meets other nets, and that is said.
        const Board before = doc().build().wiring.boards[0];
        const auto lying = std::find_if(before.parts.begin(), before.parts.end(),
                                        [](const BoardPart& p) { return p.from > 0 && p.to > 0 && !p.part.empty(); });
        QVERIFY(lying != before.parts.end());
        BoardView& view = dialog->view();
        const QPointF middle = (view.lugAt(lying->from) + view.lugAt(lying->to)) / 2;
        const bool atEnd = std::max(lying->from, lying->to) == before.columns;
        const QPointF step = view.lugAt(atEnd ? 1 : 2) - view.lugAt(atEnd ? 2 : 1);
        QTest::mousePress(&view, Qt::LeftButton, Qt::NoModifier, middle.toPoint());
        QMouseEvent move(QEvent::MouseMove, middle + step, view.mapToGlobal(middle + step), Qt::NoButton,
                         Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(&view, &move);
        QTest::mouseRelease(&view, Qt::LeftButton, Qt::NoModifier, (middle + step).toPoint());
        settleSteady();
        const auto now =
            std::find_if(doc().build().wiring.boards[0].parts.begin(), doc().build().wiring.boards[0].parts.end(),
                         [&](const BoardPart& p) { return p.part == lying->part; });
        QVERIFY(now->from == lying->from + (atEnd ? -1 : 1) && now->to == lying->to + (atEnd ? -1 : 1));
        QVERIFY2(problems->text().contains("keeps apart"), qPrintable(problems->text()));
        QVERIFY(std::any_of(doc().findings().begin(), doc().findings().end(),
                            [](const auto& f) { return f.id.starts_with("board/"); }));
        // Del takes it off: it waits, and Enter in the list would put it back; undo brings it where it was.
        QTest::keyClick(&view, Qt::Key_Delete);
        settleSteady();
        auto* waiting = dialog->findChild<QListWidget*>("boardWaiting");
        QVERIFY(!waiting->findItems(QString::fromStdString(lying->part).toUpper(), Qt::MatchExactly).isEmpty());
        doc().undoStack().undo();
        doc().undoStack().undo();
        settleSteady();
        QVERIFY(problems->text().contains("agrees with the schematic"));
        dialog->findChild<QPushButton*>("boardClear")->click();
        settleSteady();
        QVERIFY(doc().build().wiring.boards.empty());
        dialog->close();
    }
    void aWireIsDraggedToAnotherWay() {
        w->go("heaters");
        settleSteady();
        UndersidePicture* picture = nullptr;
        for (UndersidePicture* each : w->findChildren<UndersidePicture*>())
            if (each->isVisible()) picture = each;
        QVERIFY(picture);
        const std::size_t before = doc().build().wiring.wires.size();
        // Along the picture until a wire is met, then dragged away and dropped.
        bool moved = false;
        for (int y = 40; y < picture->height() - 40 && !moved; y += 6)
            for (int x = 80; x < picture->width() - 40 && !moved; x += 14) {
                const QPoint at(x, y);
                QTest::mousePress(picture, Qt::LeftButton, Qt::NoModifier, at);
                QTest::mouseMove(picture, at + QPoint(4, 9));
                QMouseEvent move(QEvent::MouseMove, at + QPoint(22, 22), picture->mapToGlobal(at + QPoint(22, 22)),
                                 Qt::NoButton, Qt::LeftButton, Qt::NoModifier);
                QApplication::sendEvent(picture, &move);
                QTest::mouseRelease(picture, Qt::LeftButton, Qt::NoModifier, at + QPoint(22, 22));
                moved = doc().build().wiring.wires.size() > before;
            }
        QVERIFY(moved);
        settleSteady();
        QVERIFY(!doc().build().wiring.wires.back().by.empty());
        QTest::keyClick(w.get(), Qt::Key_Z, Qt::ControlModifier);
        QCOMPARE(doc().build().wiring.wires.size(), before);
    }
};

EMBER_TESTS(TestWireEdits)
#include "test_wire_edits.moc"
