// The practice amplifier, several times built: by every method it lies within the plan's band, and two methods that
// measure the same agree.

#include "../support/demo.h"
#include "../support/shipped.h"
#include "../support/suite.h"

#include "core/bench/series/prediction.h"
#include "core/bench/virtual_amplifier.h"
#include "core/plan/solve.h"
#include "core/signal/intermodulation.h"
#include "core/signal/noise_analysis.h"
#include "core/signal/response.h"
#include "core/signal/square_wave.h"
#include "core/signal/steady_part.h"
#include "core/signal/tone_analysis.h"

#include <QTest>

#include <cmath>

using namespace ember;
using namespace ember::bench;

class TestMethods : public QObject {
    Q_OBJECT
    const Build demo = demoBuild();
    static constexpr int seeds = 20;

    static signal::ToneAnalysis tone(VirtualAmplifier& a, double hertz, double rms = 0.1) {
        const auto c = a.take({TakeKind::Tone, 0, rms, hertz, 0.4});
        if (!c) qFatal("%s", c.problem().text().c_str());
        return *signal::analyseTone(signal::steadyPart(c->volts, c->sampleRate), c->sampleRate, c->fullScale);
    }
    static double dbAt(const signal::Response& r, double hertz) {
        double out = 0, nearest = 1e9;
        for (const auto& p : r.points)
            if (std::abs(std::log(p.hertz / hertz)) < nearest)
                nearest = std::abs(std::log(p.hertz / hertz)), out = p.db;
        return out;
    }

  private Q_SLOTS:
    /// Twenty of them. Gain by a tone and by a sweep within 0.1 dB of each other at 100 Hz, 1 kHz and 8 kHz; third
    /// harmonic by both within 1 dB; two tones and a square run without a doubt; THD by frequency within the plan's
    /// band at nine points of ten.
    void amplifiersByEveryMethod() {
        plan::Figures figures = plan::solveFigures(demo, catalogue);
        SeriesContext context = seriesContextOf(demo, figures);
        SeriesRequest request{SeriesKind::DistortionByFrequency};
        request.watts = 0.1;
        const auto foretold = predict(request, demo, catalogue, demo.mains.volts, context, 12, {});
        QVERIFY2(foretold.ok(), foretold ? "" : foretold.problem().text().c_str());
        QCOMPARE(foretold->samples, 12);
        int within = 0, points = 0, thdInside = 0;
        for (int seed = 1; seed <= seeds; ++seed) {
            auto a = VirtualAmplifier::make(demo, catalogue, static_cast<std::uint64_t>(seed), "");
            QVERIFY(a && a->power(6, demo.mains.volts));
            const TakeRequest sweep{TakeKind::Sweep, 0, 0.1, 0, 0.8};
            const auto captured = a->take(sweep);
            QVERIFY(captured.ok());
            const auto r = signal::sweepResponse(*captured, {*voltsOf(sweep), takeRate, 0, ""});
            QVERIFY2(r.ok(), r ? "" : r.problem().text().c_str());
            for (const double hz : {100.0, 1000.0, 8000.0}) {
                const double byTone = 20 * std::log10(tone(*a, hz).harmonics[0].rms / 0.1), bySweep = dbAt(*r, hz);
                QVERIFY2(std::abs(byTone - bySweep) < 0.1,
                         qPrintable(QString("seed %1, %2 Hz: %3 dB by a tone, %4 by a sweep")
                                        .arg(seed)
                                        .arg(hz)
                                        .arg(byTone)
                                        .arg(bySweep)));
            }
            // Where the third harmonic stands well above the noise: half a volt.
            const auto loud = tone(*a, 1000, 0.5);
            const auto again = measure({.kind = SeriesKind::DistortionByFrequency, .watts = 0.1}, context,
                                       [&](const TakeRequest& t) { return a->take(t); });
            QVERIFY2(again.ok(), again ? "" : again.problem().text().c_str());
            const double share = shareWithin(*again, *foretold);
            QVERIFY(std::isfinite(share));
            within += static_cast<int>(std::lround(share * static_cast<double>(again->lines[0].x.size())));
            points += static_cast<int>(again->lines[0].x.size());
            thdInside += loud.thdPercent > 0.05 && loud.thdPercent < 1.5;
            if (seed > 1) continue; // every kind of take
            const auto two = a->take(shortened({TakeKind::Modulation, 0, 0.2, 0, 0}));
            QVERIFY(two && signal::analyseIntermodulation(*two));
            const auto square = a->take(shortened({TakeKind::Square, 0, 0.05, 1000, 0}));
            const auto seen =
                square ? signal::analyseSquare(*square, 1000) : Expected<signal::SquareAnalysis>(square.problem());
            QVERIFY(seen && std::isfinite(seen->tiltPercent) && seen->tiltPercent < 15);
            const auto hum = a->take({TakeKind::Noise, 0, 0, 0, 1});
            const auto heard = hum ? signal::analyseNoise(*hum, 50) : Expected<signal::NoiseAnalysis>(hum.problem());
            QVERIFY(heard && heard->rms > 1e-5 && heard->rms < 5e-3);
        }
        QVERIFY2(within >= 0.9 * points,
                 qPrintable(QString("%1 of %2 points within the band").arg(within).arg(points)));
        QCOMPARE(thdInside, seeds);
    }
};

EMBER_TESTS(TestMethods)
#include "test_methods.moc"
