// Takes of every kind in the window: on the practice bench, and with a sound device that has been calibrated.

#include "../support/sound_server.h"
#include "../support/suite.h"
#include "../support/window_test.h"

#include "app/stations/measure_station.h"
#include "app/stations/sound_device_dialog.h"

#include <QCheckBox>
#include <QComboBox>
#include <qcustomplot.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <random>

using namespace ember;
using namespace ember::app;

class TestTakes : public WindowTest {
    Q_OBJECT
    MeasureStation& measure() { return *w->station<MeasureStation>(); }
    const std::vector<LogEntry>& entries() { return doc().build().log; }
    void begin(bench::TakeKind kind) {
        doc().startPractice(0, {});
        w->go("measure");
        waitForSolve();
        measure().choose(kind);
        QTest::mouseClick(child<QPushButton>("take"), Qt::LeftButton);
    }

  private Q_SLOTS:
    /// A square on an amplifier exactly as planned lies on the planned one, which is drawn over it.
    void aSquareWaveLiesOnThePlannedOne() {
        begin(bench::TakeKind::Square);
        QVERIFY(child<QPushButton>("cancelTake")->isVisible() && !child<QPushButton>("take")->isEnabled());
        WAIT_FOR_EQUAL(entries().size(), std::size_t(1));
        QVERIFY(entries()[0].text.find("square wave of 1.000 kHz: tilt") != std::string::npos);
        WAIT_FOR(child<QLabel>("takeWords")->text().contains("Planned (brass): tilt"));
        const auto* wave = measure().findChild<TakeCharts*>()->waveform();
        QCOMPARE(wave->graphCount(), 2);
        const auto crest = [&](int g) {
            bool found = false;
            return wave->graph(g)->getValueRange(found).upper;
        };
        QVERIFY2(std::abs(crest(0) / crest(1) - 1) < 0.05, qPrintable(QString("%1 %2").arg(crest(0)).arg(crest(1))));
        QVERIFY(child<QLabel>("power")->text().endsWith("%")); // the tilt
        // The plan's own first, healthy amplifiers' ranges in its place as they are played.
        QVERIFY(!child<QLabel>("takeWords")->text().contains(" to "));
        WAIT_FOR(child<QLabel>("takeWords")->text().contains(" to "));
        QCOMPARE(child<QLabel>("takeWords")->text().count("Planned"), 1);
        QCOMPARE(wave->graphCount(), 2);
    }

    void humAndNoiseNameTheirLines() {
        begin(bench::TakeKind::Noise);
        QVERIFY(!child<QLineEdit>("input")->isEnabled() && !child<QComboBox>("toneHertz")->isEnabled());
        WAIT_FOR_EQUAL(entries().size(), std::size_t(1));
        QVERIFY(entries()[0].text.find("hum and noise") != std::string::npos);
        QVERIFY(child<QLabel>("thdNoise")->text().contains("Hz")); // the strongest line
        QVERIFY(child<QLabel>("takeWords")->text().contains("Planned"));
    }

    /// The recorder's second input, where a take has a use for it: its own input, then the other channel driven alike;
    /// the bench is drawn with it, the log has what it said, and the capture keeps it.
    void aSecondInputIsRecordedBesideIt() {
        doc().startPractice(0, {});
        w->go("measure");
        waitForSolve();
        auto* beside = child<QComboBox>("secondInput");
        measure().choose(bench::TakeKind::Square);
        QVERIFY(!beside->isVisible());
        measure().choose(bench::TakeKind::Tone);
        QVERIFY(beside->isVisible() && beside->count() == 4 && beside->currentText() == "nothing");
        QCOMPARE(beside->itemText(2), QString::fromStdString(doc().build().channels[1].name));
        beside->setCurrentIndex(1);
        QVERIFY(child<QWidget>("benchSketch")->toolTip().contains("second input at the amplifier's input"));
        QVERIFY(child<QLabel>("connecting")->text().contains("may add hum"));
        QTest::mouseClick(child<QPushButton>("take"), Qt::LeftButton);
        WAIT_FOR_EQUAL(entries().size(), std::size_t(1));
        QVERIFY2(entries()[0].text.find("gain by the recorded input") != std::string::npos, entries()[0].text.c_str());
        QVERIFY(child<QLabel>("takeWords")->text().contains("At its input"));
        beside->setCurrentIndex(3);
        QVERIFY(child<QWidget>("benchSketch")->toolTip().contains("to the input of every channel"));
        QTest::mouseClick(child<QPushButton>("take"), Qt::LeftButton);
        WAIT_FOR_EQUAL(entries().size(), std::size_t(2));
        QVERIFY2(child<QLabel>("takeWords")->text().contains("driven alike"),
                 qPrintable(child<QLabel>("takeWords")->text()));
        const auto kept = bench::readMeasurement(doc().capturesFolder(), {entries()[1].file, entries()[1].hash});
        QVERIFY(kept && kept->takes[0].capture.second.size() == kept->takes[0].capture.volts.size());
        // Silence has a use for the other channel alone, and drives none.
        measure().choose(bench::TakeKind::Noise);
        QVERIFY(beside->count() == 2);
        beside->setCurrentIndex(1);
        QVERIFY(child<QWidget>("benchSketch")->toolTip().contains("across the load of Right"));
        QVERIFY(measure().minimumSizeHint().width() <= 800); // what is left of a window of 1280 by the panels
    }

    /// Every kind of take stands in the table in its order, with a signal that can be made.
    void everyKindHasItsForm() {
        std::size_t at = 0;
        for (const bench::TakeForm& form : bench::takeForms()) {
            QCOMPARE(static_cast<std::size_t>(form.kind), at++);
            QCOMPARE(&bench::formOf(form.kind), &form);
            const auto volts = bench::voltsOf({form.kind, 0, 0.5, 1000, 0.2});
            QVERIFY2(volts.ok(), form.caption);
            double crest = 0;
            for (const double v : *volts) crest = std::max(crest, std::abs(v));
            const double wanted = form.kind == bench::TakeKind::Noise ? 0 : 0.5 * std::sqrt(2.0);
            QVERIFY2(std::abs(crest - wanted) < 0.02, form.caption);
        }
    }

    void twoTonesAreTaken() {
        begin(bench::TakeKind::Modulation);
        WAIT_FOR_EQUAL(entries().size(), std::size_t(1));
        QVERIFY(entries()[0].text.find("intermodulation of 60.00 Hz and 7.000 kHz") != std::string::npos);
        QVERIFY(child<QLabel>("power")->text().endsWith("%"));
    }

    /// The level is raised in steps; a load too weak for it ends the take with its watts, and nothing is logged.
    void aLoadTooWeakForTheLevelIsSpared() {
        Build b = doc().build();
        for (Stage& s : b.channels[0].stages)
            for (StagePart& p : s.parts)
                if (auto* r = std::get_if<ResistorPart>(&p.part); r && p.slot == "load") r->watts = 0.01;
        doc().setBuild(b, {});
        waitForSolve();
        QStringList levels;
        connect(&doc(), &Document::takeApproaches, this, [&](double) { levels << child<QLabel>("takeWords")->text(); });
        begin(bench::TakeKind::Tone);
        WAIT_FOR(child<QLabel>("takeWords")->text().contains("of the 10 mW that it is made for"));
        QVERIFY(levels.size() > 2 && levels.back().startsWith("raising the level: "));
        QVERIFY(entries().empty() && child<QPushButton>("take")->isEnabled());
        QCOMPARE(child<QLabel>("power")->text(), QString("-"));
    }

    void aTakeIsCancelled() {
        begin(bench::TakeKind::Sweep);
        QVERIFY(doc().taking());
        QTest::mouseClick(child<QPushButton>("cancelTake"), Qt::LeftButton);
        WAIT_FOR(!doc().taking());
        QVERIFY(entries().empty() && child<QPushButton>("take")->isEnabled());
        QVERIFY(!child<QPushButton>("cancelTake")->isVisible());
    }

    /// Ten times what was played is flat as far as it was played: the ends are said to lie beyond it.
    void aSweepGivesTheResponse() {
        w->go("measure");
        settle();
        const bench::TakeRequest request{bench::TakeKind::Sweep, 0, 0.1, 0, 2};
        signal::Capture c{*bench::voltsOf(request), bench::takeRate, 10, "a wire"};
        for (double& v : c.volts) v *= 10;
        measure().responseView()->showSweep(request, c);
        WAIT_FOR_EQUAL(entries().size(), std::size_t(1));
        QVERIFY(entries()[0].text.find("response within 3 dB") != std::string::npos);
        QVERIFY2(child<QLabel>("power")->text().startsWith("below 2"), qPrintable(child<QLabel>("power")->text()));
        QVERIFY(child<QLabel>("gain")->text().startsWith("above 19"));
        const auto reading = readTake(request, c, contextOf(doc().solved(), 0, 0.1));
        QVERIFY(reading && reading->good && !reading->wave.empty() && reading->spectrum.empty());
    }

    /// v = 10 x + x^2 + 2 x^3 at a crest of A = 0.141: H2 is A/20 and H3 is A^2/20 of the fundamental, which the cubic
    /// part raises by 3 A^2 / 20, at every frequency.
    void aSweepGivesHarmonicsByFrequency() {
        w->go("measure");
        settle();
        measure().look(MeasureStation::View::SweepDistortion);
        QVERIFY(child<QLabel>("sweepDistortionWords")->text().contains("response by a sweep"));
        const bench::TakeRequest request{bench::TakeKind::Sweep, 0, 0.1, 0, 5};
        signal::Capture c{*bench::voltsOf(request), bench::takeRate, 10, "a polynomial"};
        for (double& v : c.volts) v = 10 * v + v * v + 2 * v * v * v;
        measure().responseView()->showSweep(request, c);
        WAIT_FOR_EQUAL(entries().size(), std::size_t(1));
        const SweepDistortion& view = *measure().sweepDistortion();
        const double a = 0.1 * std::numbers::sqrt2, grown = 1 + 3 * a * a / 20;
        for (const double hz : {100.0, 1000.0, 4000.0}) {
            const double second = view.measured(2, hz), third = view.measured(3, hz);
            QVERIFY2(std::abs(second / (100 * a / 20 / grown) - 1) < 0.02, qPrintable(QString::number(second)));
            QVERIFY2(std::abs(third / (100 * a * a / 20 / grown) - 1) < 0.03, qPrintable(QString::number(third)));
        }
        QVERIFY(std::isnan(view.measured(2, 9600)));
        QVERIFY(std::isnan(view.measured(2, 5)) && std::isnan(view.measured(2, 23e3)));
        // The plan's own beside them: of the demo at 0.1 V, each far below a per cent.
        QVERIFY(view.planned(3) > 1e-4 && view.planned(3) < 1);
        QVERIFY(std::isnan(view.planned(40)));
        const auto* said = child<QLabel>("sweepDistortionWords");
        QVERIFY2(said->text().contains("H5 below 0.0001 %"), qPrintable(said->text()));
        QCOMPARE(child<QLabel>("thd")->text(), QString()); // the sweep's two figures stand alone
        QVERIFY(said->text().contains("planned (brass): H2") && !said->text().contains("device"));
        measure().sweepDistortion()->setFloor(0.02);
        QVERIFY2(said->text().endsWith("The sound device alone (level line): THD 0.020 %."), qPrintable(said->text()));
    }

    /// A tone of 0.1 % second harmonic and some noise, read with a device that has nearly as much of its own.
    void whatTheDeviceAddsItselfIsSaid() {
        signal::Capture c{std::vector<double>(48000), 48000, 20, "line in"};
        std::mt19937 chance(3);
        std::normal_distribution<double> noise(0, 1e-3);
        for (std::size_t k = 0; k < c.volts.size(); ++k) {
            const double turn = 2 * std::numbers::pi * 1000 * static_cast<double>(k) / 48000;
            c.volts[k] = 4 * std::sin(turn) + 4e-3 * std::sin(2 * turn) + noise(chance);
        }
        TakeContext context = contextOf(doc().solved(), 0, 0.1);
        const bench::TakeRequest tone{bench::TakeKind::Tone, 0, 0.1, 1000, 0}, hum{bench::TakeKind::Noise};
        const auto words = [&](const bench::TakeRequest& r) { return readTake(r, c, context)->words; };
        QVERIFY(!words(tone).contains("device") && std::isnan(readTake(tone, c, context)->floor));
        context.device = {0.05, 1e-4};
        QVERIFY2(words(tone).contains("THD is between 0.050 % and 0.15 %"), qPrintable(words(tone)));
        QVERIFY(readTake(tone, c, context)->log.find("(device alone 0.050 %)") != std::string::npos);
        context.device.thdPercent = 0.098;
        QVERIFY2(words(tone).contains("THD is below 0.20 %"), qPrintable(words(tone)));
        context.device.thdPercent = 0.01;
        QVERIFY(!words(tone).contains("device alone"));
        // Noise alone: a third of the power is the device's.
        for (double& v : c.volts) v = noise(chance);
        const double without = parseQuantity(readTake(hum, c, {})->figures[0].value.toStdString(), Unit::Volt).value();
        context.device.noiseVolts = without / std::sqrt(3.0);
        const auto read = readTake(hum, c, context);
        const double rest = parseQuantity(read->figures[0].value.toStdString(), Unit::Volt).value();
        QVERIFY2(std::abs(rest / without - std::sqrt(2.0 / 3)) < 0.01, qPrintable(QString::number(rest / without)));
        QVERIFY(read->words.contains("taken off"));
        context.device.noiseVolts = 0.9 * without;
        QVERIFY(words(hum).contains("the amplifier's is less than this"));
        // The dashed line lies in the spectrum's own noise, since that is the device's by now.
        const double floor = readTake(hum, c, context)->floor;
        std::vector<double> bins = readTake(hum, c, context)->spectrum;
        std::nth_element(bins.begin(), bins.begin() + static_cast<std::ptrdiff_t>(bins.size() / 2), bins.end());
        QVERIFY2(std::abs(20 * std::log10(floor / bins[bins.size() / 2])) < 3,
                 qPrintable(QString::number(20 * std::log10(floor / bins[bins.size() / 2]))));
    }

    void withoutASoundServerTheDeviceSaysSo() {
        const QByteArray was = qgetenv("PULSE_SERVER");
        qputenv("PULSE_SERVER", "unix:/nowhere/socket");
        SoundDeviceDialog dialog;
        WAIT_FOR(!dialog.busy());
        QVERIFY(!dialog.findChild<QPushButton*>("soundPlay")->isEnabled());
        bool said = false;
        for (const auto* l : dialog.findChildren<QLabel*>()) said = said || l->text().contains("running?");
        QVERIFY(said);
        w->go("measure");
        child<QComboBox>("takeWith")->setCurrentIndex(1);
        QTest::mouseClick(child<QPushButton>("take"), Qt::LeftButton);
        WAIT_FOR(!doc().taking());
        QVERIFY(!child<QLabel>("takeWords")->text().isEmpty() && entries().empty());
        qputenv("PULSE_SERVER", was);
    }

    /// Two readings of a voltmeter, then a take in volts.
    void aSoundDeviceIsCalibratedAndUsed() {
        const SoundServer server;
        if (!server.runs()) QSKIP("No sound server can be started here.");
        SoundDeviceDialog dialog;
        dialog.show();
        const auto find = [&]<typename T>(T*, const char* name) { return dialog.findChild<T*>(name); };
        auto* keep = find(static_cast<QPushButton*>(nullptr), "soundKeep");
        auto* play = find(static_cast<QPushButton*>(nullptr), "soundPlay");
        WAIT_FOR(play->isEnabled());
        QVERIFY(!keep->isEnabled());
        for (int k = 0; k < 3 && !keep->isEnabled(); ++k) { // a busy machine may spoil one
            QTest::mouseClick(play, Qt::LeftButton);
            WAIT_FOR(!dialog.busy() && play->isEnabled());
            find(static_cast<QLineEdit*>(nullptr), "soundPlayed")->setText("0.1");
            find(static_cast<QLineEdit*>(nullptr), "soundRecorded")->setText("2");
        }
        QVERIFY(keep->isEnabled());
        QTest::mouseClick(keep, Qt::LeftButton);
        // 0.1 V at -20 dB is 1.414 V crest at full scale; what it records of itself is the same level.
        QVERIFY2(std::abs(dialog.calibration().playedVolts - std::sqrt(2.0)) < 0.01,
                 qPrintable(QString::number(dialog.calibration().playedVolts)));
        QVERIFY2(std::abs(dialog.calibration().recordedVolts / (20 * std::sqrt(2.0)) - 1) < 0.01,
                 qPrintable(QString::number(dialog.calibration().recordedVolts)));
        w->go("measure");
        child<QComboBox>("takeWith")->setCurrentIndex(1);
        type(child<QLineEdit>("input"), "0.2");
        for (int k = 0; k < 6 && entries().empty(); ++k) {
            WAIT_FOR(!doc().taking());
            if (entries().empty() && k > 0) measure().take();
        }
        // 0.2 V in, 20 times as much "at the load": 4 V into 8 ohm are 2 W.
        WAIT_FOR(!entries().empty());
        QVERIFY2(child<QLabel>("power")->text().startsWith("2.0") || child<QLabel>("power")->text().startsWith("1.99"),
                 qPrintable(child<QLabel>("power")->text()));
        QCOMPARE(entries()[0].source, std::string(SoundServer::recorder));
        // A series that wants every channel driven asks for it first; not done, nothing is played.
        measure().chooseSeries(bench::SeriesKind::DistortionByFrequency);
        child<QCheckBox>("everyChannel")->setChecked(true);
        QStringList asked;
        connect(&doc(), &Document::setupWanted, this, [&](const QString& s) { asked << s; });
        WAIT_FOR(!doc().taking());
        QTest::mouseClick(child<QPushButton>("take"), Qt::LeftButton);
        WAIT_FOR(!asked.isEmpty());
        QVERIFY2(asked[0].startsWith("Join the inputs of all channels"), qPrintable(asked[0]));
        auto* box = measure().findChild<QMessageBox*>("setupWanted");
        QVERIFY(box && box->isVisible());
        box->button(QMessageBox::Cancel)->click();
        WAIT_FOR(!doc().taking());
        for (const LogEntry& e : entries()) // one of the takes above may have come late
            QVERIFY(e.text.find("distortion against frequency") == std::string::npos);
        QVERIFY(child<QPushButton>("take")->isVisible());
    }
};

EMBER_TESTS(TestTakes)
#include "test_takes.moc"
