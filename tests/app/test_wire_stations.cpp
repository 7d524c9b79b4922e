// Heaters, Grounds and Wiring as a builder uses them.

#include "../support/suite.h"
#include "../support/window_test.h"

#include "app/stations/run_pen.h"
#include "app/stations/wires/board_dialog.h"
#include "app/stations/wires/grounds_station.h"
#include "app/stations/wires/heaters_station.h"
#include "app/stations/wires/wire_picture.h"
#include "app/stations/wires/wire_table.h"
#include "app/stations/wires/wiring_pdf.h"
#include "app/stations/wires/wiring_station.h"
#include "core/procedure/rewiring.h"

#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QListWidget>
#include <QMenu>
#include <QProcess>
#include <QPushButton>
#include <QTimer>

using namespace ember;
using namespace ember::app;

class TestWireStations : public WindowTest {
    Q_OBJECT
    const wires::WireFigures& figures() { return *doc().figures().wires; }
    QString cell(WireTable* t, int row, int column) { return t->item(row, column)->text(); }
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
    void heatersShowEverySocketAndThinnerWireCostsVolts() {
        w->go("heaters");
        settleSteady();
        auto* table = child<WireTable>("heaterTable");
        QCOMPARE(table->rowCount(), 6);
        const double before = figures().heaters.windings[0].sockets.back().nominal;
        pick("heaterGauge", 0); // 0.5 mm2
        const double after = figures().heaters.windings[0].sockets.back().nominal;
        QVERIFY2(after < before - 0.05, qPrintable(QString("%1 %2").arg(before).arg(after)));
        QCOMPARE(cell(table, 5, 3), QString::fromStdString(format(after, Unit::Volt)));
        QTest::keyClick(w.get(), Qt::Key_Z, Qt::ControlModifier);
        settleSteady();
        QVERIFY(std::abs(figures().heaters.windings[0].sockets.back().nominal - before) < 1e-6);
    }
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
        WirePicture* picture = nullptr;
        for (WirePicture* each : w->findChildren<WirePicture*>())
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
    void aFloatingWindingIsAStopAndItsFixBringsItBack() {
        w->go("heaters");
        settleSteady();
        pick("heaterReference", 2);
        const auto stop = [&] {
            return std::any_of(doc().findings().begin(), doc().findings().end(),
                               [](const auto& f) { return f.id == "heater-floating/h1"; });
        };
        QVERIFY(stop());
        pick("heaterReference", 0);
        QVERIFY(!stop());
    }
    void theDemosGroundMistakeIsMendedByItsFix() {
        w->go("grounds");
        settleSteady();
        const double before = figures().hum.channels[0].rms;
        const auto at = std::find_if(doc().findings().begin(), doc().findings().end(),
                                     [](const auto& f) { return f.id == "charging-return"; });
        QVERIFY(at != doc().findings().end() && at->fix);
        const Edit fix = *at->fix;
        QVERIFY(doc().edit(fix));
        settleSteady();
        QVERIFY(figures().hum.channels[0].rms < 0.2 * before);
        QVERIFY(child<QLabel>("groundWords")->text().startsWith("1 bond to the chassis, 0 loops"));
    }
    void jacksOnThePanelCloseLoopsAndTheSchemeIsChosenByKeyboard() {
        w->go("grounds");
        settleSteady();
        auto* box = child<QCheckBox>("jacksInsulated");
        box->setFocus();
        QTest::keyClick(box, Qt::Key_Space);
        settleSteady();
        QVERIFY(child<QLabel>("groundWords")->text().startsWith("3 bonds to the chassis, 2 loops"));
        auto* scheme = child<QComboBox>("groundScheme");
        scheme->setFocus();
        QTest::keyClick(scheme, Qt::Key_Down);
        settleSteady();
        QVERIFY(doc().build().wiring.grounds == GroundScheme::OneStar);
    }
    void whatHelpsMostIsAMenuOfEdits() {
        w->go("grounds");
        settle();
        const double before = figures().hum.channels[0].rms;
        QTest::mouseClick(child<QPushButton>("humHelp"), Qt::LeftButton);
        QTRY_VERIFY_WITH_TIMEOUT(QApplication::activePopupWidget(), 60000);
        auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
        QVERIFY(menu && !menu->actions().isEmpty() && menu->actions().front()->text().contains("dB less"));
        menu->actions().front()->trigger();
        menu->close();
        settleSteady();
        QVERIFY(figures().hum.channels[0].rms < 0.7 * before);
    }
    void jointsGoForwardWithEnterAndBackWithBackspace() {
        w->go("wiring");
        settleSteady();
        auto* table = child<WireTable>("wireTable");
        QVERIFY(table->rowCount() > 50 && table->currentRow() == 0);
        const auto first = [&]() -> const wires::Run& { return figures().harness.runs.front(); };
        const auto press = [&](Qt::Key key) {
            QTest::keyClick(table, key);
            settleSteady();
        };
        press(Qt::Key_Return);
        QVERIFY(first().wire.fromJoint == Joint::Placed && first().wire.toJoint == Joint::Open);
        press(Qt::Key_Return);
        press(Qt::Key_Return);
        press(Qt::Key_Return);
        QVERIFY(first().wire.fromJoint == Joint::Hooked && first().wire.toJoint == Joint::Hooked);
        QVERIFY2(child<QLabel>("wiringWords")->text().contains("2 only hooked"),
                 qPrintable(child<QLabel>("wiringWords")->text()));
        press(Qt::Key_Backspace);
        QVERIFY(first().wire.toJoint == Joint::Placed || first().wire.fromJoint == Joint::Placed);
        press(Qt::Key_Return);
        press(Qt::Key_Return);
        press(Qt::Key_Return);
        QVERIFY(first().state() == Joint::Soldered);
        QCOMPARE(table->currentRow(), 1); // done: on to the next
        // It is in the file, and comes back.
        const QString file = dir.filePath("wired.ember.json");
        QVERIFY(doc().save(file));
        const auto again = loadBuild(file.toStdString());
        QVERIFY(again && std::any_of(again->wiring.wires.begin(), again->wiring.wires.end(), [&](const Wire& x) {
                    return x.id == first().wire.id && x.fromJoint == Joint::Soldered;
                }));
    }
    void unsolderingAfterFirstPowerBeginsItsStagesAgain() {
        for (int k = 0; k < 4; ++k) doc().log(procedure::stageEntry(k, StageEvent::Passed));
        w->go("wiring");
        settleSteady();
        auto* table = child<WireTable>("wireTable");
        child<QComboBox>("wireKind")->setCurrentIndex(static_cast<int>(wires::RunKind::HighVoltage) + 1);
        table->setCurrentCell(0, 0);
        for (int k = 0; k < 6; ++k) {
            table->setCurrentCell(0, 0);
            QTest::keyClick(table, Qt::Key_Return);
            settleSteady();
        }
        QCOMPARE(procedure::currentStage(doc().build()), 4);
        table->setCurrentCell(0, 0);
        QTest::keyClick(table, Qt::Key_Backspace);
        settleSteady();
        QCOMPARE(procedure::currentStage(doc().build()), 2); // high voltage is read from there on
    }
    void theSecondLookGoesTheOtherWayAndChecksOnlyWhatIsSoldered() {
        w->go("wiring");
        settleSteady();
        auto* table = child<WireTable>("wireTable");
        const QString last = table->item(table->rowCount() - 1, 0)->text();
        child<QCheckBox>("secondLook")->setChecked(true);
        QCOMPARE(table->item(0, 0)->text(), last);
        table->setCurrentCell(0, 0);
        QTest::keyClick(table, Qt::Key_Return);
        settleSteady();
        for (const wires::Run& r : figures().harness.runs) QVERIFY(r.state() == Joint::Open);
    }
    void theCuttingListHasEveryWire() {
        w->go("wiring");
        settleSteady();
        const QString list = QString::fromStdString(w->station<WiringStation>()->cuttingList());
        QCOMPARE(static_cast<std::size_t>(list.count('\n')), figures().harness.runs.size() + 1);
        QVERIFY(list.contains("inlet.L,f1.far,brown,0.75,94,8"));
    }
    /// Read back by another program: every wire has a picture, and both its ends a label.
    void theWiringIsPrintedWithPicturesAndLabels() {
        w->go("wiring");
        settleSteady();
        const auto& h = figures().harness;
        const QString file = dir.filePath("wiring.pdf");
        const auto pages = writeWiringPdf(doc().build(), h, file);
        QVERIFY(pages);
        const auto runs = static_cast<int>(h.runs.size());
        QCOMPARE(*pages, (runs + 5) / 6 + (2 * runs + 94) / 95);
        QProcess reader;
        reader.start("pdftotext", {"-layout", file, "-"});
        QVERIFY(reader.waitForFinished(30'000) && reader.exitCode() == 0);
        const QString words = QString::fromUtf8(reader.readAllStandardOutput());
        for (std::size_t k = 0; k < h.runs.size(); ++k) {
            const QString from = QString::fromStdString(wires::spoken(h.runs[k].wire.from));
            QVERIFY2(words.count(from) >= 2, qPrintable(from)); // in its picture's words, on its label
        }
        QVERIFY(words.contains("after reading 0 V"));
        QVERIFY(!writeWiringPdf(doc().build(), h, "/nowhere/w.pdf"));
    }
    void whatAMeterShowsStandsBesideTheWire() {
        w->go("wiring");
        settleSteady();
        child<QComboBox>("wireKind")->setCurrentIndex(static_cast<int>(wires::RunKind::Signal) + 1);
        auto* table = child<WireTable>("wireTable");
        for (const wires::Run& r : figures().harness.runs)
            if (r.net == "Left input") table->select(QString::fromStdString(r.wire.id));
        const QString words = child<QLabel>("wiringNow")->text();
        QVERIFY2(words.contains("1.00 M\u03A9") && words.contains("open: this wire is not joined"), qPrintable(words));
    }
    void theReturnsAreComparedInATable() {
        w->go("grounds");
        settle();
        QTest::mouseClick(child<QPushButton>("compareSchools"), Qt::LeftButton);
        auto* table = w->findChild<WireTable*>("schoolTable");
        QVERIFY(table && table->rowCount() == 5 && table->item(0, 0)->text().endsWith("as now"));
        table->setCurrentCell(1, 0);
        Q_EMIT table->cellActivated(1, 0);
        settleSteady();
        QVERIFY(doc().build().wiring.grounds == GroundScheme::OneStar);
    }
    void aClickOnAWireFindsItsRow() {
        w->go("wiring");
        settleSteady();
        child<QComboBox>("wireKind")->setCurrentIndex(static_cast<int>(wires::RunKind::Heater) + 1);
        auto* table = child<WireTable>("wireTable");
        QVERIFY(table->rowCount() >= 12);
        const QString before = table->currentId();
        auto* picture = w->station<WiringStation>()->findChild<WirePicture*>("wirePicture");
        Q_EMIT picture->chosen(table->item(4, 0)->data(Qt::UserRole).toString());
        QVERIFY(table->currentRow() == 4 && table->currentId() != before);
    }
    void theChassisShowsTheSameWires() {
        w->go("chassis");
        settleSteady();
        const auto shot = [&] {
            draw();
            return w->grab().toImage();
        };
        const QImage without = shot();
        child<QPushButton>("layer-wiring")->setChecked(true);
        const QImage with = shot();
        int changed = 0;
        for (int y = 0; y < with.height(); y += 2)
            for (int x = 0; x < with.width(); x += 2) changed += with.pixel(x, y) != without.pixel(x, y);
        QVERIFY2(changed > 500, qPrintable(QString::number(changed)));
    }
    void everyThemeKeepsKindsOfWireApart() {
        // By colour or by dashes: no two kinds are drawn alike.
        for (const auto mode : {theme::Mode::Dusk, theme::Mode::Daylight}) {
            theme::apply(*qApp, mode);
            std::set<std::pair<QRgb, int>> looks;
            for (int k = 0; k <= static_cast<int>(wires::RunKind::Output); ++k) {
                const QPen pen = penOf(static_cast<wires::RunKind>(k), 1.5);
                QVERIFY2(looks.emplace(pen.color().rgb(), static_cast<int>(pen.style())).second,
                         wires::nameOf(static_cast<wires::RunKind>(k)));
            }
        }
        theme::apply(*qApp, theme::Mode::Dusk);
    }
    void aBuildWithoutALayoutSaysWhatIsMissing() {
        Build b = doc().build();
        b.chassis.parts.clear();
        b.wiring.wires.clear();
        doc().setBuild(b, {});
        for (const char* id : {"heaters", "grounds", "wiring"}) {
            w->go(id);
            settleSteady();
            w->grab(); // none of the pictures leans on what is not there
        }
        QCOMPARE(child<WireTable>("wireTable")->rowCount(), 0);
        QCOMPARE(child<WireTable>("heaterTable")->rowCount(), 6);
    }
};

EMBER_TESTS(TestWireStations)
#include "test_wire_stations.moc"
