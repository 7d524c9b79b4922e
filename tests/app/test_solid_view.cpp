// The finished amplifier in the Chassis station: turned, painted, written.

#include "../support/chassis_test.h"
#include "../support/suite.h"

#include "app/stations/chassis/solid_view.h"

#include <QMenu>
#include <QMouseEvent>
#include <QPushButton>
#include <QTest>

#include <cmath>

using namespace ember;
using namespace ember::app;

class TestSolidView : public ChassisTest {
    Q_OBJECT
  private Q_SLOTS:
    /// The finished amplifier is turned with mouse and keys, painted from its menu, and written as a picture.
    void theSolidPictureIsTurnedAndPainted() {
        w->go("chassis");
        settleSteady();
        QTest::mouseClick(child<QPushButton>("solid"), Qt::LeftButton);
        auto* view = child<SolidView>("solidView");
        QVERIFY(view->isVisible() && !plate()->isVisible());
        const double azimuth = view->view().azimuth;
        QTest::mousePress(view, Qt::LeftButton, {}, {200, 150});
        QMouseEvent move(QEvent::MouseMove, QPointF(260, 150), view->mapToGlobal(QPointF(260, 150)), Qt::NoButton,
                         Qt::LeftButton, {});
        QCoreApplication::sendEvent(view, &move);
        QTest::mouseRelease(view, Qt::LeftButton, {}, {260, 150});
        QVERIFY(std::abs(view->view().azimuth - azimuth + 24) < 0.5);
        QTest::keyClick(view, Qt::Key_3);
        QVERIFY(view->view().elevation > 80);
        for (int k = 0; k < 40; ++k) QTest::keyClick(view, Qt::Key_Up);
        QVERIFY(view->view().elevation < 90); // never over the top
        QTest::keyClick(view, Qt::Key_1);
        const QImage bare = view->grab().toImage();
        child<QPushButton>("evening")->click();
        const QImage evening = view->grab().toImage();
        const QPoint on(view->width() / 2, view->height() / 2 + 20);
        QVERIFY(evening.pixelColor(on).lightness() < bare.pixelColor(on).lightness());
        QTest::keyClick(view, Qt::Key_E); // the key and the button agree
        QVERIFY(!child<QPushButton>("evening")->isChecked());
        auto* menu = child<QPushButton>("finish")->menu();
        Q_EMIT menu->aboutToShow();
        for (QAction* group : menu->actions())
            for (QAction* a : group->menu()->actions())
                if (group->text() == "plate" && a->text() == "black") a->trigger();
        QCOMPARE(doc().build().chassis.plateFinish, PlateFinish::Black);
        QVERIFY(doc().undoStack().undoText().contains("plate black"));
        QVERIFY(view->grab().toImage() != bare);
        auto* panel = qobject_cast<SolidPanel*>(view->parentWidget());
        QVERIFY(panel && panel->exportTo(dir.filePath("x.png")).ok());
        QCOMPARE(QImage(dir.filePath("x.png")).size(), QSize(2560, 1600));
        QVERIFY(!panel->exportTo("/nowhere/x.png").ok());
        settleSteady();
        QVERIFY(child<QLabel>("proportions")->text().contains("under iron"));
        QTest::mouseClick(child<QPushButton>("face-above"), Qt::LeftButton);
        QVERIFY(plate()->isVisible());
    }

    /// Two variants side by side: what it was stays as it was while a finish is changed, both turn together, and both
    /// go into one picture.
    void twoVariantsStandSideBySide() {
        w->go("chassis");
        settleSteady();
        station()->showSolid(true);
        auto *view = child<SolidView>("solidView"), *beside = child<SolidView>("solidBeside");
        QVERIFY(!beside->isVisible());
        auto* menu = child<QPushButton>("beside")->menu();
        Q_EMIT menu->aboutToShow();
        menu->actions().first()->trigger();
        QVERIFY(beside->isVisible());
        WAIT_FOR(view->sharp() && beside->sharp());
        const QImage before = beside->picture({320, 240});
        QCOMPARE(view->picture({320, 240}), before);
        QVERIFY(doc().edit(setText("green", "/chassis/plateFinish", "green")).ok());
        QVERIFY(view->picture({320, 240}) != before);
        QCOMPARE(beside->picture({320, 240}), before);
        QTest::keyClick(view, Qt::Key_Left);
        QCOMPARE(beside->view().azimuth, view->view().azimuth);
        QTest::keyClick(beside, Qt::Key_3);
        QCOMPARE(view->view().elevation, beside->view().elevation);
        QVERIFY(qobject_cast<SolidPanel*>(view->parentWidget())->exportTo(dir.filePath("two.png")).ok());
        QCOMPARE(QImage(dir.filePath("two.png")).size(), QSize(3200, 1200));
        Q_EMIT menu->aboutToShow();
        menu->actions().last()->trigger();
        QVERIFY(!beside->isVisible());
        doc().undoStack().undo();
        station()->showSolid(false);
    }

    /// A part that is moved on the plate is moved in the picture too; undone, the picture is what it was.
    void thePictureFollowsThePlate() {
        w->go("chassis");
        settleSteady();
        station()->showSolid(true);
        auto* view = child<SolidView>("solidView");
        view->look(2);
        WAIT_FOR(view->sharp()); // it is drawn coarser while it changes
        const QImage before = view->grab().toImage();
        QVERIFY(doc().edit(setValue("moved", fmt::format("/chassis/parts/{}/x", indexOf("p-pt1")), 0.2)).ok());
        QVERIFY(view->grab().toImage() != before);
        doc().undoStack().undo();
        settleSteady();
        WAIT_FOR(view->sharp() && view->grab().toImage() == before);
        station()->showSolid(false);
    }
};

EMBER_TESTS(TestSolidView)
#include "test_solid_view.moc"
