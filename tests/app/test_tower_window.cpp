// A tower in the window: parts sent below, the lower chassis shown, its wires, its form chosen.

#include "../support/chassis_test.h"
#include "../support/suite.h"

#include "app/stations/chassis/layouts_dialog.h"
#include "app/stations/underside/underside_picture.h"
#include "app/stations/wires/wire_table.h"
#include "app/stations/wires/wiring_pdf.h"
#include "app/stations/wires/wiring_station.h"
#include "core/chassis/arrange/storeys.h"
#include "core/chassis/kept_layouts.h"
#include "core/chassis/tower.h"

#include <QMenu>
#include <QPushButton>
#include <QTemporaryDir>

using namespace ember;
using namespace ember::app;

class TestTowerWindow : public ChassisTest {
    Q_OBJECT
    QPushButton* lower() { return child<QPushButton>("lowerChassis"); }
    void makeTower() {
        const Build& b = doc().build();
        QVERIFY(doc().edit(chassis::usePlaces("tower", b.chassis, chassis::placesOf(chassis::arrange::asTower(b)))));
        settleSteady();
    }

  private Q_SLOTS:
    void aPartIsSentBelowAndLookedAtThere() {
        w->go("chassis");
        settleSteady();
        QVERIFY(lower()->isHidden());
        choose("p-pt1");
        QTest::keyClick(plate(), Qt::Key_T);
        QCOMPARE(part("p-pt1").face, Face::LowerTop);
        QVERIFY(doc().build().chassis.storey > 0.08); // as high as the iron, and 5 mm
        QVERIFY(plate()->selection().empty() && !lower()->isHidden());
        QTest::mouseClick(lower(), Qt::LeftButton);
        QCOMPARE(plate()->side().face, Face::LowerTop);
        QTest::mouseClick(child<QPushButton>("face-back"), Qt::LeftButton);
        QCOMPARE(plate()->side().face, Face::LowerBack);
        QTest::mouseClick(child<QPushButton>("face-underside"), Qt::LeftButton);
        QVERIFY(plate()->side().face == Face::LowerTop && plate()->side().fromBelow);
        QTest::keyClick(plate(), Qt::Key_F);
        QVERIFY(plate()->side().face == Face::LowerTop && !plate()->side().fromBelow);
        choose("p-pt1");
        QTest::keyClick(plate(), Qt::Key_T);
        QCOMPARE(part("p-pt1").face, Face::Top);
        QCOMPARE(doc().build().chassis.storey, 0.0);
        QVERIFY(lower()->isHidden());
        QCOMPARE(plate()->side().face, Face::Top); // there is no lower one to look at
        doc().undoStack().undo();
        doc().undoStack().undo();
        QVERIFY(!chassis::isTower(doc().build().chassis));
    }

    void theWindowStaysAsWideAsItIs() {
        w->go("chassis");
        makeTower();
        draw();
        QVERIFY2(w->minimumSizeHint().width() <= 1280, qPrintable(QString::number(w->minimumSizeHint().width())));
    }

    /// Above and below are drawn apart; a wire that is chosen shows the chassis that it lies under.
    void wiresAreShownUnderTheirChassis() {
        w->go("wiring");
        makeTower();
        WAIT_FOR(doc().figures().wires);
        auto* picture = w->station<WiringStation>()->findChild<UndersidePicture*>();
        auto* storey = picture->findChild<QPushButton*>("wiresOfLower");
        QVERIFY(!storey->isHidden());
        const Chassis& c = doc().build().chassis;
        const auto& runs = doc().figures().wires->harness.runs;
        const auto whole = [&](bool below) {
            return std::find_if(runs.begin(), runs.end(), [&](const wires::Run& r) {
                return isLower(c.parts[r.fromSpot].face) == below && isLower(c.parts[r.toSpot].face) == below;
            });
        };
        for (const bool below : {true, false}) {
            QVERIFY(whole(below) != runs.end());
            picture->setLit({whole(below)->wire.id});
            QCOMPARE(storey->isChecked(), below);
            const QImage one = picture->grab().toImage();
            storey->setChecked(!below);
            QVERIFY(picture->grab().toImage() != one);
        }
        // What is pointed at under one chassis is not drawn over the other.
        storey->setChecked(false);
        picture->pointAt({});
        picture->showAll();
        const QImage plain = picture->grab().toImage();
        picture->pointAt({{{0.1, 0.1}, "here", theme::Role::Ember, true}});
        QVERIFY(storey->isChecked());
        storey->setChecked(false);
        picture->showAll();
        QVERIFY(picture->grab().toImage() == plain);
        QTemporaryDir folder;
        const auto pages = writeWiringPdf(doc().build(), doc().figures().wires->harness, folder.filePath("w.pdf"));
        QVERIFY(pages && *pages > 1);
    }

    void theFinishMenuMakesAndUnmakesOne() {
        w->go("chassis");
        settleSteady();
        const auto toggle = [&] {
            for (QMenu* menu : w->findChildren<QMenu*>())
                for (QAction* a : menu->actions())
                    if (a->text().contains("second chassis")) return a->trigger(), true;
            return false;
        };
        station()->showSolid(true);
        auto* finish = child<QPushButton>("finish");
        Q_EMIT finish->menu()->aboutToShow();
        QVERIFY(toggle());
        QVERIFY(chassis::isTower(doc().build().chassis));
        QCOMPARE(part("p-inlet").face, Face::LowerBack);
        Q_EMIT finish->menu()->aboutToShow();
        QVERIFY(toggle());
        QVERIFY(!chassis::isTower(doc().build().chassis));
        doc().undoStack().undo();
        QVERIFY(chassis::isTower(doc().build().chassis));
        doc().undoStack().undo();
    }
};

EMBER_TESTS(TestTowerWindow)
#include "test_tower_window.moc"
