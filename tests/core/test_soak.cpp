// Hours at a level, and parts selected on test: what their readings say, against curves that are known.

#include "../support/suite.h"

#include "core/bench/select_on_test.h"
#include "core/bench/soak.h"

#include <QTemporaryDir>
#include <QTest>

#include <cmath>
#include <fstream>

using namespace ember;
using namespace ember::bench;

class TestSoak : public QObject {
    Q_OBJECT
    /// 20 W into a sink of 2.5 K/W that warms with a constant of 900 s, the output falling by 0.12 dB an hour.
    std::vector<SoakReading> warming(double hours) {
        std::vector<SoakReading> all;
        for (double t = 0; t <= hours * 3600; t += 60) {
            const double volts = 12.649 * std::pow(10, -0.12 * t / 3600 / 20);
            all.push_back({t, volts, 20, 0.3, 0, 22 + 50 * (1 - std::exp(-t / 900)), true});
        }
        return all;
    }

  private Q_SLOTS:
    void driftAndTheSinkAreFound() {
        auto readings = warming(1.5);
        const double hot = readings.back().celsius, end = readings.back().at;
        for (double t = 60; t < 3600; t += 120)
            readings.push_back({end + t, plan::unknown, plan::unknown, plan::unknown, plan::unknown,
                                22 + (hot - 22) * std::exp(-t / 1100), false});
        const SoakFigures f = soakFigures({}, readings);
        QVERIFY2(std::abs(f.dbPerHour + 0.12) < 1e-6, qPrintable(QString::number(f.dbPerHour)));
        QVERIFY(f.dbPerHourError < 1e-6 && f.stop.empty() && f.gaps.empty());
        QVERIFY2(std::abs(f.warming.constant / 900 - 1) < 1e-3 && std::abs(f.warming.end - 72) < 0.05,
                 qPrintable(QString("%1 %2").arg(f.warming.constant).arg(f.warming.end)));
        QVERIFY(std::abs(f.kelvinPerWatt - 2.5) < 0.01);
        QVERIFY2(std::abs(f.cooling.constant / 1100 - 1) < 1e-3, qPrintable(QString::number(f.cooling.constant)));
        QVERIFY(std::abs(settledCelsius(22, 20, f.kelvinPerWatt) - f.warming.end) < 0.1);
    }

    void whatEndsItIsSaid() {
        auto readings = warming(0.5);
        readings.push_back({1900, 12.649 * std::pow(10, -1.2 / 20), 15, 0.3, 0, plan::unknown, true});
        QVERIFY(soakFigures({}, readings).stop.find("-1.20 dB") != std::string::npos);
        readings.back().volts = 12.6, readings.back().dc = 0.4;
        QVERIFY(soakFigures({}, readings).stop.find("400 mV DC") != std::string::npos);
        readings.back().dc = 0, readings.back().celsius = 130;
        QVERIFY(soakFigures({}, readings).stop.find("130 °C") != std::string::npos);
        // Two hours in which the computer slept.
        readings.back().celsius = plan::unknown;
        readings.push_back({1900 + 7200, 12.6, 20, 0.3, 0, plan::unknown, true});
        const SoakFigures f = soakFigures({}, readings);
        QVERIFY(f.stop.empty() && f.gaps.size() == 1 && f.gaps[0].second == 9100);
    }

    void aStraightLineIsNoExponential() {
        std::vector<std::pair<double, double>> line, few{{0, 1}, {1, 2}, {2, 3}};
        for (int k = 0; k < 20; ++k) line.emplace_back(k, 20 + 0.01 * k);
        QVERIFY(std::isnan(fitExponential(line).constant) && std::isnan(fitExponential(few).constant));
    }

    /// A killed program loses nothing: what was read is there, and the soak is found as interrupted.
    void anInterruptedSoakIsFoundAgain() {
        QTemporaryDir dir;
        const std::filesystem::path folder = dir.path().toStdString(), file = folder / "soak-2026-01-02.jsonl";
        SoakPlan plan;
        plan.channel = "Left", plan.interval = 30, plan.tone.inputRms = 0.4, plan.tone.channel = 1;
        QVERIFY(beginSoak(file, plan, "2026-01-02T03:04:05"));
        QVERIFY(interruptedSoak(folder).empty()); // nothing was read yet
        for (const SoakReading& r : warming(0.1)) QVERIFY(addReading(file, r));
        { std::ofstream(file, std::ios::app) << "{\"at\": 400, \"vol"; } // torn
        QCOMPARE(interruptedSoak(folder), file);
        const auto s = readSoak(file);
        QVERIFY(s && s->readings.size() == 7 && s->plan.channel == "Left" && s->plan.tone.channel == 1);
        QVERIFY(std::abs(s->readings.back().celsius - warming(0.1).back().celsius) < 1e-9);
        { std::ofstream(file, std::ios::app) << "\n"; }
        QVERIFY(endSoak(file, "stopped by hand"));
        QVERIFY(interruptedSoak(folder).empty() && readSoak(file)->ended == "stopped by hand");
        QVERIFY(!readSoak(folder / "none.jsonl"));
    }

    /// A meter of 100 ohm behind a resistor from 5 V: 5 / (R + 100). 1 mA full scale is wanted.
    void theNextValueToTryIsProposed() {
        const auto read = [](double ohms) { return 5 / (ohms + 100); };
        std::vector<Tried> tries{{3900, read(3900)}};
        const auto one = nextTry(tries, 1e-3, Series::E24);
        QVERIFY(one && !one->doubt.empty() && one->standard > 4500);
        tries.push_back({one->standard, read(one->standard)});
        const auto two = nextTry(tries, 1e-3, Series::E24);
        QVERIFY2(std::abs(two->wanted / 4900 - 1) < 0.002, qPrintable(QString::number(two->wanted)));
        tries.push_back({5600, read(5600)});
        const auto three = nextTry(tries, 1e-3, Series::E96);
        QVERIFY2(std::abs(three->wanted / 4900 - 1) < 2e-4, qPrintable(QString::number(three->wanted)));
        QCOMPARE(std::round(three->standard), 4870.0);
        QVERIFY(std::abs(three->expected - read(4870)) < 1e-7 && three->error > 0 && three->error < 0.01);
    }

    void whatCannotBeSelectedIsSaid() {
        QVERIFY(!nextTry({}, 1, Series::E24));
        QVERIFY(nextTry({{1000, 2}, {2000, 2.005}}, 3, Series::E24).problem().sentence.find("hardly follows") !=
                std::string::npos);
        QVERIFY(!nextTry({{1000, -2}}, 3, Series::E24));
        QVERIFY(std::abs(disagreement(1.01, 0.99) - 0.02) < 1e-12);
        // Scatter of a tenth of a per cent on a law of -1: still within half a per cent.
        const auto next = nextTry({{1000, 1.001}, {1100, 0.9085}, {1200, 0.8341}}, 0.95, Series::E96);
        QVERIFY(next && std::abs(next->wanted / 1052.6 - 1) < 0.005);
    }
};

EMBER_TESTS(TestSoak)
#include "test_soak.moc"
