// Any signal through a channel over time, against what is known of it otherwise.

#include "../support/demo.h"
#include "../support/shipped.h"
#include "../support/suite.h"

#include "core/bench/virtual_amplifier.h"
#include "core/plan/clipping.h"
#include "core/plan/disturbance.h"
#include "core/plan/stage_figures.h"
#include "core/plan/tone.h"
#include "core/signal/delay.h"
#include "core/signal/intermodulation.h"
#include "core/signal/resample.h"
#include "core/signal/response.h"
#include "core/signal/square_wave.h"
#include "core/signal/stimulus.h"
#include "core/signal/tone_analysis.h"

#include <QTest>

#include <cmath>
#include <numbers>

using namespace ember;

class TestPlayed : public QObject {
    Q_OBJECT
    const plan::Steady steady = *plan::solveSteady(demoBuild(), catalogue, {demoBuild().mains.volts});

    std::vector<double> sine(double rms, double hertz, double seconds, double rate) {
        std::vector<double> out(static_cast<std::size_t>(seconds * rate));
        for (std::size_t k = 0; k < out.size(); ++k)
            out[k] = rms * std::numbers::sqrt2 * std::sin(2 * std::numbers::pi * hertz * static_cast<double>(k) / rate);
        return out;
    }

  private Q_SLOTS:
    /// Six-point Lagrange: at eight samples a period within 2e-3 of the crest, at sixteen within 4e-5; samples exactly.
    void samplesAreInterpolated() {
        for (const auto& [perPeriod, error] : {std::pair{8.0, 2e-3}, {16.0, 4e-5}}) {
            circuit::Samples s{1000, {}};
            for (int k = 0; k < 200; ++k) s.values.push_back(std::sin(2 * std::numbers::pi * k / perPeriod));
            for (double t = 0.02; t < 0.15; t += 1.7e-4)
                QVERIFY(std::abs(s.at(t) - std::sin(2 * std::numbers::pi * 1000 * t / perPeriod)) < error);
            QVERIFY(std::abs(s.at(0.05) - s.values[50]) < 1e-12);
            QVERIFY(s.at(-1) == 0 && s.at(5) == 0);
        }
    }

    void resamplingKeepsATone() {
        const auto x = sine(1, 1000, 0.1, 48000);
        const auto fine = signal::resampled(x, 4, 1), back = signal::resampled(fine, 1, 4);
        QCOMPARE(fine.size(), 4 * x.size());
        for (std::size_t k = x.size() / 4; k < 3 * x.size() / 4; ++k) {
            QVERIFY(std::abs(fine[4 * k + 2] - std::numbers::sqrt2 * std::sin(2 * std::numbers::pi * (k + 0.5) / 48)) <
                    2e-3);
            QVERIFY2(std::abs(back[k] - x[k]) < 1e-4, qPrintable(QString::number(back[k] - x[k])));
        }
        std::vector<double> late(300, 0.0);
        late.insert(late.end(), x.begin(), x.end());
        for (double& v : late) v = -v;
        QCOMPARE(signal::delayOf(late, x), std::size_t(300));
    }

    /// The tone that is solved as periodic, and the same played from rest on.
    void aToneOverTimeIsThePeriodicOne() {
        plan::PlayedSignal s;
        s.volts = sine(0.3, 1000, 0.25, s.rate);
        const auto p = plan::play(demoBuild(), catalogue, steady, 0, s);
        QVERIFY2(p.ok(), p.ok() ? "" : p.problem().text().c_str());
        QCOMPARE(p->volts.size(), s.volts.size() / 2);
        plan::Sag sag{.warm = {}, .steady = steady};
        plan::ToneRun run;
        QVERIFY(plan::solveToneWithSag(demoBuild(), catalogue, 0, false, {0.3, 1000}, sag, run).ok());
        const auto a = signal::analyseTone({p->volts.data() + 12000, 12000}, s.outputRate, 0);
        QVERIFY(a);
        QVERIFY2(std::abs(20 * std::log10(a->level / run.figures.outputRms)) < 0.03,
                 qPrintable(QString("%1 %2").arg(a->level).arg(run.figures.outputRms)));
        QVERIFY2(std::abs(a->thdPercent / run.figures.thdPercent - 1) < 0.1,
                 qPrintable(QString("%1 %2").arg(a->thdPercent).arg(run.figures.thdPercent)));
        for (std::size_t k = 0; k < steady.nodes.size(); ++k)
            QVERIFY2(std::abs(p->nodes[k].back() - sag.steady.nodes[k].mean) < 0.5,
                     qPrintable(QString("%1 %2").arg(p->nodes[k].back()).arg(sag.steady.nodes[k].mean)));
    }

    /// Clipped at 10 kHz, and 8 dB beyond that, where steps are halved: as loud as the periodic one within 0.1 dB.
    void aClippedTreble_data() {
        QTest::addColumn<double>("volts");
        for (const double v : {1.2, 3.0}) QTest::addRow("%g V", v) << v;
    }
    void aClippedTreble() {
        QFETCH(double, volts);
        plan::PlayedSignal s;
        s.volts = sine(volts, 10000, 0.15, s.rate);
        const auto p = plan::play(demoBuild(), catalogue, steady, 0, s);
        QVERIFY2(p.ok(), p.ok() ? "" : p.problem().text().c_str());
        plan::Sag sag{.warm = {}, .steady = steady};
        plan::ToneRun run;
        QVERIFY(plan::solveToneWithSag(demoBuild(), catalogue, 0, false, {volts, 10000}, sag, run).ok());
        const auto a = signal::analyseTone({p->volts.data() + 9600, 4800}, s.outputRate, 0);
        QVERIFY(a);
        QVERIFY2(std::abs(20 * std::log10(a->harmonics[0].rms / run.figures.harmonics[0])) < 0.1,
                 qPrintable(QString("%1 %2").arg(a->harmonics[0].rms).arg(run.figures.harmonics[0])));
    }

    /// A burst takes the supply down to where the steady tone has it, and it comes back behind it.
    void theSupplySagsAndRecovers() {
        plan::PlayedSignal s;
        s.volts = sine(1.0, 200, 0.3, s.rate);
        s.volts.resize(s.volts.size() * 2); // as long a silence
        const auto p = plan::play(demoBuild(), catalogue, steady, 0, s);
        QVERIFY(p);
        plan::Sag sag{.warm = {}, .steady = steady};
        plan::ToneRun run;
        QVERIFY(plan::solveToneWithSag(demoBuild(), catalogue, 0, false, {1.0, 200}, sag, run).ok());
        const double rest = steady.nodes[0].mean, under = sag.steady.nodes[0].mean;
        QVERIFY(rest - under > 5);
        const double lowest = *std::min_element(p->nodes[0].begin(), p->nodes[0].end());
        QVERIFY2(std::abs((rest - lowest) / (rest - under) - 1) < 0.12,
                 qPrintable(QString("%1 %2 %3").arg(rest).arg(lowest).arg(under)));
        QVERIFY(rest - p->nodes[0].back() < 0.25 * (rest - under));
        // Silence in, silence out, once the coupling capacitors are settled.
        QVERIFY2(std::abs(p->volts.back()) < 0.1, qPrintable(QString::number(p->volts.back())));
    }

    /// With fixed bias, valves draw much less once plates and screens sag: a long burst ends where the steady state
    /// under the same draw is, within a sixth of the sag.
    void aBurstKnowsFixedBias() {
        plan::Sag sag{.warm = {}, .steady = steady};
        plan::ToneRun run;
        QVERIFY(plan::solveToneWithSag(demoBuild(), catalogue, 0, true, {1.2, 1000}, sag, run).ok());
        plan::Disturbance burst{.draws = {}, .from = 0.1, .until = 2};
        for (std::size_t k = 0; k < sag.under.size(); ++k)
            burst.draws.push_back({static_cast<int>(k) + 1, sag.under[k]});
        const auto curve = plan::disturbed(demoBuild(), catalogue, steady, burst, 1.9);
        QVERIFY(curve);
        const auto mean = [&](double from, double until) {
            double sum = 0, count = 0;
            for (std::size_t k = 0; k < curve->seconds.size(); ++k)
                if (curve->seconds[k] > from && curve->seconds[k] < until) sum += curve->nodes[0][k], count += 1;
            return sum / count;
        };
        const double fell = mean(0, 0.1) - mean(1.5, 1.9), wanted = steady.nodes[0].mean - sag.steady.nodes[0].mean;
        QVERIFY2(wanted > 10 && std::abs(fell / wanted - 1) < 0.17, qPrintable(QString("%1 %2").arg(fell).arg(wanted)));
    }

    /// Small, nothing limits; beyond clipping the output pair's grids conduct on both sides and its plates reach the
    /// knee; the same volts at 20 Hz fill the core fifty times as far as at 1 kHz.
    void whatLimitsIsNamed() {
        const auto small = plan::clippingAt(demoBuild(), catalogue, steady, 0, false, {0.1, 1000});
        QVERIFY(small && small->words.find("no valve is cut off") == 0);
        const auto hard = plan::clippingAt(demoBuild(), catalogue, steady, 0, false, {1.6, 1000});
        QVERIFY2(hard && hard->words.find("side a") != std::string::npos &&
                     hard->words.find("side b") != std::string::npos,
                 hard ? hard->words.c_str() : "");
        QVERIFY2(hard->words.find("grids of") != std::string::npos &&
                     hard->words.find("into the knee") != std::string::npos,
                 hard->words.c_str());
        for (const plan::ValveSwing& v : hard->valves) {
            if (v.duty != schematic::Duty::Output) continue;
            QVERIFY(v.gridCrest > -0.5 && v.plateLeast > 0 && v.plateLeast < 80 && v.plateMean > 200);
            QVERIFY2(v.cutShare > 0.2 && v.cutShare < 0.6, qPrintable(QString::number(v.cutShare)));
        }
        const auto middle = plan::clippingAt(demoBuild(), catalogue, steady, 0, false, {0.6, 1000}),
                   low = plan::clippingAt(demoBuild(), catalogue, steady, 0, false, {0.6, 20});
        QVERIFY2(low && std::abs(low->fluxShare / middle->fluxShare / 50 - 1) < 0.15,
                 qPrintable(QString("%1 %2").arg(low->fluxShare).arg(middle->fluxShare)));
    }

    /// Where a solve begins makes no difference to where it ends.
    void aNearbyStartChangesNothing() {
        plan::WarmStart warm;
        Build other = demoBuild();
        other.mains.volts = 236;
        (void)plan::solveFigures(other, catalogue, {}, &warm);
        QVERIFY(warm.unloaded && !warm.unloaded->states.empty());
        const auto from = plan::solveFigures(demoBuild(), catalogue, {}, &warm),
                   fresh = plan::solveFigures(demoBuild(), catalogue);
        for (const auto& [a, b] : {std::pair{&from.nominal, &fresh.nominal},
                                   {&from.low, &fresh.low},
                                   {&from.high, &fresh.high},
                                   {&from.cold, &fresh.cold}})
            for (std::size_t k = 0; k < (*a)->nodes.size(); ++k)
                QVERIFY2(std::abs((*a)->nodes[k].mean / (*b)->nodes[k].mean - 1) < 1e-4,
                         qPrintable(QString("%1 %2").arg((*a)->nodes[k].mean).arg((*b)->nodes[k].mean)));
    }

    /// Without feedback the ends of the response are nearly single corners: a played square means the same ones.
    void aSquareMeansTheCornersOfTheResponse() {
        const Build open = demoOpenLoop();
        const auto at = *plan::solveSteady(open, catalogue, {open.mains.volts});
        const plan::ResponseEnds ends = plan::responseEnds(open, catalogue, at, 0);
        const auto corners = [&](double hertz, double rate, double seconds) {
            auto volts = *signal::samplesOf(
                {.kind = signal::StimulusKind::Square, .hertz = hertz, .seconds = seconds, .rate = rate, .level = -40});
            volts.resize(static_cast<std::size_t>(seconds * rate));
            const auto c = bench::ModelBench(open, catalogue, at, {}).play(0, {}, volts, rate, {});
            return *signal::analyseSquare(*c, hertz);
        };
        const double low = corners(200, 48000, 0.2).lowCorner, high = corners(2000, 192000, 0.15).highCorner;
        QVERIFY2(std::abs(std::log2(low / ends.low)) < 0.3, qPrintable(QString("%1 %2").arg(low).arg(ends.low)));
        QVERIFY2(std::abs(std::log2(high / ends.high)) < 0.3, qPrintable(QString("%1 %2").arg(high).arg(ends.high)));
    }

    /// A sweep through the practice amplifier finds the same ends as its tones.
    void aSweepFindsTheResponse() {
        auto amplifier = bench::VirtualAmplifier::make(demoBuild(), catalogue, 0, "");
        QVERIFY(amplifier && amplifier->power(6, demoBuild().mains.volts));
        const bench::TakeRequest request{bench::TakeKind::Sweep, 0, 0.05, 1000, 0.6};
        const auto volts = bench::voltsOf(request);
        double share = 0;
        const auto c = amplifier->play(0, *volts, bench::takeRate, {[&](double s) { share = s; }, {}});
        QVERIFY2(c.ok(), c.ok() ? "" : c.problem().text().c_str());
        QVERIFY(share > 0.99);
        const auto r = signal::sweepResponse(*c, {*volts, bench::takeRate, 0, ""});
        QVERIFY2(r.ok(), r.ok() ? "" : r.problem().text().c_str());
        const auto at = [&](double hertz) {
            const auto near = std::min_element(r->points.begin(), r->points.end(), [&](const auto& x, const auto& y) {
                return std::abs(std::log(x.hertz / hertz)) < std::abs(std::log(y.hertz / hertz));
            });
            return near->db;
        };
        QVERIFY2(std::abs(at(1000) - 20 * std::log10(plan::responseEnds(demoBuild(), catalogue, steady, 0).gain)) < 0.1,
                 qPrintable(QString::number(at(1000))));
        QVERIFY(std::abs(at(100) - at(1000)) < 1 && std::abs(at(8000) - at(1000)) < 1);
    }

    /// Two tones far below clipping: the modulation is of the size of the harmonics that the tone shows.
    void twoTonesModulateEachOther() {
        const auto c = bench::ModelBench(demoBuild(), catalogue, steady, {})
                           .take(bench::shortened({bench::TakeKind::Modulation, 0, 0.3, 0, 0}));
        QVERIFY2(c.ok(), c.ok() ? "" : c.problem().text().c_str());
        const auto m = signal::analyseIntermodulation(*c);
        QVERIFY2(m.ok(), m.ok() ? "" : m.problem().sentence.c_str());
        QVERIFY(!m->difference);
        plan::Sag sag{.warm = {}, .steady = steady};
        plan::ToneRun run;
        QVERIFY(plan::solveToneWithSag(demoBuild(), catalogue, 0, false, {0.3, 1000}, sag, run).ok());
        QVERIFY2(m->percent > run.figures.thdPercent && m->percent < 10 * run.figures.thdPercent,
                 qPrintable(QString("%1 %2").arg(m->percent).arg(run.figures.thdPercent)));
    }
};

EMBER_TESTS(TestPlayed)
#include "test_played.moc"
