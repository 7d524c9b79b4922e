// Heaters, Grounds and Wiring as a builder uses them.

#include "../support/suite.h"
#include "../support/window_test.h"

#include "app/stations/run_pen.h"
#include "app/stations/underside/underside_picture.h"
#include "app/stations/wires/grounds_station.h"
#include "app/stations/wires/heaters_station.h"
#include "app/stations/wires/wire_table.h"
#include "app/stations/wires/wiring_pdf.h"
#include "app/stations/wires/wiring_station.h"
#include "core/procedure/rewiring.h"

#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QMenu>
#include <QProcess>
#include <QPushButton>

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
        settle(); // a mend is offered once it was tried
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
        WAIT_FOR(QApplication::activePopupWidget());
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
        for (int k = 0; k < 4; ++k)
            doc().log(procedure::stageEntry(k, StageEvent::Passed, procedure::Strand::Amplifier));
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
        QCOMPARE(procedure::currentStage(doc().build()), 0); // insulation and earth first
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
        QVERIFY(reader.waitForFinished(ember::tests::longest()) && reader.exitCode() == 0);
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
        auto* picture = w->station<WiringStation>()->findChild<UndersidePicture*>("wirePicture");
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
