// Parts of the interface that know no amplifier, each by itself.

#include "../support/suite.h"

#include "app/stations/discharge_clock.h"
#include "app/stations/reading_table.h"
#include "app/theme/theme.h"
#include "app/widgets/band_scale.h"
#include "app/widgets/clock.h"
#include "app/widgets/lamp_view.h"
#include "app/widgets/quantity_field.h"

#include <QSignalSpy>
#include <QTemporaryDir>
#include <QTest>

#include <cmath>

using namespace ember;
using namespace ember::app;

class TestWidgets : public QObject {
    Q_OBJECT
    static double brightness(QWidget& w) {
        const QImage i = w.grab().toImage();
        double sum = 0;
        for (int y = 0; y < i.height(); ++y)
            for (int x = 0; x < i.width(); ++x) sum += qGray(i.pixel(x, y));
        return sum / (i.width() * i.height());
    }

  private Q_SLOTS:
    void initTestCase() {
        theme::apply(*qApp, theme::Mode::Dusk);
        Clock::hold();
    }

    void aFieldReadsWhatPeopleWrite_data() {
        QTest::addColumn<QString>("typed");
        QTest::addColumn<double>("value");
        QTest::newRow("letter as point") << "4k7" << 4700.0;
        QTest::newRow("comma") << "4,7k" << 4700.0;
        QTest::newRow("mega") << "2M2" << 2.2e6;
        QTest::newRow("plain") << "330" << 330.0;
        QTest::newRow("exponent") << "1e3" << 1000.0;
    }
    void aFieldReadsWhatPeopleWrite() {
        QFETCH(QString, typed);
        QFETCH(double, value);
        QuantityField f;
        f.show({Unit::Ohm, {0.1, 1e7}, 100});
        QSignalSpy entered(&f, &QuantityField::entered);
        f.selectAll();
        QTest::keyClicks(&f, typed);
        QTest::keyClick(&f, Qt::Key_Return);
        QCOMPARE(entered.count(), 1);
        QVERIFY(std::abs(entered[0][0].toDouble() / value - 1) < 1e-12);
    }

    void whileSomeoneTypesNothingIsOverwritten() {
        QuantityField f;
        f.show({Unit::Volt, {0, 1000}, 250});
        f.selectAll();
        QTest::keyClicks(&f, "27");
        f.show({Unit::Volt, {0, 1000}, 300});
        QCOMPARE(f.text(), QString("27"));
        QTest::keyClick(&f, Qt::Key_Escape);
        QCOMPARE(f.text(), QString("300 V"));
    }

    void arrowsStopAtTheRange() {
        QuantityField f;
        f.show({Unit::Ohm, {100, 220}, 220});
        QSignalSpy entered(&f, &QuantityField::entered);
        QTest::keyClick(&f, Qt::Key_Up);
        QCOMPARE(entered.count(), 0);
        QTest::keyClick(&f, Qt::Key_Down);
        QCOMPARE(entered[0][0].toDouble(), 180.0);
        f.setSteps(Series::E24, Series::E96);
        QTest::keyClick(&f, Qt::Key_Down);
        QCOMPARE(entered[1][0].toDouble(), 200.0);
    }

    void theSameValueIsNoEdit() {
        QuantityField f;
        f.show({Unit::Ohm, {1, 1e6}, 4700});
        QSignalSpy entered(&f, &QuantityField::entered);
        f.selectAll();
        QTest::keyClicks(&f, "4k7");
        QTest::keyClick(&f, Qt::Key_Return);
        QCOMPARE(entered.count(), 0);
        QCOMPARE(f.text(), QString("4.7 kΩ"));
    }

    void theLampIsAsBrightAsItsFilament() {
        LampView lamp;
        lamp.resize(210, 250);
        double before = 0;
        for (const double k : {293.0, 900.0, 1300.0, 1800.0, 2400.0, 2800.0}) {
            lamp.show(k, "", "", "", true);
            const double now = brightness(lamp);
            QVERIFY2(now >= before, qPrintable(QString::number(k)));
            before = now;
        }
        lamp.show(2800, "", "", "", false);
        QVERIFY2(brightness(lamp) < before, "taken out it is dark");
        QVERIFY(lamp.accessibleDescription().contains(","));
    }

    void theScaleMarksWhereTheReadingLies() {
        BandScale scale;
        scale.resize(480, 60);
        const auto picture = [&](std::optional<double> reading) {
            scale.show(300, 320, 350, std::nullopt, reading, Unit::Volt);
            return scale.grab().toImage();
        };
        const QImage none = picture(std::nullopt), in = picture(310), low = picture(200), beyond = picture(5000);
        QVERIFY(none != in && in != low && low != beyond);
    }

    void theClockOfAnEmptyCurveStillSaysMeasure() {
        QTemporaryDir folder;
        DischargeWatch watch(folder.path());
        DischargeClock clock(watch);
        clock.show({}, {});
        QVERIFY(clock.text().contains("measure every capacitor"));
        // Switched off before the figures were there: it counts, and says what it does not know.
        watch.start("Larkfield", {});
        QVERIFY(watch.running() && watch.sentence().contains("not computed"));
    }

    /// 400 V and 300 V, falling by 50 s and 11 s.
    static plan::Discharge falling() {
        plan::Discharge d;
        d.capacitors = {{"c1", 1, 1e-4, 400, {}, 104, 184}, {"c3", 3, 1e-5, 300, {}, 20, 40}};
        for (int k = 0; k <= 600; ++k) {
            d.seconds.push_back(k);
            d.capacitors[0].volts.push_back(400 * std::exp(-k / 50.0));
            d.capacitors[1].volts.push_back(300 * std::exp(-k / 11.0));
        }
        return d;
    }

    void theClockSaysWhatStillStandsAndForHowLong() {
        QTemporaryDir folder;
        DischargeWatch watch(folder.path());
        DischargeClock clock(watch);
        plan::Discharge d = falling();
        clock.show(d, {});
        QVERIFY2(clock.text().contains("C1 holds 400 V") && clock.text().contains("104 s"),
                 qPrintable(clock.text())); // 50 s x ln 8
        watch.start("Larkfield", d);
        QVERIFY2(clock.text().contains("Wait 1 min 44 s more"), qPrintable(clock.text()));
        Clock::move(50000);
        QVERIFY2(std::abs(watch.volts() / (400 / M_E) - 1) < 0.01, qPrintable(QString::number(watch.volts())));
        Clock::move(100000);
        QVERIFY2(watch.running() && clock.text().contains("Measure every capacitor now"), qPrintable(clock.text()));
        Clock::move(40000);
        QVERIFY2(!watch.running(), "below 10 V after 184 s");
    }

    /// One that never falls is done with once a meter showed it below 10 V; until then the clock goes on for a day.
    void whatNeverFallsIsCountedUntilItIsMeasured() {
        QTemporaryDir folder;
        DischargeWatch watch(folder.path());
        plan::Discharge d = falling();
        for (double& v : d.capacitors[0].volts) v = 400;
        d.capacitors[0].to50 = d.capacitors[0].to10 = plan::unknown;
        d.byHand = plan::HandDischarge{22e3, 5, 1, {{"c1", 40}}, 400, true};
        watch.start("Larkfield", d);
        QVERIFY2(watch.sentence().contains("takes hours") &&
                     watch.sentence().contains("across plus and minus of C1 for 40 s"),
                 qPrintable(watch.sentence()));
        QVERIFY(watch.sentence().contains("up to 40 V come back"));
        Clock::move(3 * 3600 * 1000);
        QVERIFY(watch.running());
        watch.measured("Larkfield");
        QVERIFY(!watch.running());
        // What falls by itself is not wiped by a meter's reading.
        watch.start("Larkfield", falling());
        watch.measured("Larkfield");
        QVERIFY(watch.running());
    }

    void theClockSurvivesTheProgram() {
        QTemporaryDir folder;
        {
            DischargeWatch watch(folder.path());
            watch.start("Larkfield", falling());
        }
        Clock::move(20000);
        {
            DischargeWatch watch(folder.path());
            QVERIFY(watch.running());
            QVERIFY2(std::abs(watch.volts() / (400 * std::exp(-20 / 50.0)) - 1) < 0.03,
                     qPrintable(QString::number(watch.volts())));
            watch.start("Another", falling()); // two amplifiers: the one that holds longer is shown
            QVERIFY(watch.sentence().startsWith("Another"));
        }
        Clock::move(1000 * 1000);
        DischargeWatch watch(folder.path());
        QVERIFY2(!watch.running(), "it is long over");
    }

    void theTableIsPassedWhenAllIsInRangeOrExplained() {
        procedure::PowerStage stage;
        stage.index = 2;
        for (const char* id : {"B+1", "B+2"}) {
            procedure::Expectation e;
            e.point.id = e.point.label = id;
            e.band = {300, 290, 310};
            stage.expectations.push_back(e);
        }
        Build b;
        for (int k = 0; k < 2; ++k)
            b.log.push_back(procedure::stageEntry(k, StageEvent::Passed, procedure::Strand::Amplifier));
        ReadingTable table;
        const auto passes = [&] {
            table.fill(stage, b, procedure::Strand::Amplifier);
            return procedure::obstacles(b, stage, procedure::Strand::Amplifier).empty();
        };
        QVERIFY(!passes());
        b.log.push_back(procedure::readingEntry(stage.expectations[0], 2, 305, "typed"));
        QVERIFY(!passes());
        b.log.push_back(procedure::readingEntry(stage.expectations[1], 2, 250, "typed"));
        QCOMPARE(b.log.back().verdict, std::string("low"));
        QVERIFY(!passes());
        b.log.back().text = "a cooler mains tonight";
        QVERIFY(passes());
        b.log.back().struck = true;
        QVERIFY2(!passes(), "what is struck out does not count");
        b.log[2].stage = 3;
        QVERIFY2(procedure::lastReading(b, 2, "B+1") == nullptr, "another stage's reading is not this one's");
    }

    void theColoursOfTheTwoThemesDiffer() {
        const QColor dusk = theme::color(theme::Role::Bone);
        theme::apply(*qApp, theme::Mode::Daylight);
        QVERIFY(theme::color(theme::Role::Bone) != dusk);
        // Text on its surface: at least 7 to 1 for what must be read under strain.
        const auto luminance = [](const QColor& c) {
            const auto part = [](double v) { return v <= 0.03928 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4); };
            return 0.2126 * part(c.redF()) + 0.7152 * part(c.greenF()) + 0.0722 * part(c.blueF());
        };
        for (const auto mode : {theme::Mode::Dusk, theme::Mode::Daylight}) {
            theme::apply(*qApp, mode);
            const double a = luminance(theme::color(theme::Role::Bone)), b = luminance(theme::color(theme::Role::Soot));
            QVERIFY((std::max(a, b) + 0.05) / (std::min(a, b) + 0.05) > 7);
            for (const auto role :
                 {theme::Role::BoneDim, theme::Role::Ember, theme::Role::Verdigris, theme::Role::Brass}) {
                const double t = luminance(theme::color(role));
                QVERIFY2((std::max(t, b) + 0.05) / (std::min(t, b) + 0.05) > 4,
                         qPrintable(QString::number(static_cast<int>(role))));
            }
        }
        QCOMPARE(theme::between(theme::Role::Soot, theme::Role::Ember, 1), theme::color(theme::Role::Ember));
        QVERIFY(theme::incandescent(2800).lightness() > theme::incandescent(1500).lightness());
    }
};

EMBER_TESTS(TestWidgets)
#include "test_widgets.moc"
