// Sweeps through filters and nonlinearities whose figures are known in closed form.

#include "../support/suite.h"

#include "core/signal/intermodulation.h"
#include "core/signal/noise_analysis.h"
#include "core/signal/phase.h"
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

Capture sweep(double seconds = 5, double rate = 48000, double level = -1) {
    Stimulus s;
    s.seconds = seconds, s.rate = rate, s.level = level;
    return {*samplesOf(s), rate, 0, "sweep"};
}

/// High pass and low pass of first order as the bilinear transform makes them, and what that transform says of them.
struct Filter {
    double low, high, rate;
    [[nodiscard]] Complex section(double hertz, double corner, bool highPass) const {
        const double warped = std::tan(pi * corner / rate);
        const Complex s = Complex(0, std::tan(pi * hertz / rate)) / warped;
        return highPass ? s / (1.0 + s) : 1.0 / (1.0 + s);
    }
    [[nodiscard]] double db(double hertz) const {
        return 20 * std::log10(std::abs(section(hertz, low, true) * section(hertz, high, false)));
    }
    void run(std::vector<double>& x) const {
        for (const auto& [corner, highPass] : {std::pair{low, true}, {high, false}}) {
            const double w = std::tan(pi * corner / rate), a = (w - 1) / (w + 1),
                         b = highPass ? 1 / (1 + w) : w / (1 + w);
            double in = 0, out = 0;
            for (double& v : x) {
                const double next = b * (v + (highPass ? -in : in)) - a * out;
                in = v;
                v = out = next;
            }
        }
    }
};

/// The record as a device with another clock has it, and another beginning: band limited in between (a long sinc).
Capture recaptured(const Capture& c, double ppm, double early) {
    Capture out = c;
    const double ratio = 1 + ppm * 1e-6; // its seconds are shorter: more samples in the same time
    const auto count = static_cast<std::size_t>((static_cast<double>(c.volts.size()) + early * c.sampleRate) * ratio);
    out.volts.assign(count, 0);
    for (std::size_t k = 0; k < count; ++k) {
        const double t = static_cast<double>(k) / ratio - early * c.sampleRate;
        const auto middle = static_cast<std::ptrdiff_t>(std::floor(t));
        double sum = 0;
        for (std::ptrdiff_t n = middle - 31; n <= middle + 32; ++n) {
            if (n < 0 || n >= std::ssize(c.volts)) continue;
            const double d = t - static_cast<double>(n), w = 0.5 + 0.5 * std::cos(pi * d / 32.5);
            sum += c.volts[static_cast<std::size_t>(n)] * w * (std::abs(d) < 1e-12 ? 1 : std::sin(pi * d) / (pi * d));
        }
        out.volts[k] = sum;
    }
    return out;
}

} // namespace

class TestSweeps : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    /// Phase and group delay of a filter of two first orders against 1 kHz, its 1 kHz delay taken off, whatever the
    /// record's own delay; a polarity that is turned round is not seen, since 1 kHz is the reference.
    void aSweepFindsPhaseAndGroupDelay() {
        const Capture x = sweep();
        const Filter filter{60, 5000, x.sampleRate};
        const auto degrees = [&](double hz) {
            return std::arg(filter.section(hz, filter.low, true) * filter.section(hz, filter.high, false)) * 180 / pi;
        };
        const double slope = (degrees(1001) - degrees(999)) / 2;
        for (const std::size_t late : {std::size_t(0), std::size_t(777)}) {
            Capture y = x;
            filter.run(y.volts);
            y.volts.insert(y.volts.begin(), late, 0.0);
            for (double& v : y.volts) v = -v;
            const auto r = sweepResponse(y, x);
            QVERIFY2(r, r ? "" : r.problem().sentence.c_str());
            const auto phase = phaseFrom1kHz(r->points), delay = groupDelay(r->points);
            QCOMPARE(phase.size(), r->points.size());
            for (std::size_t k = 2; k + 2 < r->points.size(); ++k) {
                const double hz = r->points[k].hertz;
                if (hz < 40 || hz > 12e3) continue;
                const double wanted = degrees(hz) - degrees(1000) - slope * (hz - 1000);
                QVERIFY2(std::abs(phase[k] - wanted) < 0.5 + 1e-4 * hz,
                         qPrintable(QString("%1 Hz: %2, %3 wanted").arg(hz).arg(phase[k]).arg(wanted)));
                const double late1 = -(degrees(1.001 * hz) - degrees(hz / 1.001)) / 360 / (1.001 * hz - hz / 1.001),
                             late2 = -slope / 360;
                QVERIFY2(std::abs(delay[k] - (late1 - late2)) < 0.03 * std::abs(late1 - late2) + 2e-6,
                         qPrintable(QString("%1 Hz: %2 s, %3 wanted").arg(hz).arg(delay[k]).arg(late1 - late2)));
            }
        }
    }

    /// One pole of 300 Hz and none below the sweep's reach: the step is 1 - exp(-2 pi 300 t) as far as the sweep's
    /// lowest frequency lets it stand.
    void aSweepFindsTheStep() {
        Stimulus s;
        s.from = 2, s.to = 20000, s.seconds = 8, s.level = -1;
        const Capture x{*samplesOf(s), s.rate, 0, "sweep"};
        Capture y = x;
        double state = 0;
        const double share = 1 - std::exp(-2 * pi * 300 / s.rate); // a step's exact answer at the samples
        for (double& v : y.volts) state += share * (v - state), v = state;
        const auto r = sweepResponse(y, x);
        QVERIFY2(r && r->step.size() > 1000, r ? "" : r.problem().sentence.c_str());
        QCOMPARE(r->stepRate, s.rate);
        for (double t = 0.0005; t < 0.006; t += 0.0005) {
            const auto at = static_cast<std::size_t>((0.001 + t) * s.rate);
            const double wanted = 1 - std::exp(-2 * pi * 300 * t);
            QVERIFY2(std::abs(r->step[at] - wanted) < 0.06,
                     qPrintable(QString("%1 s: %2, %3 wanted").arg(t).arg(r->step[at]).arg(wanted)));
        }
        QVERIFY(std::abs(r->step[10]) < 0.05); // before it, nothing
    }

    void aSweepFindsAFiltersResponseAndCorners() {
        const Capture x = sweep();
        const Filter filter{31, 9000, x.sampleRate};
        Capture y = x;
        filter.run(y.volts);
        const auto r = sweepResponse(y, x);
        QVERIFY2(r, r ? "" : r.problem().sentence.c_str());
        double worst = 0;
        for (const ResponsePoint& p : r->points) worst = std::max(worst, std::abs(p.db - filter.db(p.hertz)));
        QVERIFY2(r->points.size() > 220 && worst < 0.02, qPrintable(QString::number(worst)));
        // Of the two corners, each as the closed form of the whole has it.
        const auto corner = [&](double from, double factor) {
            double h = from;
            while (filter.db(h) > filter.db(1000) - 3.0103) h *= factor;
            return h;
        };
        QVERIFY(std::abs(r->lowCorner / corner(1000, 0.9999) - 1) < 0.005);
        QVERIFY(std::abs(r->highCorner / corner(1000, 1.0001) - 1) < 0.005);
        QVERIFY(std::abs(r->delay) < 1e-3 && std::abs(r->clockPpm) < 12 && r->trust.empty());
    }
    void clockOffsetStartAndLengthDoNotMatter_data() {
        QTest::addColumn<double>("ppm");
        QTest::addColumn<double>("early");
        QTest::newRow("recorder fast, early") << 100.0 << 0.83;
        QTest::newRow("recorder slow, early") << -100.0 << 2.31;
        QTest::newRow("recorder slow") << -100.0 << 0.0;
    }
    void clockOffsetStartAndLengthDoNotMatter() {
        QFETCH(double, ppm);
        QFETCH(double, early);
        const Capture x = sweep();
        Capture y = x;
        const Filter filter{25, 12000, x.sampleRate};
        filter.run(y.volts);
        y = recaptured(y, ppm, early);
        const auto r = sweepResponse(y, x);
        QVERIFY(r);
        QVERIFY2(std::abs(r->clockPpm - ppm) < 5, qPrintable(QString::number(r->clockPpm)));
        QVERIFY2(std::abs(r->delay - early) < 0.002, qPrintable(QString::number(r->delay)));
        for (const ResponsePoint& p : r->points)
            if (p.hertz > 22 && p.hertz < 18000)
                QVERIFY2(std::abs(p.db - filter.db(p.hertz)) < 0.03,
                         qPrintable(QString("%1 Hz: %2, %3").arg(p.hertz).arg(p.db).arg(filter.db(p.hertz))));
    }
    void filtersByChanceAreFoundByShortSweeps() {
        std::mt19937 dice(17);
        std::uniform_real_distribution<double> low(5, 80), high(4000, 18000);
        const Capture x = sweep(3);
        for (int k = 0; k < 10; ++k) {
            const Filter filter{low(dice), high(dice), x.sampleRate};
            Capture y = x;
            filter.run(y.volts);
            const auto r = sweepResponse(y, x);
            QVERIFY(r);
            for (const ResponsePoint& p : r->points)
                if (p.hertz > 30 && p.hertz < 18500)
                    QVERIFY2(std::abs(p.db - filter.db(p.hertz)) < 0.02, qPrintable(QString("%1 Hz of %2, %3: %4, %5")
                                                                                        .arg(p.hertz)
                                                                                        .arg(filter.low)
                                                                                        .arg(filter.high)
                                                                                        .arg(p.db)
                                                                                        .arg(filter.db(p.hertz))));
            QCOMPARE(std::isnan(r->highCorner), false);
        }
    }
    void gainAndPolarityAreThoseOfTheAmplifier() {
        const Capture x = sweep(3);
        Capture y = x;
        for (double& v : y.volts) v *= -0.1; // an inverting one of -20 dB
        const auto r = sweepResponse(y, x);
        QVERIFY(r && std::isnan(r->lowCorner) && std::isnan(r->highCorner));
        for (const ResponsePoint& p : r->points) {
            QVERIFY(std::abs(p.db + 20) < 0.001);
            if (p.hertz > 100 && p.hertz < 10000)
                QVERIFY2(std::abs(std::abs(p.degrees) - 180) < 0.5, qPrintable(QString::number(p.degrees)));
        }
        // 1 ms after the step, as far above the subsonic end of the sweep as the response goes.
        const double stepped = r->step.at(static_cast<std::size_t>(2e-3 * r->stepRate));
        QVERIFY2(std::abs(stepped + 0.1) < 0.01, qPrintable(QString::number(stepped)));
        for (const HarmonicCurve& h : r->harmonics)
            for (const ResponsePoint& p : h.points)
                if (p.hertz > 100)
                    QVERIFY2(p.db < -90, qPrintable(QString("%1: %2 Hz %3 dB").arg(h.order).arg(p.hertz).arg(p.db)));
    }
    void noiseUnderASweepHidesWhatIsSmallerThanIt() {
        const Capture x = sweep(5);
        Capture y = x;
        std::mt19937_64 chance(9);
        std::normal_distribution<double> noise(0, 1e-3); // -60 dB
        for (double& v : y.volts) v += noise(chance);
        const auto r = sweepResponse(y, x);
        QVERIFY(r);
        for (const ResponsePoint& p : r->points)
            if (p.hertz > 25 && p.hertz < 19000)
                QVERIFY2(std::abs(p.db) < 0.2, qPrintable(QString("%1 %2").arg(p.hertz).arg(p.db)));
    }
    void aLateBeginningIsSaidAndTheRestHolds() {
        const Capture x = sweep();
        Capture y = x;
        y.volts.erase(y.volts.begin(), y.volts.begin() + static_cast<std::ptrdiff_t>(2 * y.sampleRate));
        const auto r = sweepResponse(y, x);
        QVERIFY(r && r->trust.size() == 1 && QString::fromStdString(r->trust[0]).contains("began 2.00 s after"));
        for (const ResponsePoint& p : r->points)
            if (p.hertz > 800 && p.hertz < 19000)
                QVERIFY2(std::abs(p.db) < 0.05, qPrintable(QString("%1 %2").arg(p.hertz).arg(p.db)));
    }
    void anotherRateAndALoopbackAreTakenAlong() {
        // Played at 48 kHz, captured at 44.1 kHz, by a device with a response of its own.
        const Capture x = sweep(6);
        Stimulus slow;
        slow.seconds = 6, slow.rate = 44100, slow.level = -1, slow.to = 20000;
        Capture loop{*samplesOf(slow), 44100, 0, "loop"}, y = loop;
        Filter{8, 15000, 44100}.run(loop.volts);
        Filter{8, 15000, 44100}.run(y.volts);
        const Filter amplifier{40, 8000, 44100};
        amplifier.run(y.volts);
        const auto r = sweepResponse(y, x, &loop);
        QVERIFY(r);
        for (const ResponsePoint& p : r->points)
            if (p.hertz > 22 && p.hertz < 19000)
                QVERIFY2(std::abs(p.db - amplifier.db(p.hertz)) < 0.02,
                         qPrintable(QString("%1 %2").arg(p.hertz).arg(p.db)));
    }
    void harmonicsOfAKnownNonlinearityComeOutOfTheSweep() {
        // Chebyshev polynomials make exactly one harmonic each of a sine of crest 1.
        const Capture x = sweep(6, 96000, 0);
        Capture y = x;
        const std::vector<std::pair<int, double>> wanted{{2, 1e-2}, {3, 3e-3}, {4, 1e-4}, {5, 2e-4}};
        for (double& v : y.volts) {
            const double s = v;
            const double t2 = 2 * s * s - 1, t3 = 4 * s * s * s - 3 * s, t4 = 8 * std::pow(s, 4) - 8 * s * s + 1,
                         t5 = 16 * std::pow(s, 5) - 20 * s * s * s + 5 * s;
            v = s + 1e-2 * t2 + 3e-3 * t3 + 1e-4 * t4 + 2e-4 * t5;
        }
        const auto r = sweepResponse(y, x);
        QVERIFY(r && r->harmonics.size() == 4);
        for (const auto& [order, share] : wanted) {
            const HarmonicCurve& h = r->harmonics[static_cast<std::size_t>(order - 2)];
            QCOMPARE(h.order, order);
            int seen = 0;
            for (const ResponsePoint& p : h.points)
                if (p.hertz > 100 && p.hertz < 3000) {
                    ++seen;
                    QVERIFY2(std::abs(p.db - 20 * std::log10(share)) < 0.2,
                             qPrintable(QString("order %1, %2 Hz: %3").arg(order).arg(p.hertz).arg(p.db)));
                }
            QVERIFY(seen > 50);
        }
    }
    void aCleanSweepThroughSixteenBitsHasNoHarmonicsAbove80Db() {
        const Capture x = sweep();
        Capture y = x;
        std::mt19937 dice(2);
        std::uniform_real_distribution<double> dither(-0.5, 0.5);
        for (double& v : y.volts) v = std::round(v * 32767 + dither(dice) + dither(dice)) / 32767;
        const auto r = sweepResponse(y, x);
        QVERIFY(r);
        for (const HarmonicCurve& h : r->harmonics)
            for (const ResponsePoint& p : h.points)
                if (p.hertz > 60)
                    QVERIFY2(p.db < -80, qPrintable(QString("%1: %2 Hz %3 dB").arg(h.order).arg(p.hertz).arg(p.db)));
    }
    void whatIsNoSweepIsRefusedAndClippingIsSaid() {
        Stimulus noise;
        noise.kind = StimulusKind::Noise, noise.seconds = 4;
        const Capture x = sweep(4), wrong{*samplesOf(noise), 48000, 0, ""};
        QVERIFY(!sweepResponse(x, wrong));
        QVERIFY(!sweepResponse(wrong, x));
        QVERIFY(!sweepResponse({std::vector<double>(200000, 0.0), 48000, 0, ""}, x));
        Capture clipped = x;
        for (double& v : clipped.volts) v = std::clamp(v, -0.5, 0.5);
        const auto r = sweepResponse(clipped, x);
        QVERIFY2(r, r ? "" : r.problem().sentence.c_str());
        QVERIFY2(!r->trust.empty() && QString::fromStdString(r->trust[0]).contains("clipped"),
                 r->trust.empty() ? "" : r->trust[0].c_str());
    }
    /// x + 0.02 x^2: the second harmonic is the same at every frequency, up to where the sweep fades out.
    void aHarmonicDoesNotRiseAtItsEnd() {
        const Capture x = sweep(5);
        Capture y = x;
        for (double& v : y.volts) v += 0.02 * v * v;
        const auto r = sweepResponse(y, x);
        QVERIFY(r && !r->harmonics.empty() && r->harmonics[0].order == 2);
        const double crest = crestOf(x.volts), wanted = 20 * std::log10(0.02 * crest / 2);
        const auto& points = r->harmonics[0].points;
        for (const ResponsePoint& p : points)
            if (p.hertz > 60)
                QVERIFY2(std::abs(p.db - wanted) < 0.2,
                         qPrintable(QString("%1 Hz: %2 dB for %3").arg(p.hertz).arg(p.db).arg(wanted)));
        QVERIFY2(points.back().hertz > 8800, qPrintable(QString::number(points.back().hertz)));
    }
    void aSweepByItselfIsFlat() {
        const Capture x = sweep(5);
        const auto r = sweepResponse(x, x);
        QVERIFY(r && r->trust.empty());
        for (const ResponsePoint& p : r->points)
            QVERIFY2(std::abs(p.db) < 0.01, qPrintable(QString("%1 %2").arg(p.hertz).arg(p.db)));
    }
};

EMBER_TESTS(TestSweeps)
#include "test_sweeps.moc"
