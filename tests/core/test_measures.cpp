// Squares, noise, two tones, stimuli and tables, through systems whose figures are known in closed form.

#include "../support/suite.h"

#include "core/signal/intermodulation.h"
#include "core/signal/noise_analysis.h"
#include "core/signal/response.h"
#include "core/signal/sound_file.h"
#include "core/signal/square_wave.h"
#include "core/signal/stimulus.h"
#include "core/signal/table_file.h"

#include <QFile>
#include <QTemporaryDir>
#include <QTest>

#include <cmath>
#include <complex>
#include <functional>
#include <numbers>
#include <random>

using namespace ember;
using namespace ember::signal;

namespace {

using std::numbers::pi;
using Complex = std::complex<double>;

/// A continuous square of crest 1 through a system of this step response, sampled in its steady state: summed edge by
/// edge. `settled`: where its step comes to rest, 1 or, behind a high pass, 0.
Capture squareThrough(double hertz, double rate, double seconds, double settled,
                      const std::function<double(double)>& step) {
    Capture c;
    c.sampleRate = rate;
    const auto count = static_cast<std::size_t>(seconds * rate);
    const double half = 0.5 / hertz;
    const long returned = settled > 0 ? 20 : 120; // half periods that still matter
    for (std::size_t k = 0; k < count; ++k) {
        const double t = static_cast<double>(k) / rate + 1e-7;
        const auto last = static_cast<long>(std::floor(t / half));
        double v = -settled;
        for (long n = (last - returned) / 2 * 2; n <= last; ++n)
            v += (n % 2 == 0 ? 2.0 : -2.0) * step(t - static_cast<double>(n) * half);
        c.volts.push_back(v);
    }
    return c;
}

} // namespace

class TestMeasures : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    /// A generator that rises in 0.1 ms and tilts, into a pole of 300 Hz and one of 12 kHz: with its own square taken
    /// out the tilt is the amplifier's alone.
    void theSourcesOwnSquareIsTakenOut() {
        const double rate = 192000, hz = 1000;
        const auto square = [&](double low, double high, double sourceLow, double sourceHigh) {
            signal::Capture c;
            c.sampleRate = rate;
            c.volts.assign(static_cast<std::size_t>(0.05 * rate), 0.0);
            for (int h = 1; h * hz < 0.45 * rate; h += 2) {
                const std::complex<double> s(0, h * hz);
                std::complex<double> g = 1;
                for (const double f : {low, sourceLow})
                    if (f > 0) g *= s / (s + f);
                for (const double f : {high, sourceHigh})
                    if (f > 0) g *= f / (s + f);
                for (std::size_t k = 0; k < c.volts.size(); ++k)
                    c.volts[k] +=
                        (g * std::polar(1.0 / h, 2 * std::numbers::pi * h * hz * static_cast<double>(k) / rate -
                                                     std::numbers::pi / 2))
                            .real();
            }
            return c;
        };
        const signal::Capture source = square(0, 0, 60, 30e3), through = square(100, 12e3, 60, 30e3),
                              alone = square(100, 12e3, 0, 0);
        const auto clean = signal::withoutSource(through, source, hz);
        QVERIFY2(clean.ok(), clean ? "" : clean.problem().text().c_str());
        const auto a = signal::analyseSquare(*clean, hz), wanted = signal::analyseSquare(alone, hz),
                   raw = signal::analyseSquare(through, hz);
        QVERIFY(a && wanted && raw);
        QVERIFY2(std::abs(a->tiltPercent / wanted->tiltPercent - 1) < 0.03,
                 qPrintable(QString("%1 %2 %3").arg(a->tiltPercent).arg(wanted->tiltPercent).arg(raw->tiltPercent)));
        QVERIFY(raw->tiltPercent > 1.3 * wanted->tiltPercent);
        QVERIFY2(std::abs(a->riseSeconds / wanted->riseSeconds - 1) < 0.05,
                 qPrintable(QString("%1 %2").arg(a->riseSeconds).arg(wanted->riseSeconds)));
        // The picture expected from the response is the same square.
        std::vector<signal::ResponsePoint> points;
        for (double f = 10; f < 96e3; f *= 1.02) {
            const std::complex<double> s(0, f), g = s / (s + 100.0) * 12e3 / (s + 12e3);
            points.push_back({f, 20 * std::log10(std::abs(g)), std::arg(g) * 180 / std::numbers::pi});
        }
        const auto expected = signal::squareThrough(points, hz, 192);
        double apart = 0;
        for (std::size_t k = 0; k < 192; ++k)
            apart = std::max(apart, std::abs(expected[k] - 4 / std::numbers::pi * alone.volts[192 * 10 + k]));
        QVERIFY2(apart < 0.02, qPrintable(QString::number(apart)));
        signal::Capture other = source;
        other.sampleRate *= 2;
        QVERIFY(!signal::withoutSource(through, other));
    }

    void aSquaresTiltMeansItsLowCorner_data() {
        QTest::addColumn<double>("corner");
        QTest::addColumn<double>("hertz");
        for (const auto& [corner, hertz] : {std::pair{2.0, 100.0}, {5.0, 100.0}, {10.0, 97.3}, {20.0, 100.0}})
            QTest::newRow(qPrintable(QString("%1 at %2").arg(corner).arg(hertz))) << corner << hertz;
    }
    void aSquaresTiltMeansItsLowCorner() {
        QFETCH(double, corner);
        QFETCH(double, hertz);
        const Capture c = squareThrough(hertz, 48000, 0.5, 0, [&](double t) {
            return std::exp(-2 * pi * corner * t) * (1 - std::exp(-2 * pi * 8000 * t));
        });
        const auto s = analyseSquare(c);
        QVERIFY(s && std::abs(s->hertz / hertz - 1) < 1e-5);
        QVERIFY2(std::abs(s->lowCorner / corner - 1) < 0.03, qPrintable(QString::number(s->lowCorner)));
        QVERIFY(std::abs(s->tiltPercent / (100 * (1 - std::exp(-pi * corner / hertz))) - 1) < 0.03);
    }
    void itsRiseMeansItsHighCorner_data() {
        QTest::addColumn<double>("corner");
        QTest::addColumn<double>("rate");
        QTest::newRow("3 kHz, 192 kHz") << 3000.0 << 192000.0;
        QTest::newRow("8 kHz, 192 kHz") << 8000.0 << 192000.0;
        QTest::newRow("20 kHz, scope") << 20000.0 << 1e6;
        QTest::newRow("3 kHz, 48 kHz, folded") << 3000.0 << 47963.0;
    }
    void itsRiseMeansItsHighCorner() {
        QFETCH(double, corner);
        QFETCH(double, rate);
        const Capture c =
            squareThrough(1000, rate, 0.2, 1, [&](double t) { return 1 - std::exp(-2 * pi * corner * t); });
        const auto s = analyseSquare(c);
        QVERIFY(s);
        const double rise = std::log(9) / (2 * pi * corner); // of one pole
        QVERIFY2(std::abs(s->riseSeconds / rise - 1) < 0.03,
                 qPrintable(QString("%1 %2").arg(s->riseSeconds).arg(rise)));
        QVERIFY(std::abs(s->highCorner / (0.35 / rise) - 1) < 0.03);
        QVERIFY(s->overshootPercent < 0.5 && std::isnan(s->ringingHertz));
    }
    void itsOvershootAndRingingAreThoseOfTwoPoles_data() {
        QTest::addColumn<double>("damping");
        for (const double z : {0.2, 0.35, 0.5}) QTest::newRow(qPrintable(QString::number(z))) << z;
    }
    void itsOvershootAndRingingAreThoseOfTwoPoles() {
        QFETCH(double, damping);
        const double w = 2 * pi * 15000, wd = w * std::sqrt(1 - damping * damping);
        const Capture c = squareThrough(1000, 500000, 0.1, 1, [&](double t) {
            return 1 - std::exp(-damping * w * t) * (std::cos(wd * t) + damping * w / wd * std::sin(wd * t));
        });
        const auto s = analyseSquare(c);
        QVERIFY(s);
        const double over = 100 * std::exp(-pi * damping / std::sqrt(1 - damping * damping));
        QVERIFY2(std::abs(s->overshootPercent / over - 1) < 0.03,
                 qPrintable(QString("%1 %2").arg(s->overshootPercent).arg(over)));
        QVERIFY2(std::abs(s->ringingHertz / (wd / (2 * pi)) - 1) < 0.03, qPrintable(QString::number(s->ringingHertz)));
        QVERIFY2(std::abs(s->damping / damping - 1) < 0.03, qPrintable(QString::number(s->damping)));
    }
    void aCoarseEdgeIsNotTrusted() {
        const Capture c =
            squareThrough(1000, 48000, 0.5, 1, [](double t) { return 1 - std::exp(-2 * pi * 18000 * t); });
        const auto s = analyseSquare(c);
        QVERIFY(s && !s->trust.empty() && QString::fromStdString(s->trust[0]).contains("samples"));
    }

    void humIsReadLineByLineAndItsPatternNamed_data() {
        QTest::addColumn<QList<double>>("lines"); // of 50 Hz, volts RMS
        QTest::addColumn<QString>("word");
        QTest::newRow("heaters") << QList<double>{2e-3, 1e-4} << "mains' own";
        QTest::newRow("ripple") << QList<double>{1e-4, 2e-3, 0, 6e-4} << "ripple";
        QTest::newRow("comb") << QList<double>{1e-3, 9e-4, 8e-4, 8e-4, 7e-4, 6e-4, 6e-4, 5e-4, 5e-4, 4e-4} << "comb";
        QTest::newRow("quiet") << QList<double>{} << "noise";
    }
    void humIsReadLineByLineAndItsPatternNamed() {
        QFETCH(QList<double>, lines);
        QFETCH(QString, word);
        Capture c;
        std::mt19937_64 dice(5);
        std::normal_distribution<double> noise(0, 1e-4);
        for (int k = 0; k < 4 * 48000; ++k) {
            double v = noise(dice);
            for (int h = 0; h < lines.size(); ++h)
                v += std::numbers::sqrt2 * lines[h] * std::sin(2 * pi * (h + 1) * 49.97 * k / 48000 + h);
            c.volts.push_back(v);
        }
        const auto n = analyseNoise(c, 50);
        QVERIFY(n);
        QVERIFY2(QString::fromStdString(n->verdict).contains(word), n->verdict.c_str());
        double square = 1e-8 * (20000 - 20) / 24000;
        for (int h = 0; h < lines.size(); ++h) {
            square += lines[h] * lines[h];
            if (lines[h] < 5e-5) continue;
            const auto at = std::find_if(n->lines.begin(), n->lines.end(),
                                         [&](const NoiseLine& l) { return std::abs(l.hertz - (h + 1) * 49.97) < 0.2; });
            QVERIFY(at != n->lines.end());
            QVERIFY2(std::abs(20 * std::log10(at->rms / lines[h])) < 0.2, qPrintable(QString::number(at->rms)));
        }
        QVERIFY2(std::abs(n->rms / std::sqrt(square) - 1) < 0.02,
                 qPrintable(QString("%1 %2").arg(n->rms).arg(std::sqrt(square))));
        QVERIFY(n->weighted < n->rms);
    }
    void intermodulationIsWhatAProductMakes() {
        // v + a v^2 of two tones p, q: sidebands of a p q each.
        for (const auto& [low, high, p, q] : {std::tuple{60.0, 7000.0, 0.4, 0.1}, {19000.0, 20000.0, 0.25, 0.25}}) {
            Capture c;
            for (int k = 0; k < 3 * 48000; ++k) {
                const double v = p * std::sin(2 * pi * low * k / 48000) + q * std::sin(2 * pi * high * k / 48000);
                c.volts.push_back(v + 0.01 * v * v);
            }
            const auto m = analyseIntermodulation(c);
            QVERIFY(m && m->difference == (high < 2 * low));
            const double percent = m->difference ? 100 * 0.01 * p * q / (p + q) : 100 * 2 * 0.01 * p * q / q;
            QVERIFY2(std::abs(m->percent / percent - 1) < 0.005,
                     qPrintable(QString("%1 %2").arg(m->percent).arg(percent)));
        }
        Stimulus one;
        one.kind = StimulusKind::Tone;
        QVERIFY(!analyseIntermodulation({*samplesOf(one), 48000, 0, ""}));
    }

    void whatTheProgramPlaysItMeasuresAsIdeal() {
        // With the fades and the silence that its own files have.
        Stimulus s;
        s.kind = StimulusKind::Square, s.rate = 192000, s.seconds = 1;
        const auto square = analyseSquare({*samplesOf(s), s.rate, 0, ""});
        QVERIFY(square && std::abs(square->hertz - 1000) < 0.01);
        QVERIFY2(square->tiltPercent < 1, qPrintable(QString::number(square->tiltPercent)));
        s.kind = StimulusKind::Intermodulation, s.from = 60, s.to = 7000, s.rate = 48000, s.seconds = 3;
        const auto two = analyseIntermodulation({*samplesOf(s), s.rate, 0, ""});
        QVERIFY(two && two->percent < 1e-4);
    }
    void stimuliAreWhatTheySay() {
        Stimulus s;
        s.kind = StimulusKind::Tone, s.hertz = 1000, s.level = -20, s.seconds = 1;
        const auto tone = *samplesOf(s);
        QCOMPARE(tone.size(), 96000U);
        double most = 0;
        for (const double v : tone) most = std::max(most, std::abs(v));
        QVERIFY(std::abs(20 * std::log10(most) + 20) < 0.01);
        s.kind = StimulusKind::Sweep, s.from = 500, s.to = 100;
        QVERIFY(!samplesOf(s));
        s.from = 20, s.to = 30000;
        QVERIFY(!samplesOf(s));
        QTemporaryDir dir;
        const auto file = dir.filePath("tone.wav").toStdString();
        QVERIFY(writeSound(file, tone, 48000));
        const auto back = readSound(file, 1, 2.0);
        QVERIFY(back && back->volts.size() == tone.size() && std::abs(back->volts[1234] - 2 * tone[1234]) < 1e-6);
        QVERIFY(!writeSound(dir.filePath("no/such/folder.wav").toStdString(), tone, 48000));
    }
    void whatCannotBePlayedIsSaidByItsOption_data() {
        QTest::addColumn<int>("kind");
        QTest::addColumn<double>("hertz");
        QTest::addColumn<double>("from");
        QTest::addColumn<double>("to");
        QTest::addColumn<double>("seconds");
        QTest::addColumn<double>("rate");
        QTest::addColumn<double>("level");
        QTest::addColumn<QString>("option");
        const auto row = [](const char* name, StimulusKind kind, double hertz, double from, double to, double seconds,
                            double rate, double level, const char* option) {
            QTest::newRow(name) << static_cast<int>(kind) << hertz << from << to << seconds << rate << level
                                << QString(option);
        };
        row("above half the rate", StimulusKind::Tone, 30000, 20, 20000, 1, 48000, -6, "--hz");
        row("no frequency", StimulusKind::Square, 0, 20, 20000, 1, 48000, -6, "--hz");
        row("falling", StimulusKind::Sweep, 1000, 2000, 100, 1, 48000, -6, "--from");
        row("too high", StimulusKind::Sweep, 1000, 20, 30000, 1, 48000, -6, "--from");
        row("not a number", StimulusKind::Sweep, 1000, NAN, 20000, 1, 48000, -6, "--from");
        row("for ever", StimulusKind::Noise, 1000, 20, 20000, 1e9, 48000, -6, "--seconds");
        row("no rate", StimulusKind::Noise, 1000, 20, 20000, 1, 1, -6, "--rate");
        row("above full scale", StimulusKind::Tone, 1000, 20, 20000, 1, 48000, 3, "--level");
        row("two tones too high", StimulusKind::Intermodulation, 1000, 19000, 25000, 1, 48000, -6, "--from");
    }
    void whatCannotBePlayedIsSaidByItsOption() {
        QFETCH(int, kind);
        QFETCH(QString, option);
        Stimulus s;
        s.kind = static_cast<StimulusKind>(kind);
        QFETCH(double, hertz);
        QFETCH(double, from);
        QFETCH(double, to);
        QFETCH(double, seconds);
        QFETCH(double, rate);
        QFETCH(double, level);
        s.hertz = hertz, s.from = from, s.to = to, s.seconds = seconds, s.rate = rate, s.level = level;
        const auto made = samplesOf(s);
        QVERIFY(!made);
        QCOMPARE(QString::fromStdString(made.problem().where), option);
        QVERIFY(made.problem().sentence.find("expected") != std::string::npos);
    }
    void everyStimulusKeepsItsCrestAndItsLength() {
        for (const auto kind : {StimulusKind::Sweep, StimulusKind::Tone, StimulusKind::Square,
                                StimulusKind::Intermodulation, StimulusKind::Noise})
            for (const double level : {-40.0, -6.0, 0.0}) {
                Stimulus s;
                s.kind = kind, s.level = level, s.seconds = 2,
                s.to = kind == StimulusKind::Intermodulation ? 7000 : 20000;
                const auto x = *samplesOf(s);
                QCOMPARE(x.size(), 3U * 48000);
                double most = 0;
                for (const double v : x) most = std::max(most, std::abs(v));
                QVERIFY2(std::abs(20 * std::log10(most) - level) < 0.05,
                         qPrintable(QString("%1: %2 dB").arg(static_cast<int>(kind)).arg(20 * std::log10(most))));
                for (std::size_t k = 2 * 48000; k < x.size(); ++k) QCOMPARE(x[k], 0.0); // the silence
            }
        for (const char* name : {"sweep", "tone", "square", "imd", "noise"}) QVERIFY(stimulusKind(name));
        QVERIFY(!stimulusKind("warble"));
    }
    void tablesOfOscilloscopesAreUnderstood_data() {
        QTest::addColumn<QByteArray>("head");
        QTest::addColumn<QByteArray>("separator");
        QTest::addColumn<bool>("comma");
        QTest::addColumn<double>("time");
        QTest::addColumn<double>("volt");
        QTest::newRow("plain") << QByteArray() << QByteArray(",") << false << 1.0 << 1.0;
        QTest::newRow("units in heads") << QByteArray("Time (ms),CH1 (mV)\n") << QByteArray(",") << false << 1e-3
                                        << 1e-3;
        QTest::newRow("semicolons, decimal commas")
            << QByteArray("Zeit [us];Kanal A [V]\n\n") << QByteArray(";") << true << 1e-6 << 1.0;
        QTest::newRow("tabs, several lines of heads")
            << QByteArray("Record Length\t1000\nSource\tCH1\ns\tV\n") << QByteArray("\t") << false << 1.0 << 1.0;
    }
    void tablesOfOscilloscopesAreUnderstood() {
        QFETCH(QByteArray, head);
        QFETCH(QByteArray, separator);
        QFETCH(bool, comma);
        QFETCH(double, time);
        QFETCH(double, volt);
        QTemporaryDir dir;
        QFile file(dir.filePath("scope.csv"));
        QVERIFY(file.open(QIODevice::WriteOnly));
        file.write(head);
        const double rate = 100000;
        for (int k = 0; k < 5000; ++k) {
            QByteArray line = QByteArray::number(k / rate / time, 'g', 9) + separator +
                              QByteArray::number(3 * std::sin(2 * pi * 1000 * k / rate) / volt, 'g', 9) + "\r\n";
            if (comma) line.replace('.', ',');
            file.write(line);
        }
        file.close();
        const auto t = readTable(file.fileName().toStdString(), 1);
        QVERIFY2(t, t ? "" : t.problem().sentence.c_str());
        QVERIFY2(std::abs(t->capture.sampleRate / rate - 1) < 1e-6, t->understood.c_str());
        QCOMPARE(t->capture.volts.size(), 5000U);
        QVERIFY(std::abs(*std::max_element(t->capture.volts.begin(), t->capture.volts.end()) - 3) < 1e-6);
    }
    void hostileTablesGetASentence() {
        QTemporaryDir dir;
        const auto with = [&](const QByteArray& bytes) {
            QFile file(dir.filePath("x.csv"));
            if (!file.open(QIODevice::WriteOnly)) return std::string();
            file.write(bytes);
            file.close();
            const auto t = readTable(file.fileName().toStdString(), 1);
            return t ? std::string() : t.problem().sentence;
        };
        QVERIFY(!with("").empty());
        QVERIFY(!with("no numbers\nat all\n").empty());
        QVERIFY(!with(QByteArray(100000, '1')).empty());
        QVERIFY(!with("1,2\n1,3\n1,4\n").empty());                       // time that does not rise
        QVERIFY(with("0,1\n1,nan\n2,inf\n3,1\n4,2\n").empty() == false); // a gap where the numbers fail
        QVERIFY(!with("0;1\n1;2\n2;3\n9;4\n10;5\n11;5\n").empty());
        QVERIFY(!readTable(dir.path().toStdString(), 1));
    }
};

EMBER_TESTS(TestMeasures)
#include "test_measures.moc"
