#include "../support/suite.h"

#include "core/signal/sound_file.h"
#include "core/signal/tone_analysis.h"
#include "core/signal/transform.h"

#include <QFile>
#include <QFileInfo>
#include <QTemporaryDir>
#include <QTest>
#include <sndfile.h>

#include <cmath>
#include <future>
#include <numbers>
#include <random>

using namespace ember;
using namespace ember::signal;

namespace {

/// amplitude sin(2 pi f t) with harmonics as shares of it.
std::vector<double> tone(double amplitude, double hertz, std::size_t count, const std::vector<double>& shares = {},
                         double dc = 0, double noise = 0) {
    std::vector<double> x(count);
    std::mt19937_64 chance(3);
    std::normal_distribution<double> normal(0, noise > 0 ? noise : 1);
    for (std::size_t k = 0; k < count; ++k) {
        const double w = 2 * std::numbers::pi * hertz * static_cast<double>(k) / 48000;
        x[k] = dc + amplitude * std::sin(w);
        for (std::size_t h = 0; h < shares.size(); ++h)
            x[k] += amplitude * shares[h] * std::sin(static_cast<double>(h + 2) * w + 0.7 * static_cast<double>(h));
        if (noise > 0) x[k] += normal(chance);
    }
    return x;
}

} // namespace

class TestSignal : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    /// 24 bits either way; FLAC takes less room, and comes back to the bit that WAV has.
    void whatIsWrittenAsFlacComesBack() {
        const QTemporaryDir dir;
        const auto x = tone(0.5, 1000, 48000);
        std::vector<std::vector<double>> back;
        std::vector<qint64> bytes;
        for (const char* name : {"a.wav", "a.FLAC"}) {
            const std::string file = dir.filePath(name).toStdString();
            QVERIFY(writeSound(file, x, 48000).ok());
            const auto read = readSound(file, 1, 1);
            QVERIFY(read && read->sampleRate == 48000);
            back.push_back(read->volts);
            bytes.push_back(QFileInfo(dir.filePath(name)).size());
        }
        QVERIFY(back[0] == back[1] && back[0].size() == x.size());
        QVERIFY(bytes[1] < bytes[0]);
        SF_INFO info{};
        SNDFILE* flac = sf_open(dir.filePath("a.FLAC").toStdString().c_str(), SFM_READ, &info);
        QVERIFY(flac && (info.format & SF_FORMAT_TYPEMASK) == SF_FORMAT_FLAC);
        sf_close(flac);
    }
    void levelAndFrequencyWithoutCoherence_data() {
        QTest::addColumn<double>("hertz");
        QTest::addColumn<int>("count");
        for (const double f : {50.3, 997.0, 1000.0, 1234.567, 9871.1})
            for (const int n : {16384, 48000, 65521, 100003}) QTest::addRow("%g Hz, %d", f, n) << f << n;
    }
    void levelAndFrequencyWithoutCoherence() {
        QFETCH(double, hertz);
        QFETCH(int, count);
        const auto a =
            analyseTone(tone(9.3 * std::numbers::sqrt2, hertz, static_cast<std::size_t>(count), {}, 0.2), 48000, 0);
        QVERIFY(a.ok());
        QVERIFY(std::abs(20 * std::log10(a->level / 9.3)) < 0.05);
        QVERIFY(std::abs(a->fundamental - hertz) < 0.05 * a->binHertz);
        QVERIFY(std::abs(a->dc - 0.2) < 1e-4);
        QVERIFY(a->thdPercent < 1e-5);
    }

    void distortionWithinTwoPercentOfItsValue_data() {
        QTest::addColumn<double>("thd");
        for (const double t : {0.01, 0.1, 1.0, 10.0}) QTest::addRow("%g %%", t) << t;
    }
    void distortionWithinTwoPercentOfItsValue() {
        QFETCH(double, thd);
        // Second and third in 3:4, so that the root sum is known.
        const auto a = analyseTone(tone(1, 1003.7, 60000, {0.006 * thd, 0.008 * thd}), 48000, 0);
        QVERIFY(a.ok());
        QVERIFY2(std::abs(a->thdPercent / thd - 1) < 0.02, qPrintable(QString::number(a->thdPercent)));
        QCOMPARE(a->harmonics[1].order, 2);
        QVERIFY(std::abs(a->harmonics[1].percent / (0.6 * thd) - 1) < 0.02);
        QVERIFY(std::abs(a->harmonics[2].db - 20 * std::log10(0.008 * thd)) < 0.1);
    }

    /// Charts are computed beside each other: transforms there and back from four threads at once give what they do
    /// alone.
    void transformsFromSeveralThreads() {
        std::vector<std::future<double>> worst;
        for (int thread = 0; thread < 4; ++thread)
            worst.push_back(std::async(std::launch::async, [thread] {
                double most = 0;
                for (std::size_t k = 0; k < 80; ++k) {
                    const std::size_t n = 2 * (20 + (k * 7 + static_cast<std::size_t>(thread)) % 400);
                    const auto x = tone(1, 1000, n, {0.1});
                    const auto back = recordOf(transformOf(x, n), n);
                    for (std::size_t at = 0; at < n; ++at) most = std::max(most, std::abs(back[at] - x[at]));
                }
                return most;
            }));
        for (auto& w : worst) QVERIFY(w.get() < 1e-12);
    }

    void noiseCountsInThdPlusNoiseAlone() {
        const double noise = 0.001; // white over 24 kHz: 20/24 of its power in the band
        const auto a = analyseTone(tone(1, 1000.2, 96000, {}, 0, noise), 48000, 0);
        QVERIFY(a.ok());
        const double want = 100 * noise * std::sqrt(20.0 / 24) / std::sqrt(0.5);
        QVERIFY2(std::abs(a->thdNoisePercent / want - 1) < 0.05, qPrintable(QString::number(a->thdNoisePercent)));
        QVERIFY(a->thdPercent < 0.2 * a->thdNoisePercent);
        QVERIFY(std::abs(a->noiseFloor / (noise * std::sqrt(20.0 / 24)) - 1) < 0.05);
    }

    void harmonicsBeyondHalfTheRateAreLeftOut() {
        const auto a = analyseTone(tone(1, 7000, 48000), 48000, 0);
        QVERIFY(a.ok());
        QCOMPARE(a->harmonics.size(), std::size_t(3));
    }

    void aClippedCaptureSaysSo() {
        auto x = tone(1.2, 1000, 48000);
        QVERIFY(!analyseTone(x, 48000, 2)->clipped);
        for (double& v : x) v = std::clamp(v, -1.0, 1.0);
        QVERIFY(analyseTone(x, 48000, 1)->clipped);
    }

    void whatIsNoToneIsASentence() {
        QVERIFY(!analyseTone(std::vector<double>(10, 0.0), 48000, 1).ok());
        QVERIFY(!analyseTone(std::vector<double>(48000, 0.0), 48000, 1).ok());
        QVERIFY(!analyseTone(std::vector<double>(48000, NAN), 48000, 1).ok());
        QVERIFY(!analyseTone(tone(1e-9, 1000, 48000, {}, 0, 1), 48000, 1).ok());
        QVERIFY(!analyseTone(tone(1, 1000, 48000), 0, 1).ok());
    }

    void soundFilesAreVoltsByTheirFullScale() {
        QTemporaryDir dir;
        const std::string file = dir.filePath("t.wav").toStdString();
        SF_INFO info{};
        info.channels = 2;
        info.samplerate = 48000;
        info.format = SF_FORMAT_WAV | SF_FORMAT_PCM_24;
        const auto x = tone(0.5, 1000, 48000);
        std::vector<double> both;
        for (const double v : x) {
            both.push_back(v);
            both.push_back(0.25 * v);
        }
        SNDFILE* out = sf_open(file.c_str(), SFM_WRITE, &info);
        QVERIFY(out);
        sf_writef_double(out, both.data(), 48000);
        sf_close(out);
        const auto first = readSound(file, 1, 20), second = readSound(file, 2, 20);
        QVERIFY(first.ok() && second.ok());
        QVERIFY(std::abs(analyseTone(first->volts, 48000, 20)->level / (10 / std::numbers::sqrt2) - 1) < 1e-4);
        QVERIFY(std::abs(analyseTone(second->volts, 48000, 20)->level / (2.5 / std::numbers::sqrt2) - 1) < 1e-4);
        QVERIFY(!readSound(file, 3, 20).ok());
        QVERIFY(!readSound(dir.filePath("none.wav").toStdString(), 1, 1).ok());
        QFile cut(dir.filePath("t.wav"));
        QVERIFY(cut.resize(30));
        QVERIFY(!readSound(file, 1, 1).ok());
        QFile junk(dir.filePath("junk.wav"));
        QVERIFY(junk.open(QIODevice::WriteOnly) && junk.write("RIFF\xff\xff\xff\xffWAVEfmt ") > 0);
        junk.close();
        QVERIFY(!readSound(dir.filePath("junk.wav").toStdString(), 1, 1).ok());
    }
};

EMBER_TESTS(TestSignal)
#include "test_signal.moc"
