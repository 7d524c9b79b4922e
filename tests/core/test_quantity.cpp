#include "../support/suite.h"

#include "core/quantity/quantity.h"

#include <QTest>

#include <cmath>
#include <random>

using namespace ember;

class TestQuantity : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void readsWhatPeopleWrite_data() {
        QTest::addColumn<QString>("text");
        QTest::addColumn<int>("unit");
        QTest::addColumn<double>("value");
        const auto row = [](const char* t, Unit u, double v) {
            QTest::newRow(t) << QString(t) << static_cast<int>(u) << v;
        };
        row("4k7", Unit::Ohm, 4700);
        row("4.7 kΩ", Unit::Ohm, 4700);
        row("4,7k", Unit::Ohm, 4700);
        row("2M2", Unit::Ohm, 2.2e6);
        row("4R7", Unit::Ohm, 4.7);
        row("100 ohms", Unit::Ohm, 100);
        row("33u", Unit::Farad, 33e-6);
        row("0.1 µF", Unit::Farad, 0.1e-6);
        row("4n7", Unit::Farad, 4.7e-9);
        row("6.3V", Unit::Volt, 6.3);
        row("6V3", Unit::Volt, 6.3);
        row("-16.6", Unit::Volt, -16.6);
        row("1e-6", Unit::Farad, 1e-6);
        row("1/2 W", Unit::Watt, 0.5);
        row("350 mH", Unit::Henry, 0.35);
        row("0,33 A", Unit::Ampere, 0.33);
        row("1M", Unit::Ohm, 1e6);
        row("50 Hz", Unit::Hertz, 50);
    }
    void readsWhatPeopleWrite() {
        QFETCH(QString, text);
        QFETCH(int, unit);
        QFETCH(double, value);
        const auto v = parseQuantity(text.toStdString(), static_cast<Unit>(unit));
        QVERIFY2(v.ok(), v.ok() ? "" : v.problem().sentence.c_str());
        QCOMPARE(*v, value);
    }

    void refusesWithASentence_data() {
        QTest::addColumn<QString>("text");
        QTest::addColumn<int>("unit");
        QTest::addColumn<QString>("names");
        const auto row = [](const char* t, Unit u, const char* n) {
            QTest::newRow(t) << QString(t) << static_cast<int>(u) << QString(n);
        };
        row("", Unit::Ohm, "nothing");
        row("abc", Unit::Ohm, "ohms");
        row("1,000", Unit::Ohm, "1000");
        row("1.2.3", Unit::Volt, "more than one");
        row("10 mF", Unit::Farad, "microfarads");
        row("12 A", Unit::Volt, "left over");
        row("4k7k", Unit::Ohm, "left over");
        row("1/0", Unit::Watt, "fraction");
        row("1e999", Unit::Volt, "larger");
        row("nan", Unit::Volt, "volts");
        row("--5", Unit::Volt, "volts");
    }
    void refusesWithASentence() {
        QFETCH(QString, text);
        QFETCH(int, unit);
        QFETCH(QString, names);
        const auto v = parseQuantity(text.toStdString(), static_cast<Unit>(unit));
        QVERIFY(!v.ok());
        QVERIFY2(QString::fromStdString(v.problem().sentence).contains(names), v.problem().sentence.c_str());
    }

    void aValueOutsideSenseIsRefused() {
        QVERIFY(!parseWithin("0 F", Unit::Farad, {1e-12, 1}).ok());
        QVERIFY(!parseWithin("-5 ohm", Unit::Ohm, {1e-3, 1e9}).ok());
        QVERIFY(!parseWithin("10 MV", Unit::Volt, {0, 5000}).ok());
    }

    void everyValueSurvivesWritingAndReading() {
        std::mt19937_64 chance(1);
        std::uniform_real_distribution<double> mantissa(-10, 10), exponent(-13, 11);
        for (int k = 0; k < 20000; ++k) {
            const double v = mantissa(chance) * std::pow(10, std::floor(exponent(chance)));
            for (const Unit u : {Unit::Ohm, Unit::Farad, Unit::Volt, Unit::None}) {
                const auto back = parseQuantity(formatExact(v, u), u);
                QVERIFY2(back.ok(), formatExact(v, u).c_str());
                QCOMPARE(*back, v);
            }
        }
    }

    void printsForReading() {
        QCOMPARE(format(4700, Unit::Ohm), std::string("4.70 kΩ"));
        QCOMPARE(format(312.6, Unit::Volt), std::string("313 V"));
        QCOMPARE(format(0.0999999, Unit::Ampere), std::string("100 mA"));
        QCOMPARE(format(999.96, Unit::Volt), std::string("1.00 kV"));
        QCOMPARE(format(NAN, Unit::Volt), std::string("-"));
        QCOMPARE(formatExact(0.1e-6, Unit::Farad), std::string("100 nF"));
    }

    void standardSeriesFollowTheStandard() {
        QCOMPARE(nearest(4800, Series::E12), 4700.0);
        QCOMPARE(nearest(3.0e3, Series::E6), 3.3e3);
        QCOMPARE(nextUp(4700, Series::E12), 5600.0);
        QCOMPARE(nextUp(9.1, Series::E24), 10.0);
        QCOMPARE(nextDown(1000, Series::E12), 820.0);
        QCOMPARE(nextUp(100, Series::E96), 102.0);
        QCOMPARE(nextDown(1e-6, Series::E6), 0.68e-6);
    }
};

EMBER_TESTS(TestQuantity)
#include "test_quantity.moc"
