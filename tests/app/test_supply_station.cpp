// The supply driven as a builder would: sections by keys and menu, curves read and written, figures pinned and spread,
// values asked for.

#include "../support/window_test.h"

#include "app/stations/supply/source_dialog.h"
#include "app/stations/supply/supply_panel.h"
#include "app/stations/supply/supply_station.h"
#include "app/stations/supply/wish_dialog.h"
#include "app/widgets/figure_list.h"
#include "app/widgets/quantity_field.h"
#include "app/window/log_line.h"
#include "core/build/chain_edits.h"

#include <QComboBox>
#include <QContextMenuEvent>
#include <QFile>
#include <QImage>
#include <QMenu>
#include <QPushButton>
#include <QRegularExpression>

#include <cmath>

using namespace ember;
using namespace ember::app;

class TestSupplyStation : public WindowTest {
    Q_OBJECT
    SupplyStation* station() { return w->station<SupplyStation>(); }
    FallView* fall() { return station()->fallView(); }
    QuantityField* field(const QString& pointer) {
        QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete); // of the chain before the last change
        return w->findChild<QuantityField*>(pointer);
    }
    const Supply& supply() { return doc().build().supply; }
    QString figures() { return child<FigureList>("supplyFigures")->text(); }
    /// The next menu that opens is answered with the entry that holds `words`.
    void choose(const QString& words) {
        QTimer::singleShot(30, qApp, [this, words] {
            auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
            if (!menu) return choose(words);
            for (QAction* a : menu->actions())
                if (a->text().contains(words)) {
                    menu->close();
                    return a->trigger();
                }
            menu->close();
            QFAIL("no such entry");
        });
    }
    QByteArray written(const QString& name) {
        QFile f(dir.filePath(name));
        return f.open(QIODevice::ReadOnly) ? f.readAll() : QByteArray();
    }

  private Q_SLOTS:
    void insertPutsASectionBehindTheFocusedOne() {
        w->go("supply");
        field("/supply/sections/1/inductance")->setFocus();
        choose("resistor");
        QTest::keyClick(field("/supply/sections/1/inductance"), Qt::Key_Insert);
        QTRY_COMPARE(supply().sections.size(), std::size_t(6));
        QVERIFY(supply().sections[2].kind == SectionKind::Resistor);
        QCOMPARE(doc().build().channels[0].plateNode, 3); // the plates stay with their capacitor
        doc().waitForFigures();
        QCOMPARE(doc().figures().nominal->nodes.size(), std::size_t(4));
        doc().undoStack().undo();
        QCOMPARE(supply().sections.size(), std::size_t(5));
        QCOMPARE(doc().build().channels[0].plateNode, 2);
    }

    void controlKeysMoveAndTakeAway() {
        w->go("supply");
        field("/supply/sections/1/inductance")->setFocus();
        QTest::keyClick(field("/supply/sections/1/inductance"), Qt::Key_Left, Qt::ControlModifier);
        QCOMPARE(supply().sections[0].id, std::string("l1"));
        QCOMPARE(supply().sections[1].id, std::string("c1"));
        QTRY_VERIFY(fall()->focused().has_value());
        QCOMPARE(*fall()->focused(), std::size_t(0)); // the focus goes with it
        QTest::keyClick(field("/supply/sections/0/inductance"), Qt::Key_Left, Qt::ControlModifier);
        QCOMPARE(supply().sections[0].id, std::string("l1")); // the chain begins here
        doc().undoStack().undo();
        field("/supply/sections/4/capacitance")->setFocus();
        QTest::keyClick(field("/supply/sections/4/capacitance"), Qt::Key_Delete, Qt::ControlModifier);
        QCOMPARE(supply().sections.size(), std::size_t(4)); // the small valves lose their capacitor: said, not refused
        settle();
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
            settle();
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
        settle();
        QVERIFY(field("/supply/sections/1/inductance")->toolTip().contains("no inductance"));
        QVERIFY(doc().figures().nominal->nodes[1].rippleRms > 0.5); // the other figures stay, with what that means
        type(field("/supply/sections/1/inductance"), "-3");
        QCOMPARE(supply().sections[1].inductance, 0.0); // refused with its range
        QVERIFY(w->logLine()->verdict().contains("H")); // the range it may have
        doc().undoStack().undo();
        settle();
        QVERIFY(!field("/supply/sections/1/inductance")->toolTip().contains("no inductance"));
    }

    void theFusesAreProposedWithTheirReasons() {
        w->go("supply");
        doc().waitForFigures();
        auto* words = child<QLabel>("fuseAdvice");
        settle();
        QTRY_VERIFY(words->text().contains("RMS"));
        QVERIFY(words->text().contains("from cold"));
        fall()->insert(1, SectionKind::Fuse);
        settle();
        QTRY_COMPARE(words->text().count("RMS"), 2); // the one in the chain too
    }

    void withoutAComparisonEachFigureSaysWhatTheWindingLeavesOpen() {
        w->go("supply");
        settle();
        QTRY_VERIFY(figures().contains(QChar(0xb1)));
        const double open = doc().figures().within.at("b1.mean");
        QVERIFY(
            doc().edit(setValue("", "/transformer/voltsTolerance", 2 * doc().build().transformer.voltsTolerance)).ok());
        settle();
        QVERIFY(doc().figures().within.at("b1.mean") > 1.7 * open);
    }

    void aLongChainScrollsInsteadOfSqueezing() {
        w->go("supply");
        for (int k = 0; k < 10; ++k) fall()->insert(supply().sections.size(), SectionKind::Resistor);
        settle();
        QVERIFY(doc().figures().nominal.has_value());
        QCOMPARE(doc().figures().nominal->nodes.size(), std::size_t(13));
        QVERIFY(fall()->minimumWidth() > 1200);
        QCOMPARE(w->width(), 1280); // the window keeps its size
    }

    void connectedAsADoublerItDoubles() {
        w->go("supply");
        doc().waitForFigures();
        const double before = doc().figures().cold->nodes[0].most;
        fall()->connectAs(Connection::Doubler);
        QCOMPARE(supply().sections[0].inSeries, 2);
        doc().waitForFigures();
        QVERIFY(doc().figures().cold.has_value());
        QVERIFY(doc().figures().cold->nodes[0].most > 1.8 * before);
        bool unshared = false;
        for (const auto& f : doc().findings()) unshared = unshared || f.id == "balancing/c1";
        QVERIFY(unshared);
    }

    void everyCurveIsShownAndRead() {
        w->go("supply");
        settle();
        QImage last;
        for (int k = 0; k < 8; ++k) {
            station()->showCurve(k);
            QTest::qWait(40);
            const QImage now = station()->curvesView()->grab().toImage();
            QVERIFY2(now != last, qPrintable(QString::number(k)));
            last = now;
            const double at = k == 0 ? 5 : k >= 6 ? 100 : 0.4;
            QVERIFY2(station()->curvesView()->readAt(at).contains("B+1"),
                     qPrintable(station()->curvesView()->readAt(at)));
        }
        station()->showCurve(1);
        QVERIFY(station()->curvesView()->readAt(1e9).isEmpty());
        // Late in the switch-on it reads what the steady state says.
        const QString late = station()->curvesView()->readAt(29.5);
        const auto match = QRegularExpression("B\\+1 ([0-9.]+) V").match(late);
        QVERIFY(match.hasMatch());
        QVERIFY(std::abs(match.captured(1).toDouble() / doc().figures().nominal->nodes[0].mean - 1) < 0.02);
    }

    void arrowsMoveTheCursor() {
        w->go("supply");
        settle();
        auto* plot = child<QWidget>("supplyPlot");
        plot->setFocus();
        QTest::keyClick(plot, Qt::Key_Right);
        const QString first = child<QLabel>("curveReading")->text();
        QVERIFY(first.contains("B+1"));
        for (int k = 0; k < 8; ++k) QTest::keyClick(plot, Qt::Key_Right);
        QVERIFY(child<QLabel>("curveReading")->text() != first);
    }

    void aMarkReadsHowFarTheNodeSagged() {
        w->go("supply");
        station()->showCurve(4); // the bass note
        settle();
        auto* plot = child<QWidget>("supplyPlot");
        const auto reading = [&] { return child<QLabel>("curveReading")->text(); };
        plot->setFocus();
        QTest::keyClick(plot, Qt::Key_Left); // a cursor to mark
        QTest::keyClick(plot, Qt::Key_Space);
        QTest::keyClick(plot, Qt::Key_Right);
        QVERIFY2(reading().startsWith("from the mark +"), qPrintable(reading()));
        QVERIFY(reading().contains(QRegularExpression("B\\+2 [-+]")));
        // By hand: at rest before the note, and near its end.
        const auto& c = doc().figures().burst;
        const auto at = [&](double t) {
            const auto k = std::lower_bound(c.seconds.begin(), c.seconds.end(), t) - c.seconds.begin();
            return c.nodes[1][static_cast<std::size_t>(k)];
        };
        QVERIFY(at(0.65) < at(0.15) - 10);
        const auto said =
            QRegularExpression("B\\+2 (-[0-9.]+) V").match(station()->curvesView()->readBetween(0.15, 0.65));
        QVERIFY(said.hasMatch());
        QVERIFY(std::abs(said.captured(1).toDouble() - (at(0.65) - at(0.15))) < 0.5);
        QTest::keyClick(plot, Qt::Key_Escape);
        QVERIFY(!reading().contains("mark"));
        QTest::keyClick(plot, Qt::Key_Space);
        station()->showCurve(1); // another picture has no mark
        QTest::keyClick(plot, Qt::Key_Right);
        QVERIFY(!reading().contains("mark"));
    }

    void curvesAndCircuitAreWritten() {
        w->go("supply");
        settle();
        station()->showCurve(4);
        for (const char* name : {"a.png", "a.svg", "a.csv", "a.cir"})
            QVERIFY2(station()->exportTo(dir.filePath(name)).ok(), name);
        QVERIFY(QImage(dir.filePath("a.png")).width() > 500);
        QVERIFY(written("a.svg").contains("<svg"));
        const QList<QByteArray> rows = written("a.csv").split('\n');
        QVERIFY(rows[0].contains("B+1 s,B+1 V"));
        QVERIFY(rows.size() > 1000);
        for (const QByteArray& cell : rows[500].split(',')) {
            bool number = cell.isEmpty();
            if (!number) cell.toDouble(&number);
            QVERIFY2(number, cell.constData());
        }
        QVERIFY(written("a.cir").startsWith("* Larkfield"));
        QVERIFY(!station()->exportTo(dir.filePath("a.doc")).ok());
        QVERIFY(!station()->exportTo(dir.filePath("none/a.csv")).ok());
    }

    void pinnedFiguresShowWhatAChangeDid() {
        w->go("supply");
        settle();
        child<QPushButton>("pinFigures")->click();
        QCOMPARE(station()->figuresPanel()->pinCount(), std::size_t(1));
        QVERIFY(!figures().contains("(")); // nothing has changed yet
        type(field("/supply/sections/3/resistance"), "10k");
        doc().waitForFigures();
        QTest::qWait(20);
        QVERIFY2(figures().contains(QRegularExpression("B\\+3 [0-9.]+ V \\(-")), qPrintable(figures()));
        for (int k = 0; k < 6; ++k) station()->figuresPanel()->pin(QString::number(k));
        QCOMPARE(station()->figuresPanel()->pinCount(), SupplyPanel::mostPins);
        QVERIFY(!child<QPushButton>("pinFigures")->isEnabled());
        child<QPushButton>("unpinFigures")->click();
        QCOMPARE(station()->figuresPanel()->pinCount(), SupplyPanel::mostPins - 1);
        w->openDemo(); // pins are of the build they came from
        QCOMPARE(station()->figuresPanel()->pinCount(), std::size_t(0));
    }

    void pinnedCurvesStandWhileTheNewOnesAreComputed() {
        w->go("supply");
        settle();
        child<QPushButton>("pinFigures")->click();
        type(field("/supply/sections/3/resistance"), "8k2");
        doc().waitForFigures(); // the steady ones: the curves take longer
        QVERIFY(doc().figures().switchOn.seconds.empty());
        for (int kind = 0; kind <= SupplyStation::biasPicture; ++kind) {
            station()->showCurve(kind);
            QCoreApplication::processEvents();
        }
        station()->showCurve(1);
        bool said = false;
        for (const QLabel* l : station()->curvesView()->findChildren<QLabel*>())
            said = said || l->text() == "computing ...";
        QVERIFY(said || !doc().figures().switchOn.seconds.empty());
        settle();
        QVERIFY(!doc().figures().switchOn.seconds.empty());
    }

    void aThousandBuildsSpreadAndASpreadCanBeStopped() {
        w->go("supply");
        settle();
        auto* panel = station()->figuresPanel();
        child<QPushButton>("spreadFigures")->click();
        QVERIFY(panel->spreading());
        QTRY_VERIFY_WITH_TIMEOUT(!panel->spreading(), 120'000);
        QTRY_VERIFY2(figures().contains(".."), qPrintable(figures()));
        auto* choice = child<QComboBox>("comparedWith");
        QVERIFY(choice->currentText().contains("builds"));
        // The middle of the builds, near what the plan says, and between the ends beside it.
        const QRegularExpression line("B\\+1 ([0-9.]+) V \\(([0-9.]+)\\.\\.([0-9.]+)\\)");
        const auto b1 = line.match(figures());
        QVERIFY2(b1.hasMatch(), qPrintable(figures()));
        const double middle = b1.captured(1).toDouble();
        QVERIFY(b1.captured(2).toDouble() < middle && middle < b1.captured(3).toDouble());
        QVERIFY(std::abs(middle / doc().figures().nominal->nodes[0].mean - 1) < 0.03);
        type(field("/supply/sections/3/resistance"), "10k"); // of another build now: gone
        QVERIFY(!choice->currentText().contains("builds"));
        panel->spread();
        panel->stopSpread();
        QTRY_VERIFY_WITH_TIMEOUT(!panel->spreading(), 10'000);
        QVERIFY(!choice->currentText().contains("builds"));
    }

    void tabGoesAlongTheFall() {
        w->go("supply");
        settle();
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
        QVERIFY(slow());
        QTimer::singleShot(30, qApp, [] {
            auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
            if (!menu) return;
            for (QAction* a : menu->actions())
                if (a->menu() && a->text() == "At B+1")
                    for (QAction* hang : a->menu()->actions())
                        if (hang->text().contains("bleeder")) hang->trigger();
            menu->close();
        });
        const QPoint place = field("/supply/sections/0/capacitance")->geometry().center();
        QContextMenuEvent e(QContextMenuEvent::Keyboard, place, fall()->mapToGlobal(place));
        QApplication::sendEvent(fall(), &e);
        QTRY_COMPARE(supply().bleeders.size(), std::size_t(1));
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
            QTimer::singleShot(30, qApp, [&r] {
                auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
                if (!menu) return;
                for (QAction* a : menu->actions())
                    if (a->menu() && a->text() == "Rectifier")
                        for (QAction* type : a->menu()->actions())
                            if (type->text() == QString::fromStdString(r.type)) type->trigger();
                menu->close();
            });
            const QPoint place = field("/supply/sections/0/capacitance")->geometry().center();
            QContextMenuEvent e(QContextMenuEvent::Keyboard, place, fall()->mapToGlobal(place));
            QApplication::sendEvent(fall(), &e);
            QTRY_VERIFY2(Catalogue::shipped().rectifier(supply().rectifier.type) == &r, r.type.c_str());
        }
        doc().waitForFigures();
        QVERIFY(doc().figures().nominal.has_value());
        QVERIFY(!fall()->grab().isNull()); // silicon is drawn as such
    }

    void aTapGetsAValveByItsMenu() {
        w->go("supply");
        fall()->insert(supply().sections.size(), SectionKind::Tap);
        const std::size_t at = supply().sections.size() - 2;
        QVERIFY(supply().sections[at].kind == SectionKind::Tap);
        const QString pointer = QString("/supply/sections/%1/volts").arg(at);
        settle();
        // The menu at its field offers rectifiers for it.
        QTimer::singleShot(30, qApp, [] {
            auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
            if (!menu) return;
            for (QAction* a : menu->actions())
                if (a->menu() && a->text().contains("'s rectifier"))
                    for (QAction* type : a->menu()->actions())
                        if (type->text() == "5V4G") type->trigger();
            menu->close();
        });
        const QPoint place = field(pointer)->geometry().center();
        QContextMenuEvent e(QContextMenuEvent::Keyboard, place, fall()->mapToGlobal(place));
        QApplication::sendEvent(fall(), &e);
        QTRY_COMPARE(supply().sections[at].type, std::string("5V4G"));
        settle();
        // A valve wants a winding of its own: said at once, with the edit that adds it.
        const auto& all = doc().findings();
        const auto found =
            std::find_if(all.begin(), all.end(), [](const auto& f) { return f.id.starts_with("rectifier-winding/"); });
        QVERIFY(found != all.end() && found->fix);
        QVERIFY(doc().edit(*found->fix).ok());
        QCOMPARE(doc().build().transformer.heaters.back().feeds, supply().sections[at].id);
        settle();
        QVERIFY(doc().figures().nominal->heaters.size() >= 4);
        while (doc().undoStack().canUndo()) doc().undoStack().undo();
        QCOMPARE(supply().sections.size(), std::size_t(5));
    }

    void everyPartIsListedWhenAsked() {
        w->go("supply");
        settle();
        QVERIFY(!figures().contains("R1 heat"));
        child<QPushButton>("everyPart")->click();
        QVERIFY(figures().contains("R1 heat") && figures().contains("C1 ripple current"));
    }

    void aValueIsFoundAndUsed() {
        w->go("supply");
        settle();
        WishDialog* d = station()->showWishes();
        d->askFor(3);
        auto* wanted = d->findChild<QLineEdit*>("wishWanted");
        type(wanted, "240 V");
        QTRY_VERIFY_WITH_TIMEOUT(!d->searching(), 60'000);
        auto* answer = d->findChild<QLabel*>("wishAnswer");
        QTRY_VERIFY2(answer->text().contains("R1 would be"), qPrintable(answer->text()));
        d->findChild<QPushButton*>("wishUseAbove")->click();
        QVERIFY(supply().sections[3].resistance < 4700 && supply().sections[3].resistance > 1000);
        doc().waitForFigures();
        QVERIFY(std::abs(doc().figures().nominal->nodes[2].mean - 240) < 10);
        d->close();
    }

    void aWishThatCannotBeMetIsAnsweredInWords() {
        w->go("supply");
        settle();
        WishDialog* d = station()->showWishes();
        d->askFor(3);
        auto* wanted = d->findChild<QLineEdit*>("wishWanted");
        auto* answer = d->findChild<QLabel*>("wishAnswer");
        type(wanted, "nonsense");
        QVERIFY(!d->searching());
        QVERIFY(!answer->text().isEmpty());
        type(wanted, "900 V");
        QTRY_VERIFY_WITH_TIMEOUT(!d->searching(), 60'000);
        QTRY_VERIFY2(answer->text().contains("no value gives"), qPrintable(answer->text()));
        QVERIFY(!d->findChild<QPushButton*>("wishUseAbove")->isEnabled());
        d->close();
    }

    void whatIsInHandIsCombined() {
        w->go("supply");
        WishDialog* d = station()->showWishes();
        d->findChild<QLineEdit*>("handWanted")->setText("3k");
        d->findChild<QLineEdit*>("handLoad")->setText("1 W");
        d->findChild<QLineEdit*>("hand")->setText("2x 1k5 2W, 10k 2W");
        auto* out = d->findChild<QLabel*>("combinations");
        QVERIFY2(out->text().contains("1.50 kΩ + 1.50 kΩ"), qPrintable(out->text()));
        d->findChild<QLineEdit*>("hand")->setText("1k, wood");
        QVERIFY2(out->text().contains("wood"), qPrintable(out->text()));
        d->close();
    }

    void theWindingComesFromATestUnderLoad() {
        w->go("supply");
        settle();
        child<QPushButton>("sourceWanted")->click();
        auto* d = w->findChild<SourceDialog*>();
        QVERIFY(d && d->isVisible());
        d->findChild<QComboBox*>("sourceWay")->setCurrentIndex(2);
        const auto set = [&](int k, const char* words) {
            d->findChild<QLineEdit*>(QString("source-%1").arg(k))->setText(words);
        };
        set(0, "264 V");
        set(1, "230 V");
        set(2, "3k3");
        auto* found = d->findChild<QLabel*>("sourceFound");
        d->findChild<QPushButton*>("sourceAnswer")->click(); // the last one is missing
        QVERIFY2(found->text().contains("DC volts"), qPrintable(found->text()));
        QVERIFY(!d->findChild<QPushButton*>("sourceUse")->isEnabled());
        set(3, "900 V");
        d->findChild<QPushButton*>("sourceAnswer")->click();
        QVERIFY2(found->text().contains("cannot be"), qPrintable(found->text()));
        set(3, "290 V");
        d->findChild<QPushButton*>("sourceAnswer")->click();
        QVERIFY2(found->text().contains("A leg of 264"), qPrintable(found->text()));
        d->findChild<QPushButton*>("sourceUse")->click();
        QCOMPARE(doc().build().transformer.plateVolts, 264.0);
        QVERIFY(doc().build().transformer.plateResistance > 10);
        doc().undoStack().undo();
        d->close();
    }

    void anAbsurdChainSaysSoAndKeepsTheRest() {
        w->go("supply");
        settle();
        auto* c1 = field("/supply/sections/0/capacitance");
        for (const char* words : {"0", "-5u", "10 F"}) {
            type(c1, words);
            QVERIFY2(!c1->problem().isEmpty(), words);
            QTest::keyClick(c1, Qt::Key_Escape);
        }
        QCOMPARE(supply().sections[0].capacitance, 22e-6);
        QVERIFY(figures().contains("B+1 284"));
    }
};

QTEST_MAIN(TestSupplyStation)
#include "test_supply_station.moc"
