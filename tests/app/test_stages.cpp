// The Stages station as a builder uses it: values where they stand, stages inserted, exchanged, moved and taken away.
#include "../support/parts.h"
#include "../support/suite.h"
#include "../support/window_test.h"

#include "app/stations/find_value_dialog.h"
#include "app/stations/stages/path_picture.h"
#include "app/stations/stages/stages_station.h"
#include "app/stations/stages/valve_dialog.h"
#include "app/widgets/quantity_field.h"
#include "app/widgets/words.h"
#include "core/build/starts.h"
#include "core/quantity/letters.h"
#include "core/schematic/path_schematic.h"

#include <QComboBox>
#include <QFileInfo>
#include <QLineEdit>
#include <QMenu>
#include <QProcess>
#include <QPushButton>
#include <QRegularExpression>
#include <QScrollArea>
#include <QTableWidget>
#include <QTemporaryDir>
#include <QWheelEvent>

#include <cmath>

using namespace ember;
using namespace ember::app;

class TestStages : public WindowTest {
    Q_OBJECT
    StagesStation& station() {
        w->go("stages");
        return *w->station<StagesStation>();
    }
    const std::vector<Stage>& path(std::size_t channel = 0) { return doc().build().channels[channel].stages; }
    /// The next menu takes the action with these words, in it or in a menu of it.
    void choose(const QString& words) {
        QTimer::singleShot(50, qApp, [this, words] {
            auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
            if (!menu) return choose(words);
            QList<QMenu*> open{menu};
            while (!open.isEmpty()) {
                QMenu* m = open.takeFirst();
                for (QAction* a : m->actions()) {
                    if (a->menu())
                        open << a->menu();
                    else if (a->text() == words) {
                        a->trigger();
                        return menu->close(), void();
                    }
                }
            }
            qWarning("no entry %s", qPrintable(words));
            menu->close();
        });
    }

  private Q_SLOTS:
    void everyPartOfThePathHasItsValueWhereItStands() {
        w->go("stages");
        for (std::size_t s = 0; s < path().size(); ++s)
            for (std::size_t p = 0; p < path()[s].parts.size(); ++p) {
                if (std::holds_alternative<AdjusterPart>(path()[s].parts[p].part))
                    continue; // those are the Bias station's
                const auto name =
                    QString("/channels/0/stages/%1/parts/%2/%3").arg(s).arg(p).arg(mainKey(path()[s].parts[p].part));
                auto* field = child<QuantityField>(name);
                QVERIFY2(field && field->isVisible(), qPrintable(name));
                // Nothing overlaps: no two values share a place.
                for (auto* other : station().picture()->findChildren<QuantityField*>())
                    if (other != field && other->isVisible())
                        QVERIFY2(!other->geometry().intersects(field->geometry()),
                                 qPrintable(name + " lies over " + other->objectName()));
            }
    }

    void aValueIsTypedAndTheFigureFollows() {
        w->go("stages");
        const double before = pointOf(doc().build(), *doc().figures().nominal, "v2").plate;
        auto* plate = child<QuantityField>("/channels/0/stages/0/parts/1/resistance");
        type(plate, "150k");
        QCOMPARE(ohmsOf(const_cast<Build&>(doc().build()), "r10"), 150e3);
        waitForFigures();
        QVERIFY(pointOf(doc().build(), *doc().figures().nominal, "v2").plate > before + 5);
        doc().undoStack().undo();
        QCOMPARE(ohmsOf(const_cast<Build&>(doc().build()), "r10"), 270e3);
    }

    void aChannelThatFollowsTakesTheEditOver() {
        w->go("stages");
        child<QComboBox>("stagesChannel")->setCurrentIndex(1);
        QCOMPARE(doc().build().channels[1].follows, std::string("left"));
        child<QPushButton>("follow")->click();
        QVERIFY(doc().build().channels[1].follows.empty());
        child<QPushButton>("follow")->click();
        QCOMPARE(doc().build().channels[1].follows, std::string("left"));
        child<QComboBox>("stagesChannel")->setCurrentIndex(0);
        type(child<QuantityField>("/channels/0/stages/0/parts/2/resistance"), "2k2");
        QCOMPARE(ohmsOf(const_cast<Build&>(doc().build()), "r31"), 2200.0);
        doc().undoStack().undo();
        QCOMPARE(ohmsOf(const_cast<Build&>(doc().build()), "r31"), 1800.0);
        // One part set apart by hand stays apart.
        QVERIFY(doc().edit(setValue("apart", "/channels/1/stages/0/parts/2/resistance", 1500)).ok());
        type(child<QuantityField>("/channels/0/stages/0/parts/2/resistance"), "2k2");
        QCOMPARE(ohmsOf(const_cast<Build&>(doc().build()), "r31"), 1500.0);
    }

    void aStageIsInsertedAndTakenAwayAgain() {
        const std::string before = toText(doc().build());
        station().picture()->select(0);
        choose("cathode follower");
        QTest::keyClick(&station(), Qt::Key_I);
        QCOMPARE(path().size(), std::size_t(5));
        QCOMPARE(path(1).size(), std::size_t(5));
        QCOMPARE(path()[1].kind, std::string("follower"));
        QVERIFY(!path()[1].valves.empty() && bottleOf(doc().build(), path()[1].valves[0].bottle));
        waitForFigures();
        QVERIFY(doc().figures().nominal.has_value());
        station().picture()->select(1);
        QTest::keyClick(&station(), Qt::Key_Delete, Qt::ControlModifier);
        QCOMPARE(path().size(), std::size_t(4));
        QCOMPARE(doc().build().bottles.size(), std::size_t(6));
        QCOMPARE(toText(doc().build()), before);
    }

    void aSplitterIsExchangedForAnother() {
        station().picture()->select(1);
        choose("long-tailed pair");
        child<QPushButton>("changeStage")->click();
        QCOMPARE(path()[1].kind, std::string("long-tailed pair"));
        QCOMPARE(path()[1].valves.size(), std::size_t(2));
        waitForFigures();
        QVERIFY(doc().figures().nominal.has_value());
        doc().undoStack().undo();
        QCOMPARE(path()[1].kind, std::string("split load"));
    }

    void stagesMoveByKeys() {
        station().picture()->select(0);
        QTest::keyClick(&station(), Qt::Key_Right);
        QCOMPARE(station().picture()->selected(), 1);
        QTest::keyClick(&station(), Qt::Key_Left, Qt::ControlModifier);
        QCOMPARE(path()[0].kind, std::string("split load"));
        QVERIFY2(child<QLabel>("stagesPower"), "it is still there while the path makes no sense");
        WAIT_FOR(std::any_of(doc().findings().begin(), doc().findings().end(),
                             [](const auto& f) { return f.station == "stages"; }));
    }

    void partsAreAddedAndTakenAway() {
        station().picture()->select(0);
        choose("Add stopper");
        child<QPushButton>("changePart")->click();
        QVERIFY(path()[0].part("stopper"));
        const auto& stopper = *path()[0].part("stopper");
        const auto name = QString("/channels/0/stages/0/parts/%1/resistance").arg(&stopper - path()[0].parts.data());
        child<QuantityField>(name)->setFocus();
        QTest::keyClick(child<QuantityField>(name), Qt::Key_Escape);
        choose(QString::fromStdString(ember::upper(idOf(stopper.part))) + "  stopper ");
        child<QPushButton>("changePart")->click();
        QVERIFY(!path()[0].part("stopper"));
    }

    /// Keys that mean something to the path mean nothing to it while a value is being typed.
    void keysInAFieldStayInTheField() {
        station().picture()->select(0);
        auto* plate = child<QuantityField>("/channels/0/stages/0/parts/1/resistance");
        type(plate, "220k");
        QCOMPARE(ohmsOf(const_cast<Build&>(doc().build()), "r10"), 220e3);
        QVERIFY(!QApplication::activePopupWidget());
        plate->setFocus();
        QTest::keyClick(plate, Qt::Key_Return); // nothing typed since
        QVERIFY(!QApplication::activePopupWidget());
        QTest::keyClick(plate, Qt::Key_Right);
        QCOMPARE(station().picture()->selected(), 0);
        type(plate, "many");
        QVERIFY2(!QApplication::activePopupWidget(), "a refused value opens nothing either");
        QCOMPARE(ohmsOf(const_cast<Build&>(doc().build()), "r10"), 220e3);
        QTest::keyClick(plate, Qt::Key_Escape);
    }

    void thePictureIsEnlargedByKeys() {
        station().picture()->select(0);
        const double before = station().picture()->zoom();
        const int wide = station().picture()->minimumWidth();
        QTest::keyClick(&station(), Qt::Key_Plus, Qt::ControlModifier);
        QVERIFY(station().picture()->zoom() > before);
        QVERIFY(station().picture()->minimumWidth() > wide);
        QTest::keyClick(&station(), Qt::Key_Minus, Qt::ControlModifier);
        QVERIFY(std::abs(station().picture()->zoom() - before) < 1e-9);
    }

    /// The whole drawing at a glance, to be read; near enough its values are entry fields again.
    void theWholePathIsSeenAtOnce() {
        PathPicture& picture = *station().picture();
        const auto* area = station().findChild<QScrollArea*>("pathScroll");
        const double before = picture.zoom();
        QTest::keyClick(&station(), Qt::Key_0, Qt::ControlModifier);
        QVERIFY(picture.minimumWidth() <= area->viewport()->width());
        QVERIFY(picture.minimumHeight() <= area->viewport()->height());
        QVERIFY(picture.zoom() < PathPicture::writing);
        for (const auto* field : picture.findChildren<QuantityField*>()) QVERIFY(!field->isVisible());
        // The wheel brings what is under the mouse nearer.
        const QPointF at(100, 100);
        for (int k = 0; k < 12; ++k) {
            QWheelEvent nearer(at, picture.mapToGlobal(at), {}, {0, 120}, Qt::NoButton, Qt::NoModifier,
                               Qt::NoScrollPhase, false);
            QApplication::sendEvent(&picture, &nearer);
        }
        QVERIFY(picture.zoom() > PathPicture::writing);
        bool written = false;
        for (const auto* field : picture.findChildren<QuantityField*>()) written = written || field->isVisible();
        QVERIFY(written);
        picture.setZoom(before);
    }
    /// A click on what stands beneath the path chooses the stage that it belongs to.
    void feedbackIsChosenWhereItIsDrawn() {
        PathPicture& picture = *station().picture();
        picture.select(0);
        const auto& stages = doc().build().channels[picture.channel()].stages;
        for (std::size_t k = 0; k < stages.size(); ++k)
            if (stages[k].kind == "feedback") {
                const QPoint middle = picture.stageRect(static_cast<int>(k)).center();
                QTest::mouseClick(&picture, Qt::LeftButton, {}, middle);
                QCOMPARE(picture.selected(), static_cast<int>(k));
                return;
            }
        QFAIL("the demo has a feedback");
    }

    /// The drawing on paper, read by another program: a page that is large enough, with values and volts in words.
    void theDrawingIsPrinted() {
        QTemporaryDir folder;
        const QString pdf = folder.filePath("left.pdf"), svg = folder.filePath("left.svg");
        doc().waitForSolve();
        QVERIFY(station().writeDrawing(pdf).ok() && station().writeDrawing(svg).ok());
        QProcess reader;
        reader.start("pdftotext", {"-layout", pdf, "-"});
        QVERIFY(reader.waitForFinished(-1) && reader.exitCode() == 0);
        const QString words = QString::fromUtf8(reader.readAllStandardOutput());
        for (const char* each : {"R10", "270 kΩ", "V2.1", "EL84", "B+3", "Left input"})
            QVERIFY2(words.contains(each), qPrintable(words));
        QVERIFY2(words.contains(QRegularExpression("2[34][0-9] V")), qPrintable(words)); // of B+3
        reader.start("pdfinfo", {pdf});
        QVERIFY(reader.waitForFinished(-1));
        QVERIFY(QString::fromUtf8(reader.readAllStandardOutput()).contains(QRegularExpression("Pages: +1\n")));
        QVERIFY(!station().writeDrawing("/nowhere/left.pdf").ok());
        QVERIFY(QFileInfo(svg).size() > 5000);
    }

    void aValveIsFoundAndChanged() {
        station().picture()->select(2);
        QTimer::singleShot(50, qApp, [] {
            auto* dialog = qobject_cast<ValveDialog*>(QApplication::activeModalWidget());
            if (!dialog) return;
            auto* search = dialog->findChild<QLineEdit*>("valveSearch");
            QTest::keyClicks(search, "6l6gc");
            QTest::keyClick(search, Qt::Key_Return);
        });
        QTest::keyClick(&station(), Qt::Key_V);
        for (const char* id : {"v3", "v4"}) QCOMPARE(bottleOf(doc().build(), id)->type, std::string("6L6GC"));
        QCOMPARE(bottleOf(doc().build(), "v6")->type, std::string("6L6GC")); // the other channel follows
        QCOMPARE(bottleOf(doc().build(), "v2")->type, std::string("ECC85"));
    }

    /// What no stage brings is drawn and edited too: a channel's own loose parts, not the other's.
    void looseOnesAreDrawn() {
        const auto fields = station().picture()->findChildren<QuantityField*>();
        const auto named = [&](const char* name) {
            return std::count_if(fields.begin(), fields.end(), [&](QuantityField* f) {
                return f->accessibleName() == QString("%1, loose part").arg(name);
            });
        };
        QCOMPARE(named("R45"), 1);
        QCOMPARE(named("C23"), 1);
        QCOMPARE(named("R46"), 0);
        for (QuantityField* f : fields)
            if (f->accessibleName() == "R45, loose part") type(f, "5k6");
        QCOMPARE(mainValue(doc().build().loose[0].part), 5600.0);
    }

    void aValueIsFoundForAFigureOfAStage() {
        waitForFigures();
        auto* dialog = station().findValue();
        const auto pick = [&](const char* box, const QString& words) {
            auto* c = dialog->findChild<QComboBox*>(box);
            for (int k = 0; k < c->count(); ++k)
                if (c->itemText(k).startsWith(words)) return c->setCurrentIndex(k);
            QFAIL(qPrintable(words));
        };
        const auto& point = doc().figures().nominal->channels[0].valves[0];
        pick("soughtFigure", tag(doc().build().bottles[point.bottle].id) + " section 1 plate current");
        const double wanted = 0.9 * point.plateAmps;
        const StagePart* cathode = doc().build().channels[0].stages[point.stage].part("cathode");
        QVERIFY(cathode);
        pick("soughtPart", tag(idOf(cathode->part)) + ",");
        const double before = mainValue(cathode->part);
        type(dialog->findChild<QLineEdit*>("wantedFigure"), QString::number(1e3 * wanted) + " mA");
        WAIT_FOR(!dialog->searching());
        auto* use = dialog->findChild<QPushButton*>("useAbove");
        WAIT_FOR2(use->isEnabled(), qPrintable(dialog->findChild<QLabel*>("valueFound")->text()));
        use->click();
        QVERIFY(mainValue(doc().build().channels[0].stages[point.stage].part("cathode")->part) > before);
        // The other channel follows.
        QCOMPARE(mainValue(doc().build().channels[1].stages[point.stage].part("cathode")->part),
                 mainValue(doc().build().channels[0].stages[point.stage].part("cathode")->part));
        // Nonsense is answered, and nothing is lost by it.
        dialog->findChild<QComboBox*>("soughtFigure")->setCurrentText("loudness");
        dialog->findChild<QPushButton*>("findIt")->click();
        QVERIFY(dialog->findChild<QLabel*>("valueFound")->text().contains("loudness"));
        dialog->close();
    }

    void feedbackIsTakenFromATapOfItsOwn() {
        station();
        const auto& stages = doc().build().channels[0].stages;
        for (std::size_t k = 0; k < stages.size(); ++k)
            if (schematic::dutyOf(stages[k]) == schematic::Duty::Output)
                station().picture()->select(static_cast<int>(k));
        choose("Add 16 \u03A9");
        child<QPushButton>("changePart")->click();
        const auto c = schematic::channelSchematic(doc().build(), Catalogue::shipped(), 1); // it follows
        QVERIFY(std::any_of(c.points.begin(), c.points.end(),
                            [](const auto& p) { return p.first.find("16 \u03A9 tap") != std::string::npos; }));
        QVERIFY(schematic::pathProblems(doc().build(), Catalogue::shipped()).empty());
    }

    /// The sheet beside the list shows the type that is marked: limits, model's error, unlike sections by name.
    void aTypesSheetSaysItsLimits() {
        ValveDialog dialog(doc(), "ECL86", nullptr);
        auto* words = dialog.findChild<QLabel*>("valveFigures");
        auto* section = dialog.findChild<QComboBox*>("valveSection");
        QCOMPARE(section->count(), 2);
        QCOMPARE(section->itemText(1), QString("pentode"));
        section->setCurrentIndex(1);
        QVERIFY2(words->text().contains("9.00 W") && words->text().contains("Screen 250 V"), qPrintable(words->text()));
        auto* search = dialog.findChild<QLineEdit*>("valveSearch");
        auto* table = dialog.findChild<QTableWidget*>("valveTable");
        const int all = table->rowCount();
        QVERIFY(all >= 90);
        QTest::keyClicks(search, "octal");
        QVERIFY(table->rowCount() > 10 && table->rowCount() < all);
        search->clear();
        QTest::keyClicks(search, "71a"); // no watts are published for it
        QVERIFY2(words->text().contains("none published"), qPrintable(words->text()));
    }

    void theChartShowsEveryPin() {
        station().showChart(true);
        auto* table = child<QTableWidget>("voltageChart");
        WAIT_FOR(table->rowCount() >= 30);
        bool found = false;
        for (int row = 0; row < table->rowCount(); ++row)
            found = found || (table->item(row, 0)->text() == "V3" && table->item(row, 1)->text() == "7" &&
                              table->item(row, 2)->text() == "plate" && table->item(row, 4)->text().contains("V"));
        QVERIFY(found);
    }

    void everyStartIsDrawnWithoutOverlap_data() {
        QTest::addColumn<QString>("id");
        for (const Start& s : starts()) QTest::newRow(s.id.c_str()) << QString::fromStdString(s.id);
    }
    void everyStartIsDrawnWithoutOverlap() {
        QFETCH(QString, id);
        doc().setBuild(begunFrom(*startOf(id.toStdString())), {});
        waitForFigures();
        const auto fields = station().picture()->findChildren<QuantityField*>();
        for (auto* a : fields)
            for (auto* b : fields)
                if (a != b && a->isVisible() && b->isVisible())
                    QVERIFY2(!a->geometry().intersects(b->geometry()),
                             qPrintable(a->accessibleName() + " lies over " + b->accessibleName()));
    }
};

EMBER_TESTS(TestStages)
#include "test_stages.moc"
