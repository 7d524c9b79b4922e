// Measurements of several takes in the window: taken, logged, kept beside the build, looked at again, compared; soaks
// and parts selected on test.

#include "../support/suite.h"
#include "../support/window_test.h"

#include "app/stations/logbook_station.h"
#include "app/stations/measure_station.h"
#include "app/widgets/plot_export.h"
#include "app/widgets/plot_tools.h"
#include "core/build/path.h"

#include <QCheckBox>
#include <QComboBox>
#include <QInputDialog>
#include <QMessageBox>
#include <QTableWidget>
#include <QTemporaryDir>
#include <qcustomplot.h>

#include <cmath>
#include <filesystem>

using namespace ember;
using namespace ember::app;

class TestMeasure : public WindowTest {
    Q_OBJECT
    MeasureStation& measure() { return *w->station<MeasureStation>(); }
    const std::vector<LogEntry>& entries() { return doc().build().log; }
    void begin(bench::SeriesKind kind, quint64 seed = 0) {
        doc().startPractice(seed, {});
        w->go("measure");
        waitForSolve();
        measure().seriesView()->setSamples(0);
        measure().chooseSeries(kind);
    }
    void take() {
        const auto before = entries().size();
        QTest::mouseClick(child<QPushButton>("take"), Qt::LeftButton);
        WAIT_FOR(entries().size() > before);
    }

    /// The next question for a number is answered as it is proposed.
    void answerNumber() {
        QTimer::singleShot(50, qApp, [this] {
            auto* dialog = qobject_cast<QInputDialog*>(QApplication::activeModalWidget());
            if (!dialog) return answerNumber();
            dialog->accept();
        });
    }

  private Q_SLOTS:
    /// An amplifier exactly as planned lies on the plan; its captures go where the build is saved, and from there they
    /// are looked at again.
    void aSeriesIsTakenKeptAndLookedAtAgain() {
        begin(bench::SeriesKind::DistortionByFrequency);
        QVERIFY(child<QLineEdit>("watts")->isVisible() && !child<QLineEdit>("input")->isVisible());
        QTest::mouseClick(child<QPushButton>("take"), Qt::LeftButton);
        QVERIFY(child<QPushButton>("cancelTake")->isVisible() && !child<QPushButton>("take")->isVisible());
        WAIT_FOR_EQUAL(entries().size(), std::size_t(1));
        WAIT_FOR(!measure().seriesView()->predicting() && measure().seriesView()->predicted());
        const bench::SeriesResult first = *measure().seriesView()->measured();
        const bench::SeriesResult& plan = measure().seriesView()->predicted()->nominal;
        QCOMPARE(first.lines[0].x.size(), plan.lines[0].x.size());
        for (std::size_t k = 0; k < first.lines[0].x.size(); ++k)
            QVERIFY2(std::abs(std::log(first.lines[0].y[k] / plan.lines[0].y[k])) < 0.1,
                     qPrintable(QString("%1 %2").arg(first.lines[0].y[k]).arg(plan.lines[0].y[k])));
        QVERIFY(!entries()[0].file.empty() && entries()[0].hash.size() == 64);
        QVERIFY(std::filesystem::exists(doc().capturesFolder() / entries()[0].file));
        QTemporaryDir to;
        QVERIFY(doc().save(to.filePath("hall.ember.json")).ok());
        QCOMPARE(doc().capturesFolder(), std::filesystem::path(to.filePath("hall.files").toStdString()));
        QVERIFY(std::filesystem::exists(doc().capturesFolder() / entries()[0].file));
        w->go("logbook");
        child<QTableWidget>("log")->setCurrentCell(0, 0);
        QTest::mouseClick(child<QPushButton>("lookAgain"), Qt::LeftButton);
        WAIT_FOR_EQUAL(child<QComboBox>("compareSeries")->count(), 2);
        QVERIFY(measure().isVisible());
        const bench::SeriesResult* again = measure().seriesView()->measured();
        QVERIFY(again && again->lines[0].x == first.lines[0].x);
        for (std::size_t k = 0; k < again->lines[0].y.size(); ++k)
            QVERIFY(std::abs(again->lines[0].y[k] / first.lines[0].y[k] - 1) < 1e-3);
        QCOMPARE(entries().size(), std::size_t(1)); // nothing new happened
        // The same file with another hash is refused with a sentence.
        QString sentence;
        connect(&measure(), &Station::said, this, [&](const QString& s, bool) { sentence = s; });
        measure().lookAgain(doc().capturesFolder(), {entries()[0].file, std::string(64, '0')});
        WAIT_FOR(sentence.contains("hash differs"));
    }

    /// Before and after: what changed in the build is named beside the curves.
    void twoOfAKindAreCompared() {
        begin(bench::SeriesKind::DistortionByFrequency);
        take();
        const double before = measure().seriesView()->measured()->figure("THD at 1.00 kHz");
        for (const Stage& s : doc().build().channels[0].stages)
            if (s.kind == "feedback")
                for (const StagePart& p : s.parts)
                    if (const auto* r = std::get_if<ResistorPart>(&p.part)) {
                        const Edit edit =
                            setValue("feedback", *pointerOfId(doc().build(), r->id) + "/resistance", 2 * r->resistance);
                        QVERIFY(doc().edit(edit).ok());
                        break;
                    }
        waitForSolve();
        doc().startPractice(0, {});
        take();
        const auto* view = measure().seriesView();
        child<QComboBox>("compareSeries")->setCurrentIndex(1);
        QVERIFY2(view->changes().startsWith("Changed between them: "), qPrintable(view->changes()));
        QVERIFY(child<QLabel>("seriesWords")->text().contains("Slate: Left, "));
        // Less feedback, more distortion: as the plan has it, and more than before.
        const double now = view->measured()->figure("THD at 1.00 kHz");
        QVERIFY2(now > 1.2 * before, qPrintable(QString("%1 %2").arg(now).arg(before)));
        WAIT_FOR(!view->predicting() && view->predicted());
        QVERIFY(std::abs(now / view->predicted()->nominal.figure("THD at 1.00 kHz") - 1) < 0.1);
    }

    void theCursorReadsTheCurvesAndTheyAreExported() {
        begin(bench::SeriesKind::DistortionByFrequency);
        take();
        WAIT_FOR(!measure().seriesView()->predicting());
        auto* plot = child<QCustomPlot>("seriesPlot");
        plot->setFocus();
        QTest::keyClick(plot, Qt::Key_Home);
        const QString words = measure().seriesView()->tools()->readOut();
        QVERIFY2(words.startsWith("hertz: ") && words.contains("\nTHD: "), qPrintable(words));
        QTest::keyClick(plot, Qt::Key_End);
        QVERIFY(measure().seriesView()->tools()->readOut() != words);
        QTest::keyClick(plot, Qt::Key_Escape);
        QVERIFY(measure().seriesView()->tools()->readOut().isEmpty());
        const std::string table = tableOf(*plot);
        QVERIFY2(table.find("THD; planned") != std::string::npos && table.find("THD") != std::string::npos, "columns");
        QVERIFY(std::count(table.begin(), table.end(), '\n') ==
                std::ssize(measure().seriesView()->measured()->lines[0].x) + 1);
        QTemporaryDir to;
        for (const char* ending : {".png", ".svg", ".csv"})
            QVERIFY(exportPlot(*plot, to.filePath(QString("distortion") + ending), table).ok());
    }

    /// What has to be connected is drawn for what is chosen, with the volts where they bite.
    void theBenchIsDrawnForWhatIsChosen() {
        begin(bench::SeriesKind::OutputImpedance);
        QCOMPARE(child<QLineEdit>("secondLoad")->text(), QString("16 Ω"));
        const auto* sketch = measure().findChild<BenchSketch*>("benchSketch");
        if (!sketch) sketch = w->findChild<BenchSketch*>("benchSketch");
        QVERIFY(sketch && sketch->isVisible());
        QVERIFY2(sketch->inWords().contains("changed over to 16 Ω with the amplifier off"),
                 qPrintable(sketch->inWords()));
        QVERIFY(child<QLabel>("connecting")->text().contains("never let the output stand without one"));
        measure().chooseSeries(bench::SeriesKind::Sag);
        QVERIFY(sketch->inWords().contains("supply's nodes"));
        QVERIFY2(child<QLabel>("connecting")->text().contains("carry up to 3"),
                 qPrintable(child<QLabel>("connecting")->text()));
        measure().choose(bench::TakeKind::Noise);
        QVERIFY(sketch->inWords().contains("shorted by a plug"));
        measure().chooseSeries(bench::SeriesKind::Power);
        child<QCheckBox>("everyChannel")->setChecked(true);
        QVERIFY(sketch->inWords().contains("every channel"));
        // A field that is not understood is said, and nothing is taken.
        child<QLineEdit>("frequencies")->setText("20 nonsense");
        QTest::mouseClick(child<QPushButton>("take"), Qt::LeftButton);
        QVERIFY(!doc().taking() && entries().empty());
    }

    void aSeriesIsCancelledAndOneThatNeedsAControlSaysSo() {
        begin(bench::SeriesKind::Power);
        QTest::mouseClick(child<QPushButton>("take"), Qt::LeftButton);
        WAIT_FOR(child<QLabel>("seriesTaking")->text().contains("%"));
        QTest::mouseClick(child<QPushButton>("cancelTake"), Qt::LeftButton);
        WAIT_FOR(!doc().taking());
        QVERIFY(entries().empty() && child<QPushButton>("take")->isVisible());
        measure().chooseSeries(bench::SeriesKind::ControlTracking);
        QTest::mouseClick(child<QPushButton>("take"), Qt::LeftButton);
        WAIT_FOR(child<QLabel>("seriesTaking")->text().contains("no level control"));
    }

    /// Nodes fall under a burst and come back; what falls most is the first.
    void theSupplyUnderABurst() {
        begin(bench::SeriesKind::Sag);
        type(child<QLineEdit>("watts"), "6 W");
        take();
        const bench::SeriesResult* r = measure().seriesView()->measured();
        QVERIFY(r && r->lines.size() == doc().figures().nominal->nodes.size());
        QVERIFY2(r->figure("B+1 falls by") > 3, qPrintable(QString::number(r->figure("B+1 falls by"))));
        for (std::size_t k = 0; k < r->lines.size(); ++k)
            QVERIFY(std::abs(r->lines[k].y.front() / doc().figures().nominal->nodes[k].mean - 1) < 0.01);
        QVERIFY(r->lines[0].y.back() > *std::min_element(r->lines[0].y.begin(), r->lines[0].y.end()) + 2);
    }

    /// A loudspeaker's impedance from a table, a scope's table of a supply node, a generator's own square: each is read
    /// and used, and what is none of it is refused with a sentence.
    void filesOfOtherInstrumentsAreUsed() {
        begin(bench::SeriesKind::ResponseWithLoudspeaker);
        QString sentence;
        connect(&measure(), &Station::said, this, [&](const QString& s, bool) { sentence = s; });
        auto* controls = measure().findChild<MeasureControls*>();
        const auto write = [&](const char* name, const std::function<QString(int)>& line, int lines) {
            QFile f(dir.filePath(name));
            if (!f.open(QIODevice::WriteOnly)) qFatal("no file");
            for (int k = 0; k < lines; ++k) f.write(line(k).toUtf8());
            return f.fileName();
        };
        const bench::Loudspeaker l = bench::loudspeakerOf(4);
        controls->openImpedance(write(
            "speaker.csv",
            [&](int k) {
                const double hz = 15 * std::pow(1.06, k);
                return k == 0 ? QString("Hz;ohm\n") : QString("%1;%2\n").arg(hz).arg(l.impedance(hz));
            },
            120));
        QVERIFY2(sentence.startsWith("The loudspeaker: "), qPrintable(sentence));
        const auto found = controls->askedSeries()->loudspeaker;
        QVERIFY(found && std::abs(found->ohms / l.ohms - 1) < 0.05);
        QVERIFY(std::abs(found->farads * found->coil / (l.farads * l.coil) - 1) < 0.05); // the resonance's frequency
        controls->openImpedance(write(
            "none.csv", [](int) { return QString("no numbers\n"); }, 5));
        QVERIFY(sentence.contains("at least ten points"));
        measure().chooseSeries(bench::SeriesKind::Sag);
        answerNumber();
        measure().analyseFile(write(
            "node.csv",
            [](int k) {
                const double t = 0.005 * k;
                return k == 0 ? QString("time s,volts V\n")
                              : QString("%1,%2\n").arg(t).arg(t < 0.2 || t > 1 ? 290.0 : 270.0);
            },
            300));
        WAIT_FOR_EQUAL(entries().size(), std::size_t(1));
        QVERIFY2(entries()[0].text.find("B+1 under a burst falls by 20.0 V") != std::string::npos,
                 entries()[0].text.c_str());
        measure().choose(bench::TakeKind::Square);
        QVERIFY(child<QPushButton>("sourceSquare")->isVisible());
        measure().takeOutSource(write(
            "square.csv",
            [](int k) {
                return k == 0 ? QString("s,V\n")
                              : QString("%1,%2\n").arg(k * 1e-5, 0, 'g', 9).arg(k % 100 < 50 ? 1 : -1);
            },
            4000));
        QVERIFY2(sentence.startsWith("The source's square of 1.00 kHz"), qPrintable(sentence));
        QVERIFY(child<QPushButton>("sourceSquare")->text().endsWith("taken out"));
        measure().takeOutSource({});
        QVERIFY(child<QPushButton>("sourceSquare")->text().endsWith("..."));
    }

    /// Readings at intervals are on the disk as they come; temperatures typed between them are fitted; it ends by
    /// itself.
    void aSoakRunsAndEnds() {
        doc().startPractice(0, {});
        w->go("measure");
        waitForSolve();
        measure().choosePage(MeasureControls::Page::Soak);
        SoakView& soak = *measure().soakView();
        soak.setIntervals(0.2, 2.5);
        child<QLineEdit>("soakHand")->setText("4x 33 20W, 2x 15 50W");
        QVERIFY2(child<QLabel>("soakLoad")->text().contains("is 8.05 Ω"),
                 qPrintable(child<QLabel>("soakLoad")->text()));
        QCOMPARE(child<QPushButton>("take")->text(), QString("Begin"));
        QTest::mouseClick(child<QPushButton>("take"), Qt::LeftButton);
        QVERIFY(soak.running());
        WAIT_FOR(soak.readings().size() >= 2);
        type(child<QLineEdit>("soakCelsius"), "31 °C");
        QVERIFY(
            std::any_of(soak.readings().begin(), soak.readings().end(), [](const auto& r) { return r.celsius == 31; }));
        WAIT_FOR(!soak.running());
        QVERIFY2(entries().size() == 1 && entries()[0].text.find("soak of") != std::string::npos &&
                     entries()[0].text.find("its time is over") != std::string::npos,
                 entries().empty() ? "" : entries()[0].text.c_str());
        QVERIFY(bench::interruptedSoak(doc().capturesFolder()).empty());
    }

    /// The other channel's loudspeaker has 15 ohm: what the resistors at hand make is said for the channel chosen.
    void aSoakSpeaksOfItsChannelsLoad() {
        w->go("measure");
        QVERIFY(doc().edit(setValue("the right load", "/channels/1/stages/2/parts/13/resistance", 15)));
        waitForSolve();
        WAIT_FOR(doc().figures().power.size() == 2 && doc().figures().power[1].load > 14);
        measure().choosePage(MeasureControls::Page::Soak);
        child<QLineEdit>("soakHand")->setText("4x 33 20W, 2x 15 50W");
        QVERIFY2(child<QLabel>("soakLoad")->text().contains("is 8.05 Ω"),
                 qPrintable(child<QLabel>("soakLoad")->text()));
        auto* channel = child<QComboBox>("takeChannel");
        channel->setCurrentIndex(1);
        Q_EMIT channel->activated(1);
        QVERIFY2(child<QLabel>("soakLoad")->text().contains("is 15.0 Ω"),
                 qPrintable(child<QLabel>("soakLoad")->text()));
    }

    /// A soak that a crash cut off is offered again, with its readings, and goes on.
    void anInterruptedSoakIsOfferedAgain() {
        bench::SoakPlan plan;
        plan.channel = "Left", plan.interval = 0.2, plan.seconds = 1e9, plan.practice = true;
        const auto file = doc().capturesFolder() / "soak-2026-01-02.jsonl";
        QVERIFY(bench::beginSoak(file, plan, "2026-01-02T03:04:05"));
        for (int k = 0; k < 5; ++k) QVERIFY(bench::addReading(file, {0.2 * k, 2.83, 1, 0.1, 0, plan::unknown, true}));
        w->go("measure");
        waitForSolve();
        measure().choosePage(MeasureControls::Page::Soak);
        QVERIFY(child<QPushButton>("soakGoOn")->isVisible());
        QTest::mouseClick(child<QPushButton>("soakGoOn"), Qt::LeftButton);
        QVERIFY2(!measure().soakView()->running(), "a practice soak does not go on with the amplifier");
        doc().startPractice(0, {});
        QVERIFY(child<QLabel>("soakWords")->text().contains("interrupted after 5 readings"));
        QTest::mouseClick(child<QPushButton>("soakGoOn"), Qt::LeftButton);
        WAIT_FOR(measure().soakView()->readings().size() > 5 || !measure().soakView()->running());
        QVERIFY(!measure().soakView()->figures().gaps.empty()); // from January until now
        QTest::mouseClick(child<QPushButton>("cancelTake"), Qt::LeftButton);
        QVERIFY(!measure().soakView()->running());
        std::filesystem::remove(file);
    }

    /// A meter of 100 ohm behind a resistor from 5 V, 1 mA wanted, in two channels.
    void aPartIsSelectedOnTest() {
        w->go("measure");
        settle();
        measure().choosePage(MeasureControls::Page::Select);
        QVERIFY(!child<QPushButton>("take")->isVisible());
        child<QLineEdit>("selectTarget")->setText("1 mA");
        const auto attempt = [&](int channel, const char* value, const char* reading) {
            child<QComboBox>("selectChannel")->setCurrentIndex(channel);
            child<QLineEdit>("selectLevel")->setText("full scale");
            child<QLineEdit>("selectValue")->setText(value);
            type(child<QLineEdit>("selectReading"), reading);
        };
        attempt(0, "3k9", "1.25 mA");
        QVERIFY(child<QLabel>("selectAdvice")->text().contains("one try alone"));
        attempt(0, "4k7", "1.0417 mA");
        QVERIFY2(child<QLabel>("selectAdvice")->text().contains(QString::fromUtf8("Left: try 5.10 kΩ")),
                 qPrintable(child<QLabel>("selectAdvice")->text()));
        attempt(1, "4k7", "1.021 mA");
        QVERIFY2(child<QLabel>("selectAdvice")->text().contains("At full scale the channels are 2.01 % apart"),
                 qPrintable(child<QLabel>("selectAdvice")->text()));
        QCOMPARE(child<QTableWidget>("selectTries")->rowCount(), 3);
        QCOMPARE(child<QTableWidget>("selectTries")->item(0, 3)->text(), QString("1.250 mA"));
        QCOMPARE(entries().size(), std::size_t(3));
        type(child<QLineEdit>("selectReading"), "nothing");
        QCOMPARE(entries().size(), std::size_t(3));
    }
};

EMBER_TESTS(TestMeasure)
#include "test_measure.moc"
