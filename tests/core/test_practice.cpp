// The practice amplifier under a tone, and the bands around its readings: one netlist behind both.

#include "../support/demo.h"
#include "../support/shipped.h"
#include "../support/suite.h"

#include "core/bench/virtual_amplifier.h"
#include "core/diagnose/faults.h"
#include "core/plan/tone.h"
#include "core/procedure/band.h"
#include "core/procedure/first_power.h"
#include "core/signal/tone_analysis.h"

#include <QTest>

#include <cmath>

using namespace ember;
using namespace ember::bench;

namespace {

signal::ToneAnalysis measured(std::uint64_t seed, const std::string& fault, std::size_t channel, double volts) {
    auto a = VirtualAmplifier::make(demoOpenLoop(), catalogue, seed, fault);
    if (!a || !a->power(6, 230)) qFatal("no amplifier");
    const auto c = a->take({bench::TakeKind::Tone, channel, volts, 1000, 0.5});
    if (!c) qFatal("%s", c.problem().text().c_str());
    const auto t = signal::analyseTone(c->volts, c->sampleRate, c->fullScale);
    if (!t) qFatal("%s", t.problem().text().c_str());
    return *t;
}

} // namespace

class TestPractice : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    /// Seed 0 is exactly the plan: its capture, analysed as any other, gives the plan's own tone.
    void theCaptureIsThePlansTone() {
        const Build b = demoOpenLoop();
        const auto rest = plan::solveSteady(b, catalogue, procedure::stageConditions(b, 6, 230));
        QVERIFY(rest.ok());
        plan::Sag sag{.warm = {}, .steady = *rest};
        plan::ToneRun run;
        QVERIFY(plan::solveToneWithSag(b, catalogue, 0, false, {0.1, 1000}, sag, run).ok());
        const auto t = measured(0, "", 0, 0.1);
        QVERIFY2(std::abs(20 * std::log10(t.harmonics[0].rms / run.figures.harmonics[0])) < 0.05,
                 "level within 0.05 dB");
        QVERIFY(std::abs(t.thdPercent / run.figures.thdPercent - 1) < 0.02);
        for (std::size_t h = 1; h < 5; ++h)
            QVERIFY(std::abs(t.harmonics[h].rms - run.figures.harmonics[h]) < 0.02 * run.figures.harmonics[h] + 2e-5);
    }

    void tolerancesMoveTheGainALittle() {
        const double plan = measured(0, "", 0, 0.02).harmonics[0].rms;
        bool moved = false;
        for (std::uint64_t seed = 1; seed <= 4; ++seed) {
            const double db = 20 * std::log10(measured(seed, "", 0, 0.02).harmonics[0].rms / plan);
            QVERIFY2(std::abs(db) < 2.5, qPrintable(QString::number(db)));
            moved = moved || std::abs(db) > 0.05;
        }
        QVERIFY(moved);
    }

    void halfAWindingIsHalfAnAmplifier() {
        const auto well = measured(1, "", 0, 0.12), ill = measured(1, "half-open-a/ot1", 0, 0.12);
        QVERIFY2(ill.harmonics[0].rms < 0.75 * well.harmonics[0].rms, "one valve pulls alone");
        QVERIFY2(ill.harmonics[1].percent > 3 * well.harmonics[1].percent, "and nothing cancels its second harmonic");
        // The other channel does not know.
        QVERIFY(std::abs(measured(1, "half-open-a/ot1", 1, 0.12).harmonics[0].rms /
                             measured(1, "", 1, 0.12).harmonics[0].rms -
                         1) < 0.03);
    }

    void aToneNeedsFullMainsAndAChannel() {
        auto a = VirtualAmplifier::make(demoBuild(), catalogue, 1, "");
        QVERIFY(a->power(3, 230).ok());
        QVERIFY(!a->take({bench::TakeKind::Tone, 0, 0.1, 1000, 0.1}).ok());
        QVERIFY(a->power(6, 230).ok());
        QVERIFY(!a->take({bench::TakeKind::Tone, 7, 0.1, 1000, 0.1}).ok());
    }

    void theConverterHasItsNoise() {
        const auto t = measured(1, "", 0, 0.001);
        QVERIFY2(t.noiseFloor > 1e-7 && t.noiseFloor < 2e-3, qPrintable(QString::number(t.noiseFloor)));
        QVERIFY(!t.clipped);
    }

    void everyFaultCanBeInflictedAndSolved_data() {
        QTest::addColumn<QString>("id");
        QTest::addColumn<bool>("common");
        // The first ones that a builder suspects, and every twentieth of the others.
        std::size_t k = 0;
        for (const diagnose::Fault& f : diagnose::faultsOf(demoBuild(), catalogue))
            if (k++ % 20 == 0 || f.id == "open/r2" || f.id == "leaky/c1" || f.id == "dead/v5" ||
                f.id == "half-open-a/ot1")
                QTest::newRow(f.id.c_str()) << QString::fromStdString(f.id) << f.common;
    }
    void everyFaultCanBeInflictedAndSolved() {
        QFETCH(QString, id);
        QFETCH(bool, common);
        auto a = VirtualAmplifier::make(demoBuild(), catalogue, 2, id.toStdString());
        QVERIFY(a.ok());
        auto healthy = VirtualAmplifier::make(demoBuild(), catalogue, 2, "");
        int differs = 0;
        for (int stage = 1; stage < procedure::stageCount; ++stage) {
            const auto done = a->power(stage, 230);
            QVERIFY2(done.ok(), done.ok() ? "" : done.problem().text().c_str());
            QVERIFY(healthy->power(stage, 230).ok());
            for (const auto& p : procedure::pointsOfStage(demoBuild(), stage)) {
                const double x = procedure::reading(demoBuild(), catalogue, a->state(), p),
                             y = procedure::reading(demoBuild(), catalogue, healthy->state(), p);
                if (std::isfinite(x) && std::isfinite(y) && std::abs(x - y) > 0.02 * std::abs(y) + 1e-3) ++differs;
            }
        }
        // What a capacitor lost, or a leak that no direct current meets, shows in a tone alone.
        if (common) QVERIFY2(differs > 0, "a fault that no reading shows could not be practised on");
    }

    /// As a meter reads with errors of its own, so are the bands.
    void theMetersErrorsAreInTheBand() {
        Build b = demoBuild();
        const auto c = procedure::stageConditions(b, 5, 230);
        plan::WarmStart warm;
        const auto s = plan::solveSteady(b, catalogue, c, {}, &warm);
        QVERIFY(s.ok());
        const auto points = procedure::pointsOfStage(b, 5);
        const auto real = procedure::bands(b, catalogue, c, points, *s, warm, {100});
        b.meter.dc = b.meter.ac = b.meter.ohms = 0;
        const auto bare = procedure::bands(b, catalogue, c, points, *s, warm, {100});
        for (std::size_t k = 0; k < points.size(); ++k) {
            if (points[k].kind == procedure::PointKind::Held) continue; // with the plug out: nothing is predicted
            const double share = procedure::meterShare(demoBuild(), points[k].mode);
            // Wider than the amplifiers alone and than the meter alone, not wider than both together: its errors and
            // the parts' do not all fall on one side. Where a hundred runs end is known to about a seventh of the
            // width.
            const double both = real[k].high - real[k].low, parts = bare[k].high - bare[k].low,
                         meter = 2 * share * std::abs(real[k].nominal);
            QVERIFY2(both > 0.85 * parts && both > 0.7 * meter, points[k].id.c_str());
            QVERIFY2(both < 1.6 * (parts + meter), points[k].id.c_str());
            QVERIFY(bare[k].low <= bare[k].nominal && bare[k].nominal <= bare[k].high);
        }
    }

    void widerTolerancesWidenTheBand() {
        Build b = demoBuild();
        const auto c = procedure::stageConditions(b, 5, 230);
        const auto widthOf = [&](const char* id) {
            plan::WarmStart warm;
            const auto s = plan::solveSteady(b, catalogue, c, {}, &warm);
            const auto points = procedure::pointsOfStage(b, 5);
            const auto all = procedure::bands(b, catalogue, c, points, *s, warm, {100});
            for (std::size_t k = 0; k < points.size(); ++k)
                if (points[k].id == id) return all[k].high - all[k].low;
            return 0.0;
        };
        const double before = widthOf("B+3"), ripple = widthOf("ripple");
        b.supply.sections[3].tolerance = 0.3;
        QVERIFY(widthOf("B+3") > before + 1);
        b.supply.sections[0].tolerance = 0.5;
        QVERIFY(widthOf("ripple") > 1.3 * ripple);
    }
};

EMBER_TESTS(TestPractice)
#include "test_practice.moc"
