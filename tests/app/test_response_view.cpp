// Response and output impedance at the Measure station: planned, stepped on the practice bench, read from a sweep.
#include "../support/suite.h"
#include "../support/window_test.h"

#include "app/stations/measure_station.h"
#include "app/window/log_line.h"
#include "core/plan/solve.h"
#include "core/plan/stage_figures.h"
#include "core/signal/sound_file.h"
#include "core/signal/stimulus.h"

#include <QComboBox>
#include <QLabel>
#include <QPushButton>

#include <cmath>
#include <complex>
#include <numbers>

using namespace ember;
using namespace ember::app;

class TestResponseView : public WindowTest {
    Q_OBJECT
    MeasureStation& station() {
        auto* station = w->station<MeasureStation>();
        if (!station->isVisible()) w->go("measure"); // once: going there again draws all of it anew
        return *station;
    }
    ResponseView& view() { return *station().responseView(); }
    void waitForPlan() {
        waitForFigures();
        WAIT_FOR(!view().planned().hertz.empty());
    }

  private Q_SLOTS:
    void thePlansEndsStandBesideTheCurve() {
        station().look(MeasureStation::View::Response);
        waitForPlan();
        const auto ends = plan::responseEnds(doc().build(), Catalogue::shipped(), *doc().figures().nominal, 0);
        QVERIFY(std::abs(view().planned().ends.low / ends.low - 1) < 1e-6);
        WAIT_FOR(child<QLabel>("responseWords")->text().startsWith("Planned (brass): -3 dB"));
        station().look(MeasureStation::View::OutputImpedance);
        WAIT_FOR(child<QLabel>("responseWords")->text().contains("damping"));
        QVERIFY(!child<QPushButton>("openSweep")->isVisible());
    }

    /// The iron gives less at 20 Hz than at 1 kHz; each chart's line ends where its distortion is 10 %.
    void distortionIsPlannedOverTheRange() {
        station().look(MeasureStation::View::Distortion);
        waitForFigures();
        const auto& view = *station().distortionView();
        WAIT_FOR(!view.ends().low.empty() && !view.ends().high.empty());
        const plan::PowerFigures& p = doc().figures().power[0];
        const auto at = [&](const std::vector<plan::ToneFigures>& sweep) { // the watts of the volts there
            const double volts = plan::readWhere(sweep, &plan::ToneFigures::thdPercent, 3,
                                                 [](const plan::ToneFigures& t) { return t.outputRms; });
            return volts * volts / p.load;
        };
        QVERIFY(std::abs(at(p.sweep) / p.cleanWatts - 1) < 1e-9);
        QVERIFY2(at(view.ends().low) < 1.02 * p.cleanWatts, qPrintable(QString::number(at(view.ends().low))));
        QVERIFY2(at(view.ends().high) < 1.1 * p.cleanWatts && at(view.ends().high) > 0.3 * p.cleanWatts,
                 qPrintable(QString::number(at(view.ends().high))));
        for (const auto* sweep : {&p.sweep, &view.ends().low, &view.ends().high})
            QVERIFY(sweep->back().thdPercent > 10);
        WAIT_FOR(child<QLabel>("distortionWords")->text().contains("20 Hz (dashed)"));
    }

    /// A tone of another frequency is taken as asked.
    void aToneOfAnotherFrequency() {
        doc().startPractice(7, {});
        station();
        waitForSolve();
        auto* frequency = child<QComboBox>("toneHertz");
        frequency->setCurrentIndex(frequency->findData(100.0));
        station().take();
        WAIT_FOR(!doc().build().log.empty());
        QVERIFY2(doc().build().log.back().text.find("at 100.0 Hz") != std::string::npos,
                 doc().build().log.back().text.c_str());
    }

    /// 31 tones on an amplifier within its tolerances lie on the planned curve; one log entry says the ends.
    void steppedTonesFollowThePlan() {
        doc().startPractice(7, {});
        station();
        waitForSolve();
        station().choose({});
        QTest::mouseClick(child<QPushButton>("take"), Qt::LeftButton);
        QVERIFY(view().taking() && child<QPushButton>("cancelSteps")->isVisible());
        WAIT_FOR(!view().taking());
        const auto& m = view().measured();
        QCOMPARE(m.hertz.size(), std::size_t(31));
        waitForPlan();
        const auto& p = view().planned();
        for (std::size_t k = 0; k < m.hertz.size(); ++k) {
            std::size_t nearest = 0;
            for (std::size_t n = 0; n < p.hertz.size(); ++n)
                if (std::abs(std::log(p.hertz[n] / m.hertz[k])) < std::abs(std::log(p.hertz[nearest] / m.hertz[k])))
                    nearest = n;
            QVERIFY2(std::abs(m.db[k] - p.db[nearest]) < 0.4,
                     qPrintable(QString("%1 Hz: %2 dB, planned %3").arg(m.hertz[k]).arg(m.db[k]).arg(p.db[nearest])));
        }
        QVERIFY(doc().build().log.back().text.find("response within 3 dB from 19.7") != std::string::npos);
        QVERIFY(!child<QWidget>("emberLine")->accessibleDescription().contains("within")); // it is no power
        const QString csv = dir.filePath("r.csv"), svg = dir.filePath("r.svg");
        QVERIFY(view().exportTo(csv).ok() && view().exportTo(svg).ok());
        QVERIFY(!view().exportTo("/nowhere/r.png").ok());
        QFile f(csv);
        QVERIFY(f.open(QIODevice::ReadOnly));
        QVERIFY(f.readAll().count('\n') > 150);
    }

    /// Two sweeps through one low-pass and then another: the difference is that of the filters, at every frequency.
    void twoTakesAreCompared() {
        signal::Stimulus s;
        s.seconds = 2;
        const auto played = signal::samplesOf(s);
        const QString a = dir.filePath("captured.wav"), z = dir.filePath("played.wav");
        QVERIFY(signal::writeSound(z.toStdString(), *played, s.rate).ok());
        station().look(MeasureStation::View::Response);
        settle();
        waitForPlan();
        const auto through = [&](double corner) {
            std::vector<double> captured = *played;
            const double share = 1 - std::exp(-2 * std::numbers::pi * corner / s.rate);
            double state = 0;
            for (double& v : captured) v = state += share * (v - state);
            const auto takes = view().takes().size();
            if (!signal::writeSound(a.toStdString(), captured, s.rate).ok()) qFatal("not written");
            view().openSweep(a, z);
            return ember::tests::comes([&] { return view().takes().size() > takes; });
        };
        QVERIFY(through(2000));
        QVERIFY(view().difference().empty());
        QVERIFY(through(4000));
        auto* other = child<QComboBox>("compareTake");
        QCOMPARE(other->count(), 2);
        other->setCurrentIndex(1);
        const auto apart = view().difference();
        QCOMPARE(apart.size(), view().measured().hertz.size());
        const auto fall = [&](double hz, double corner) {
            const double share = 1 - std::exp(-2 * std::numbers::pi * corner / s.rate),
                         step = 2 * std::numbers::pi / s.rate;
            const auto at = [&](double f) {
                return std::abs(share / (1.0 - (1 - share) * std::polar(1.0, -step * f)));
            };
            return 20 * std::log10(at(hz) / at(1000));
        };
        for (std::size_t k = 0; k < apart.size(); ++k) {
            const double hz = view().measured().hertz[k];
            if (hz > 50 && hz < 15000)
                QVERIFY2(std::abs(apart[k] - fall(hz, 4000) + fall(hz, 2000)) < 0.1,
                         qPrintable(QString("%1 Hz: %2").arg(hz).arg(apart[k])));
        }
        QVERIFY(child<QLabel>("responseWords")->text().contains("The compared take (dashed) is at most"));
    }

    void aTakeIsCancelledAndLeavesNothing() {
        doc().startPractice(7, {});
        station();
        waitForSolve();
        const auto entries = doc().build().log.size();
        station().choose({});
        QTest::mouseClick(child<QPushButton>("take"), Qt::LeftButton);
        QVERIFY(view().taking());
        QTest::mouseClick(child<QPushButton>("cancelSteps"), Qt::LeftButton);
        QVERIFY(!view().taking() && view().measured().hertz.empty());
        waitForSolve();
        QCOMPARE(doc().build().log.size(), entries);
    }

    /// A sweep through a resistor and a capacitor of 2 kHz, as another program's files would bring it.
    void aCapturedSweepIsDrawn() {
        signal::Stimulus s;
        s.seconds = 3;
        const auto played = signal::samplesOf(s);
        QVERIFY(played);
        std::vector<double> captured = *played;
        const double share = 1 - std::exp(-2 * std::numbers::pi * 2000 / s.rate);
        double state = 0;
        for (double& v : captured) v = state += share * (v - state);
        const QString a = dir.filePath("captured.wav"), z = dir.filePath("played.wav");
        QVERIFY(signal::writeSound(a.toStdString(), captured, s.rate).ok());
        QVERIFY(signal::writeSound(z.toStdString(), *played, s.rate).ok());
        station().look(MeasureStation::View::Response);
        view().openSweep(a, z);
        WAIT_FOR(!view().measured().hertz.empty());
        // 3 dB below 1 kHz, where the filter itself is 0.97 dB down: 2.4 kHz of an analogue one.
        QVERIFY2(view().measured().high > 2000 && view().measured().high < 3200,
                 qPrintable(QString::number(view().measured().high)));
        view().openSweep(dir.filePath("nothing.wav"), z);
        WAIT_FOR(w->logLine()->verdict().contains("nothing.wav"));
        QVERIFY(!view().measured().hertz.empty()); // what was there stays
    }
};

EMBER_TESTS(TestResponseView)
#include "test_response_view.moc"
