// What is kept about a sound device, and when it holds; without any device.

#include "../support/suite.h"

#include "core/bench/device_limits.h"

#include <QTemporaryDir>
#include <QTest>

#include <cmath>
#include <fstream>

using namespace ember;
using namespace ember::bench;

class TestCalibration : public QObject {
    Q_OBJECT
    QTemporaryDir dir;

    static SoundPorts twoPorts() {
        SoundPort out{"out", "Line out", 48000, 2, "0.00 dB, 0.00 dB"},
            in{"in", "Line in", 48000, 2, "-3.00 dB, -3.00 dB"};
        return {{out}, {in}};
    }
    static SoundCalibration good() {
        SoundCalibration c;
        c.player = "out", c.recorder = "in";
        c.playerMixer = "0.00 dB, 0.00 dB", c.recorderMixer = "-3.00 dB, -3.00 dB";
        c.playedVolts = 2.83, c.recordedVolts = 40;
        return c;
    }
    std::filesystem::path written(const std::string& text) {
        const std::filesystem::path file = dir.filePath("sound.json").toStdString();
        std::ofstream(file) << text;
        return file;
    }

  private Q_SLOTS:
    void itHoldsForItsOwnMixerAlone() {
        QCOMPARE(staleness(good(), twoPorts()), std::string());
        SoundPorts louder = twoPorts();
        louder.recorders[0].mixer = "0.00 dB, 0.00 dB";
        const auto says = staleness(good(), louder);
        QVERIFY(says.find("mixer was changed") != std::string::npos && says.find("-3.00 dB") != std::string::npos);
        SoundPorts gone = twoPorts();
        gone.players.clear();
        QVERIFY(staleness(good(), gone).find("player out is not there") != std::string::npos);
        SoundCalibration half = good();
        half.recordedVolts = SoundCalibration::unknown;
        QVERIFY(staleness(half, twoPorts()).find("voltmeter") != std::string::npos);
    }

    /// Its loop as it was swept: written and read back, straight between its points in the logarithm of the frequency.
    void theLoopIsPartOfIt() {
        SoundCalibration c = good();
        QCOMPARE(c.loopAt(1000), 0.0);
        LoopbackCheck check;
        check.latency = 0.043, check.thdPercent = 0.003, check.noise = 1e-5;
        for (double hz = 20; hz < 21000; hz *= 10) check.response.push_back({hz, -0.5 + 0.5 * std::log10(hz / 20)});
        takeLoop(c, check);
        const std::filesystem::path file = dir.filePath("loop.json").toStdString();
        QVERIFY(writeCalibration(file, c));
        const auto back = lastCalibration(file);
        QVERIFY(back && back->latency == 0.043 && back->loop.size() == check.response.size());
        QVERIFY(std::abs(back->loopAt(20 * std::sqrt(10.0)) + 0.25) < 1e-3);
        QCOMPARE(back->loopAt(5), -0.5); // beyond its ends: as at them
        QVERIFY(std::abs(back->loopAt(50000) - 1) < 1e-3);
        std::ofstream(file)
            << R"({"format": "dim-ember/sound", "devices": [{"player": "a", "loop": [[1], "x", [100, -1]]}]})";
        const auto odd = lastCalibration(file);
        QVERIFY(odd && odd->loop.size() == 1 && odd->loopAt(100) == -1);
    }

    /// A tone at -20 dB read as 0.1 V: full scale is ten times that, as a crest. Captured at a tenth of full scale
    /// where 2 V were read: full scale there is 20 V RMS, as a crest.
    void twoReadingsMakeIt() {
        QVERIFY(std::abs(playedFullScale(0.1) - std::sqrt(2.0)) < 1e-12);
        QVERIFY(std::abs(recordedFullScale(2, 0.1) - 20 * std::sqrt(2.0)) < 1e-12);
        SoundCalibration c = good();
        c.playerMixer = c.recorderMixer = "muted";
        takeMixer(c, twoPorts());
        QCOMPARE(staleness(c, twoPorts()), std::string());
    }

    void whatIsWrittenIsReadAgain() {
        const std::filesystem::path file = dir.filePath("deep/er/sound.json").toStdString();
        SoundCalibration c = good();
        c.ownThdPercent = 0.0021, c.ownNoise = 3e-5, c.input = 2;
        QVERIFY(writeCalibration(file, c).ok());
        const auto back = readCalibration(file, "out", "in");
        QVERIFY(back);
        QCOMPARE(back->input, 2);
        QCOMPARE(back->playedVolts, 2.83);
        QCOMPARE(back->ownThdPercent, 0.0021);
        QCOMPARE(back->recorderMixer, c.recorderMixer);
        // A pair that nobody calibrated is a fresh one, by its names.
        const auto fresh = readCalibration(file, "out", "elsewhere");
        QVERIFY(fresh && std::isnan(fresh->playedVolts) && fresh->recorder == "elsewhere");
        // What is not known is not written, and not known again.
        c.ownNoise = SoundCalibration::unknown;
        QVERIFY(writeCalibration(file, c).ok());
        QVERIFY(std::isnan(lastCalibration(file)->ownNoise));
    }

    void aFileOfAnotherKindIsLeftAlone_data() {
        QTest::addColumn<QString>("text");
        QTest::newRow("prose") << "not a file of ours";
        QTest::newRow("empty") << "";
        QTest::newRow("a format that is a number") << R"({"format": 7, "devices": []})";
        QTest::newRow("another format") << R"({"format": "dim-ember/build", "devices": []})";
        QTest::newRow("devices are words") << R"({"format": "dim-ember/sound", "devices": "two"})";
        QTest::newRow("a device is a number") << R"({"format": "dim-ember/sound", "devices": [7]})";
    }
    void aFileOfAnotherKindIsLeftAlone() {
        QFETCH(QString, text);
        const auto file = written(text.toStdString());
        const auto read = lastCalibration(file);
        QVERIFY(!read && read.problem().sentence.find("no calibrations") != std::string::npos);
        QVERIFY(!writeCalibration(file, good()).ok());
        std::ifstream in(file);
        QCOMPARE(QString::fromStdString({std::istreambuf_iterator<char>(in), {}}), text);
    }

    void wrongFieldsAreTakenAsUnknown() {
        const auto file = written(R"({"format": "dim-ember/sound", "devices": [
            {"player": "out", "recorder": "in", "input": 900, "played_volts": "loud", "recorded_volts": null}]})");
        const auto c = lastCalibration(file);
        QVERIFY(c && c->player == "out");
        QCOMPARE(c->input, 64);
        QVERIFY(std::isnan(c->playedVolts) && std::isnan(c->recordedVolts));
    }

    void itIsKeptInTheUsersSettings() {
        const QByteArray was = qgetenv("XDG_CONFIG_HOME");
        qputenv("XDG_CONFIG_HOME", "/somewhere");
        QCOMPARE(calibrationFile().string(), std::string("/somewhere/dim-ember/sound.json"));
        qputenv("XDG_CONFIG_HOME", was);
    }

    /// Two distorting devices in a row, y = x + a x^2 each: with equal signs their harmonics add, with opposite ones
    /// they cancel; the amplifier's own lies within the span in both cases.
    void theAmplifiersDistortionIsASpan() {
        const auto second = [](double device, double amplifier) { // THD [%] of a sine of crest 1 through both
            double sine = 0, doubled = 0;
            constexpr int n = 4096;
            for (int k = 0; k < n; ++k) {
                const double phase = 2 * M_PI * k / n, x = std::sin(phase), y = x + device * x * x;
                const double z = y + amplifier * y * y;
                sine += z * std::sin(phase), doubled += z * std::cos(2 * phase);
            }
            return 100 * std::abs(doubled / sine);
        };
        for (const double device : {1e-3, -1e-3}) {
            const double amplifier = 3e-3, alone = second(device, 0), own = second(0, amplifier);
            const Span s = ownDistortion(second(device, amplifier), alone);
            QVERIFY2(s.least < own * 1.001 && s.most > own * 0.999,
                     qPrintable(QString("%1 in %2 .. %3").arg(own).arg(s.least).arg(s.most)));
            QVERIFY(s.most < 2 * own + 2 * alone); // and it says something
        }
    }

    void noiseIsTakenOffAsPower() {
        QVERIFY(std::abs(withoutNoise(5, 3) - 4) < 1e-12);
        QVERIFY(std::isnan(withoutNoise(5, 4)) && std::isnan(withoutNoise(5, 6)));
        QVERIFY(std::isnan(withoutNoise(5, SoundCalibration::unknown)));
        // What stands in the bins adds up to the whole.
        const double bin = noisePerBin(2e-3, 10);
        QVERIFY(std::abs(bin * bin * 1998 - 4e-6) < 1e-9);
        SoundCalibration c = good();
        c.ownNoise = 1e-5, c.ownThdPercent = 0.01;
        QVERIFY(std::abs(limitsOf(c).noiseVolts - 4e-4) < 1e-12);
    }
};

EMBER_TESTS(TestCalibration)
#include "test_calibration.moc"
