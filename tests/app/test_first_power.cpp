// First Power as a builder meets it: the clock, the plug out between steps, practice, parts that are changed
// afterwards.
#include "../support/power_test.h"
#include "../support/suite.h"

#include "app/stations/discharge_clock.h"
#include "app/stations/first_power_station.h"
#include "app/stations/underside/clips_view.h"
#include "app/stations/underside/underside_picture.h"
#include "app/widgets/share_bars.h"

#include <QLabel>
#include <QPushButton>

using namespace ember;
using namespace ember::app;

class TestFirstPower : public PowerTest {
    Q_OBJECT
  private Q_SLOTS:
    /// Beside every step: an open chassis is nobody else's business.
    void childrenAndVisitorsStayOutside() {
        atStage(3);
        bool said = false;
        for (const QLabel* l : w->findChildren<QLabel*>())
            said = said || (l->isVisible() && l->text().contains("Keep children, pets and visitors out"));
        QVERIFY(said);
    }
    /// Where the two leads go: on the chassis from below, and each end enlarged.
    void theClipsAreShown() {
        waitForFigures();
        atStage(4);
        auto* view = power()->findChild<ClipsView*>();
        QVERIFY(view && view->isVisible() && view->picture->isVisible());
        chooseRow("output-plate-v3");
        QCOMPARE(view->inWords(), QString("Black: C1 −. Red: V3 pin 7, plate."));
        chooseRow("held-c2");
        QVERIFY2(view->picture->zoom() > 1.5, "both clips fill the picture");
        chooseRow("B+2");
        QCOMPARE(view->inWords(), QString("Black: C1 −. Red: C2 +."));
        QTest::keyClick(power()->entry(), Qt::Key_0, Qt::ControlModifier);
        QCOMPARE(view->picture->zoom(), 1.0);
        // A plan without a chassis shows both ends all the same.
        Build bare = doc().build();
        bare.chassis.parts.clear();
        doc().setBuild(bare, {});
        waitForFigures();
        atStage(4);
        chooseRow("output-plate-v3");
        QVERIFY(!view->picture->isVisible());
        QCOMPARE(view->inWords(), QString("Black: C1 −. Red: V3 pin 7, plate."));
    }

    /// A wrong reading: what would explain it, and the reading that would tell most.
    void whatWouldExplainItAndWhatToReadNext() {
        atStage(4);
        auto* suspects = power()->sidePanel()->findChild<QWidget*>("suspects");
        QVERIFY(suspects && suspects->isHidden());
        chooseRow("sense-v3");
        type(power()->entry(), "0");
        WAIT_FOR(!suspects->isHidden());
        const QStringList causes = suspects->findChild<ShareBars*>()->inWords();
        QVERIFY2(causes.join("; ").contains("V3 is dead or its heater is open"), qPrintable(causes.join("; ")));
        const QString next = child<QLabel>("nextBest")->text();
        QVERIFY2(next.contains("<b>") && next.contains(" if "), qPrintable(next));
    }

    /// One clock for the window: no step, mains, build or station wipes it before the capacitors are down.
    void theDischargeClockCountsAndNothingWipesIt() {
        atStage(2);
        auto* words = power()->sidePanel()->findChild<DischargeClock*>();
        QVERIFY(words && words->text().contains("50 V at"));
        child<QPushButton>("switchedOff")->click();
        auto& watch = doc().dischargeWatch();
        QVERIFY(watch.running());
        QCOMPARE(last().kind, std::string("power"));
        auto* notice = w->findChild<QLabel*>("dischargeNotice");
        const auto counts = [&] {
            return notice->isVisible() && notice->text().contains("off for") && notice->text().contains("not proof") &&
                   !notice->text().contains("safe");
        };
        QVERIFY2(counts(), qPrintable(notice->text()));
        const double before = watch.volts();
        QVERIFY2(before > 300, "it begins at the highest volts");
        pass(5000);
        QVERIFY(watch.volts() < before);
        power()->showStage(1);
        doc().setMainsRead(236);
        for (const char* station : {"wiring", "bias", "measure", "stages"}) {
            w->go(station);
            QVERIFY2(counts(), station);
        }
        doc().setBuild(Build(doc().build()), {});
        QVERIFY2(counts(), "another build does not discharge this one");
        pass(3600 * 1000);
        QVERIFY(!watch.running() && !notice->isVisible());
    }

    /// What is read under power is not taken before every capacitor was read with the plug out; each switch-off asks
    /// again.
    void betweenStepsTheCapacitorsAreRead() {
        atStage(2, false);
        const auto size = doc().build().log.size();
        chooseRow("B+1");
        type(power()->entry(), "300");
        QCOMPARE(doc().build().log.size(), size);
        QVERIFY2(verdict().contains("with the plug out"), qPrintable(verdict()));
        const auto readAll = [&] {
            for (const auto& p : procedure::notYetDischarged(doc().build(), procedure::Strand::Amplifier)) {
                chooseRow(p.id);
                type(power()->entry(), "0.2");
            }
        };
        readAll();
        chooseRow("B+1");
        type(power()->entry(), "300");
        QCOMPARE(last().point, std::string("B+1"));
        child<QPushButton>("switchedOff")->click();
        QVERIFY(!procedure::notYetDischarged(doc().build(), procedure::Strand::Amplifier).empty());
    }

    void practiceProvesNothingAndSaysSo() {
        auto* notice = w->findChild<QLabel*>("practiceNotice");
        QVERIFY(!notice->isVisible());
        doc().startPractice(3, {});
        QVERIFY(notice->isVisible());
        atStage(0);
        chooseRow("earth");
        type(power()->entry(), "0.02");
        QCOMPARE(last().source, std::string("practice"));
        doc().stopPractice();
        QVERIFY(!notice->isVisible());
        QVERIFY(!procedure::lastReading(doc().build(), 0, "earth"));
    }

    /// A part changed in the plan after it was proved: said at the part, confirmed, and its steps are proved again.
    void aChangedPartIsProvedAgain() {
        for (int k = 0; k < 4; ++k)
            doc().log(procedure::stageEntry(k, StageEvent::Passed, procedure::Strand::Amplifier));
        w->go("first-power");
        QVERIFY(doc().edit(setValue("C2", "/supply/sections/2/capacitance", 47e-6)).ok());
        QCOMPARE(procedure::currentStage(doc().build()), 0);
        doc().undoStack().undo();
        QVERIFY2(procedure::currentStage(doc().build()) == 4, "taken back before anything was exchanged");
        doc().undoStack().redo();
        waitForFigures();
        auto* exchanged = child<QPushButton>("exchanged");
        QVERIFY(exchanged->isVisible() && exchanged->text().contains("C2"));
        const auto& all = doc().findings();
        QVERIFY(std::any_of(all.begin(), all.end(), [](const auto& f) { return f.id == "exchange/c2"; }));
        exchanged->click();
        QCOMPARE(last().kind, std::string("exchange"));
        QVERIFY(!exchanged->isVisible());
        QCOMPARE(procedure::currentStage(doc().build()), 0);
    }
};

EMBER_TESTS(TestFirstPower)
#include "test_first_power.moc"
