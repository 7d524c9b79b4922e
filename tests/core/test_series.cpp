// Measurements of several takes, on amplifiers made up for them whose figures are known in closed form.

#include "../support/demo.h"
#include "../support/shipped.h"
#include "../support/suite.h"

#include "core/bench/series/series.h"
#include "core/bench/setup.h"
#include "core/bench/spread.h"
#include "core/bench/take_records.h"
#include "core/schematic/stages/stage_kind.h"

#include <QTemporaryDir>
#include <QTest>

#include <cmath>
#include <complex>
#include <fstream>
#include <numbers>
#include <random>

using namespace ember;
using namespace ember::bench;

namespace {

/// An amplifier in a sentence: what a sample becomes.
struct MadeUp {
    std::function<double(double volts, const TakeRequest&)> amplify;
    std::vector<TakeRequest> asked;
    Taker taker() {
        return [this](const TakeRequest& r) -> Expected<signal::Capture> {
            asked.push_back(r);
            signal::Capture c;
            c.volts.resize(static_cast<std::size_t>(r.seconds * c.sampleRate));
            for (std::size_t k = 0; k < c.volts.size(); ++k)
                c.volts[k] =
                    amplify(r.inputRms * std::numbers::sqrt2 *
                                std::sin(2 * std::numbers::pi * r.hertz * static_cast<double>(k) / c.sampleRate),
                            r);
            c.fullScale = 100;
            return c;
        };
    }
};

SeriesContext oneChannel(double watts = 50) {
    SeriesContext c;
    c.channels.push_back({"Left", 8, watts, 10, 0.5, 10});
    c.nodes = 1;
    return c;
}

} // namespace

class TestSeries : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    /// v = 10 x - x^3: with a crest A the third harmonic is A^3 / 4 and the fundamental 10 A - 3 A^3 / 4, so that
    /// THD t is met at A^2 = 40 t / (1 + 3 t); the crest is flattened by the third harmonic's own share.
    void powerOfACubicAmplifierIsKnown() {
        MadeUp cubic{[](double x, const TakeRequest&) { return 10 * x - x * x * x; }, {}};
        SeriesRequest r{SeriesKind::Power};
        r.frequencies = {1000};
        const auto out = measure(r, oneChannel(), cubic.taker());
        QVERIFY2(out.ok(), out ? "" : out.problem().text().c_str());
        const auto watts = [](double thd) {
            const double square = 40 * thd / (1 + 3 * thd), a = std::sqrt(square), first = 10 * a - 0.75 * a * square,
                         third = 0.25 * a * square;
            return (first * first + third * third) / 2 / 8;
        };
        for (const double percent : {1.0, 3.0, 5.0, 10.0}) {
            const double got = out->figure(fmt::format("{:g} % THD", percent)), wanted = watts(percent / 100);
            QVERIFY2(std::abs(got / wanted - 1) < 0.01,
                     qPrintable(QString("%1 %2 %3").arg(percent).arg(got).arg(wanted)));
        }
        // Flattened by 2 %: third harmonic of 2 %, in step with the crest.
        QVERIFY2(std::abs(out->figure("flattening") / watts(0.02) - 1) < 0.02,
                 qPrintable(QString::number(out->figure("flattening"))));
        QVERIFY(std::abs(out->figure("gain") - 20) < 0.05);
        // 1 dB short: 3 A^2 / 40 = 1 - 10^(-1/20).
        const double square = 40.0 / 3 * (1 - std::pow(10, -0.05)), a = std::sqrt(square);
        const double short1 = (std::pow(10 * a - 0.75 * a * square, 2) + std::pow(0.25 * a * square, 2)) / 16;
        QVERIFY2(std::abs(out->figure("1 dB short") / short1 - 1) < 0.02,
                 qPrintable(QString("%1 %2").arg(out->figure("1 dB short")).arg(short1)));
        // Never more than 10 dB louder than anything before.
        double loudest = 0;
        for (const TakeRequest& t : cubic.asked) {
            QVERIFY(loudest == 0 || t.inputRms < 3.2 * loudest);
            loudest = std::max(loudest, t.inputRms);
        }
    }

    /// The same amplifier into a line's 10 kohm: its power at a THD is given as the volts there, and the axis says so.
    void aLinesPowersAreVolts() {
        MadeUp cubic{[](double x, const TakeRequest&) { return 10 * x - x * x * x; }, {}};
        SeriesContext line = oneChannel(1);
        line.channels[0].loadOhms = 10e3;
        line.channels[0].clipWatts = 10.0 * 10 / 10e3;
        SeriesRequest r{SeriesKind::Power};
        r.frequencies = {1000};
        const auto out = measure(r, line, cubic.taker());
        QVERIFY2(out.ok(), out ? "" : out.problem().text().c_str());
        QVERIFY(out->inVolts);
        const double square = 40 * 0.03 / 1.09, a = std::sqrt(square);
        const double volts = std::hypot(10 * a - 0.75 * a * square, 0.25 * a * square) / std::numbers::sqrt2;
        QVERIFY2(std::abs(out->figure("3 % THD") / volts - 1) < 0.005,
                 qPrintable(QString("%1 %2").arg(out->figure("3 % THD")).arg(volts)));
        for (const SeriesFigure& f : out->figures) QVERIFY(f.unit != Unit::Watt);
        QCOMPARE(QString(axesOf(formOf(r.kind), true).second.caption), QString("volts at the output"));
        QCOMPARE(QString(axesOf(formOf(r.kind), false).second.caption), QString("watts in the load"));
    }

    void aLoadIsNeverGivenMoreThanItIsMadeFor() {
        double most = 0;
        MadeUp plain{[](double x, const TakeRequest&) { return 10 * x; }, {}};
        SeriesRequest r{SeriesKind::DistortionByPower};
        const auto out = measure(r, oneChannel(2), plain.taker());
        QVERIFY(out && out->trust.size() == 1);
        QVERIFY2(QString::fromStdString(out->trust[0]).contains("made for"), out->trust[0].c_str());
        for (const TakeRequest& t : plain.asked) most = std::max(most, 100 * t.inputRms * t.inputRms / 8);
        QVERIFY2(most > 1 && most < 2.7, qPrintable(QString::number(most)));
    }

    void directCurrentAndSilenceEndASeries() {
        MadeUp leaking{[](double x, const TakeRequest&) { return 10 * x + 0.7; }, {}};
        const auto dc = measure({SeriesKind::DistortionByPower}, oneChannel(), leaking.taker());
        QVERIFY(!dc && QString::fromStdString(dc.problem().sentence).contains("DC stand across the load"));
        QCOMPARE(leaking.asked.size(), std::size_t(1));
        MadeUp dead{[](double x, const TakeRequest&) { return 1e-6 * x; }, {}};
        const auto none = measure({SeriesKind::OutputImpedance}, oneChannel(), dead.taker());
        QVERIFY(!none && QString::fromStdString(none.problem().sentence).contains("does not arrive"));
    }

    /// 12 V behind 1.6 ohm: into 8 and into 16 ohm. A load that is far from the build's own is refused.
    void outputImpedanceIsFoundByTwoLoads() {
        MadeUp behind{[](double x, const TakeRequest& r) {
                          const double load = r.setup.loadOhms > 0 ? r.setup.loadOhms : 8;
                          return 12 * x * load / (load + 1.6);
                      },
                      {}};
        const auto out = measure({SeriesKind::OutputImpedance}, oneChannel(), behind.taker());
        QVERIFY(out && out->lines.size() == 1);
        for (const double z : out->lines[0].y) QVERIFY2(std::abs(z / 1.6 - 1) < 0.002, qPrintable(QString::number(z)));
        QVERIFY(std::abs(out->figure("damping at 1 kHz") - 5) < 0.02);
        SeriesRequest open{SeriesKind::OutputImpedance};
        open.secondLoad = 1e6;
        const auto refused = measure(open, oneChannel(), behind.taker());
        QVERIFY(!refused && QString::fromStdString(refused.problem().sentence).contains("dangerous volts"));
        open.secondLoad = 8.1;
        QVERIFY(!measure(open, oneChannel(), behind.taker()));
    }

    /// One pole at each end, 50 Hz and 8 kHz, by the tone's own frequency.
    void theEndsOfAResponseAreFound() {
        MadeUp band{[](double x, const TakeRequest& r) {
                        const std::complex<double> low(0, r.hertz / 50), high(1, r.hertz / 8000);
                        return 10 * x * std::abs(low / (1.0 + low) / high);
                    },
                    {}};
        const auto out = measure({SeriesKind::ResponseAtSettings}, oneChannel(), band.taker());
        QVERIFY(out && out->lines.size() == 4);
        QVERIFY2(std::abs(out->figure("-3 dB low, control at 50 %") / 50 - 1) < 0.03,
                 qPrintable(QString::number(out->figure("-3 dB low, control at 50 %"))));
        QVERIFY2(std::abs(out->figure("-3 dB high, control at 50 %") / 8000 - 1) < 0.03,
                 qPrintable(QString::number(out->figure("-3 dB high, control at 50 %"))));
        for (const double d : out->lines[3].y) QVERIFY(std::abs(d) < 0.01);
    }

    /// Two channels whose tracks differ by 1 dB at half.
    void tracksThatDifferAreSaid() {
        SeriesContext two = oneChannel();
        two.channels.push_back({"Right", 8, 50, 10, 0.5, 10});
        MadeUp tracks{[](double x, const TakeRequest& r) {
                          const double share = r.setup.control * r.setup.control;
                          return 10 * x * share * (r.channel == 1 && r.setup.control == 0.5 ? std::pow(10, -0.05) : 1);
                      },
                      {}};
        const auto out = measure({SeriesKind::ControlTracking}, two, tracks.taker());
        QVERIFY2(out.ok(), out ? "" : out.problem().text().c_str());
        QVERIFY(std::abs(out->figure("Right over Left at 50 %") + 1) < 0.01);
        QVERIFY(std::abs(out->figure("Right over Left at 25 %")) < 0.01);
        two.channels[0].control = two.channels[1].control = Setup::asItStands;
        const auto none = measure({SeriesKind::ControlTracking}, two, tracks.taker());
        QVERIFY(!none && QString::fromStdString(none.problem().sentence).contains("no level control"));
    }

    /// Four, six or twelve samples of a normal quantity: the range that they give holds 95 of 100 further ones, within
    /// three; fewer than three samples give none.
    void fewSamplesSayWhereOthersLie() {
        std::mt19937 chance(7);
        std::normal_distribution<double> normal(100, 3);
        for (const int count : {4, 6, 12}) {
            int inside = 0, all = 0;
            for (int trial = 0; trial < 4000; ++trial) {
                Spread s;
                for (int k = 0; k < count; ++k) s.add(normal(chance));
                s.add(plan::unknown); // left out
                if (s.count() != count) QFAIL("one that is no number was counted");
                const auto [least, most] = s.range();
                for (int k = 0; k < 5; ++k, ++all) {
                    const double other = normal(chance);
                    inside += other >= least && other <= most;
                }
            }
            const double share = static_cast<double>(inside) / all;
            QVERIFY2(std::abs(share - 0.95) < 0.03, qPrintable(QString("%1 samples: %2").arg(count).arg(share)));
        }
        Spread two;
        two.add(1);
        two.add(2);
        QVERIFY(std::isnan(two.range().first) && std::isnan(two.range().second));
    }

    /// A burst: silence, from one tenth to one half the tone, silence; its crest as asked.
    void aBurstIsATonePartOfTheTime() {
        const auto volts = voltsOf({TakeKind::Burst, 0, 0.5, 200, 1});
        QVERIFY(volts.ok());
        const auto rms = [&](double from, double to) {
            double squares = 0, n = 0;
            for (auto k = static_cast<std::size_t>(from * takeRate); k < static_cast<std::size_t>(to * takeRate); ++k)
                squares += volts->at(k) * volts->at(k), n += 1;
            return std::sqrt(squares / n);
        };
        QVERIFY(rms(0, 0.099) == 0 && rms(0.501, 1) == 0);
        QVERIFY2(std::abs(rms(0.15, 0.45) - 0.5) < 1e-3, qPrintable(QString::number(rms(0.15, 0.45))));
        QVERIFY(signal::crestOf(*volts) < 0.5 * std::numbers::sqrt2 * 1.001);
        const auto shorter = shortened({TakeKind::Tone, 0, 0.1, 20, 60});
        QCOMPARE(shorter.seconds, 0.5); // ten periods of 20 Hz
    }

    /// Least above the resonance 0.75 of the nominal, most at it.
    void aLoudspeakerIsWhatItSaysItIs() {
        const Loudspeaker l = loudspeakerOf(8);
        double least = 1e9, most = 0, at = 0;
        for (double hz = 20; hz < 20e3; hz *= 1.01) {
            const double z = l.impedance(hz);
            if (hz > 100) least = std::min(least, z);
            if (hz < 300 && z > most) most = z, at = hz;
        }
        QVERIFY(least > 6 && least < 6.8);
        QVERIFY2(std::abs(at / 60 - 1) < 0.03 && std::abs(most - 38) < 1,
                 qPrintable(QString("%1 %2").arg(at).arg(most)));
        // The same circuit in the build, at the output in place of the resistor.
        Setup s;
        s.loudspeaker = l;
        const Build b = asSetUp(demoBuild(), 0, s);
        QCOMPARE(b.loose.size(), demoBuild().loose.size() + 4);
        QVERIFY(schematic::loadResistor(b.channels[0].stages)->resistance > 1e5);
        QVERIFY(schematic::loadResistor(b.channels[1].stages)->resistance < 100);
    }

    /// A curve of the model gives the model back; one without a resonance is refused.
    void aMeasuredImpedanceIsAModel() {
        const Loudspeaker l{5.8, 0.4e-3, 24, 350e-6, 20e-3};
        std::vector<std::pair<double, double>> points, flat;
        for (double hz = 15; hz < 20e3; hz *= 1.06)
            points.emplace_back(hz, l.impedance(hz)), flat.emplace_back(hz, 8.0);
        const auto found = loudspeakerFrom(points);
        QVERIFY2(found.ok(), found ? "" : found.problem().text().c_str());
        for (double hz = 20; hz < 15e3; hz *= 1.3)
            QVERIFY2(std::abs(found->impedance(hz) / l.impedance(hz) - 1) < 0.06,
                     qPrintable(QString("%1 Hz: %2 %3").arg(hz).arg(found->impedance(hz)).arg(l.impedance(hz))));
        QVERIFY(!loudspeakerFrom(flat) && !loudspeakerFrom({{20, 8}}));
    }

    /// Written with 24 bits and read back, a measurement is analysed to the same figures; a file that was touched is
    /// refused.
    void aMeasurementIsAnalysedAgainFromItsFiles() {
        QTemporaryDir dir;
        const std::filesystem::path folder = dir.path().toStdString();
        MadeUp cubic{[](double x, const TakeRequest&) { return 10 * x - x * x * x; }, {}};
        Measurement m;
        m.made = "2026-01-02T03:04:05", m.title = "Left: power", m.context = oneChannel(), m.build = demoBuild();
        m.series = SeriesRequest{SeriesKind::DistortionByPower};
        const auto first = measure(*m.series, m.context, recordingInto(m.takes, cubic.taker()));
        QVERIFY(first);
        const auto kept = writeMeasurement(folder, "left", m);
        QVERIFY2(kept.ok(), kept ? "" : kept.problem().text().c_str());
        const auto again = readMeasurement(folder, *kept);
        QVERIFY2(again.ok(), again ? "" : again.problem().text().c_str());
        QCOMPARE(again->takes.size(), m.takes.size());
        QCOMPARE(again->title, m.title);
        const auto second = measure(*again->series, again->context,
                                    answeringFrom(std::make_shared<const std::vector<TakeRecord>>(again->takes)));
        QVERIFY2(second.ok(), second ? "" : second.problem().text().c_str());
        for (const SeriesFigure& f : first->figures)
            QVERIFY2(std::abs(second->figure(f.name) / f.value - 1) < 1e-3 ||
                         (std::isnan(f.value) && std::isnan(second->figure(f.name))),
                     f.name.c_str());
        QVERIFY(differencesOf(m.build, again->build).empty());
        const auto other = writeMeasurement(folder, "left", m);
        QVERIFY(other && other->name == "left-2.json");
        { // one byte of the sound
            std::fstream f(folder / "left.flac", std::ios::in | std::ios::out | std::ios::binary);
            f.seekp(5000);
            f.put('x');
        }
        QVERIFY(QString::fromStdString(readMeasurement(folder, *kept).problem().text()).contains("hash differs"));
        QVERIFY(!readMeasurement(folder, {"nothing.json", ""}));
    }

    void whatChangedBetweenTwoBuildsIsNamed() {
        const Build before = demoBuild();
        Build after = before;
        ResistorPart* load = schematic::loadResistor(after.channels[0].stages);
        load->resistance = 16;
        after.bottles[0].emission = 0.8;
        const auto words = differencesOf(before, after);
        QCOMPARE(words.size(), std::size_t(2));
        for (const std::string& w : words)
            QVERIFY2(w.find("16 Ω, was 8 Ω") != std::string::npos || w.find("0.8, was 1") != std::string::npos,
                     w.c_str());
    }
};

EMBER_TESTS(TestSeries)
#include "test_series.moc"
