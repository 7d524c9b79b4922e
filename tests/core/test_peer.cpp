// The plan's tones and squares against a general circuit simulator: distortion against power at three frequencies, and
// square waves, of four starts with their supplies held.

#include "../support/shipped.h"
#include "../support/solved.h"
#include "../support/spice_tone.h"
#include "../support/suite.h"

#include "core/build/starts.h"
#include "core/plan/channel_circuit.h"
#include "core/plan/tone.h"
#include "core/schematic/play.h"

#include <QTest>

#include <cmath>
#include <numbers>

using namespace ember;
using namespace ember::plan;

class TestPeer : public QObject {
    Q_OBJECT

    void starts() {
        QTest::addColumn<QString>("id");
        for (const char* id : {"push-pull-pentode", "single-ended-triode", "single-ended-ultralinear", "line-stage"})
            QTest::newRow(id) << id;
    }

  private Q_SLOTS:
    void initTestCase() { QVERIFY2(!QStandardPaths::findExecutable("ngspice").isEmpty(), "scripts/setup installs it"); }

    void distortionAgainstPowerIsThePeers_data() { starts(); }
    /// At a small level and near clipping: level within 0.1 dB, THD within a tenth of itself or 0.01 % absolute.
    void distortionAgainstPowerIsThePeers() {
        QFETCH(QString, id);
        const Build b = startOf(id.toStdString())->build;
        const Steady steady = solved(b);
        const ChannelSupply supply = supplyOf(b, steady);
        for (const double hz : {20.0, 1000.0, 10e3}) {
            ToneRun run;
            // A level at which THD is between 1 and 3 %, come to from below, and a quarter of it.
            double level = 0.02;
            while (level < 4 && solveTone(b, catalogue, 0, supply, {level, hz}, run) && run.figures.thdPercent < 1)
                level *= 1.3;
            for (const double share : {0.25, 1.0}) {
                QVERIFY(solveTone(b, catalogue, 0, supply, {share * level, hz}, run));
                const HeldChannel h =
                    heldChannel(b, catalogue, 0, supply, {0, share * level * std::numbers::sqrt2, hz, 0});
                const auto period = spicePeriod(h, hz, hz < 100 ? 8 : 14, 200);
                QVERIFY2(!period.empty(), "the simulator found no solution");
                double square = 0;
                for (int k = 2; k <= 10; ++k) square += std::pow(rmsOfHarmonic(period, k), 2);
                const double first = rmsOfHarmonic(period, 1), thd = 100 * std::sqrt(square) / first;
                const double db = 20 * std::log10(run.figures.harmonics[0] / first);
                QVERIFY2(std::abs(db) < 0.1,
                         qPrintable(QString("%1 Hz, %2 V: %3 dB").arg(hz).arg(share * level).arg(db)));
                QVERIFY2(std::abs(run.figures.thdPercent - thd) < 0.1 * thd + 0.01,
                         qPrintable(QString("%1 Hz, %2 V: %3 % against %4 %")
                                        .arg(hz)
                                        .arg(share * level)
                                        .arg(run.figures.thdPercent)
                                        .arg(thd)));
            }
        }
    }

    void squareWavesAreThePeers_data() { starts(); }
    /// The last of several periods of 1 kHz: within 2 % of the crest everywhere.
    void squareWavesAreThePeers() {
        QFETCH(QString, id);
        const Build b = startOf(id.toStdString())->build;
        const ChannelSupply supply = supplyOf(b, solved(b));
        constexpr double hz = 1000, crest = 0.05, rate = 960e3;
        constexpr int periods = 12, count = 200;
        // Its harmonics up to 19 kHz, as it is played, faded in over the first period.
        const auto wave = [&](double t) {
            double v = 0;
            for (int h = 1; h < 20; h += 2) v += std::sin(2 * std::numbers::pi * h * hz * t) / h;
            return crest * v * std::min(1.0, t * hz);
        };
        std::vector<double> drive(static_cast<std::size_t>((periods + 1) / hz * rate));
        for (std::size_t k = 0; k < drive.size(); ++k) drive[k] = wave(static_cast<double>(k) / rate);
        const auto samples = std::make_shared<const circuit::Samples>(circuit::Samples{rate, drive});
        const HeldChannel ours = heldChannel(b, catalogue, 0, supply, {.samples = samples});
        auto play = schematic::Play::from(ours.schematic, ours.output, 400e3);
        QVERIFY(play.ok());
        std::vector<double> volts;
        QVERIFY(play->run(static_cast<std::size_t>(periods / hz * 400e3), volts));
        // The other one's source as the same wave, straight between points 4 us apart.
        HeldChannel h = heldChannel(b, catalogue, 0, supply, {0, crest, hz, 0});
        const auto c = schematic::circuitOf(h.schematic, schematic::Electrodes::WithCapacitance);
        QString deck = QString::fromStdString(circuit::elementsText(c.netlist));
        static const QRegularExpression sine("SIN\\([^)]*\\)", QRegularExpression::CaseInsensitiveOption);
        QVERIFY2(sine.match(deck).hasMatch(), "no source to replace");
        QString corners = "PWL(";
        constexpr double apartBy = 4e-6;
        for (int k = 0; k * apartBy <= periods / hz; ++k)
            corners += QString("%1 %2%3")
                           .arg(k * apartBy, 0, 'g', 10)
                           .arg(wave(k * apartBy), 0, 'g', 10)
                           .arg(k % 8 == 7 ? "\n+ " : " ");
        deck.replace(sine, corners + ")");
        const QString node =
            QString::fromStdString(circuit::nodeText(c.netlist, c.nodes[static_cast<std::size_t>(h.output.index)]));
        const auto printed = spicePrint(("* a channel\n" + deck +
                                         QString("\n.options reltol=1e-5 method=gear gmin=1e-14 rshunt=1e12\n"
                                                 ".tran 5u %1m %2m 2u\n.print tran v(%3)\n.end\n")
                                             .arg(periods)
                                             .arg(periods - 1)
                                             .arg(node))
                                            .toStdString());
        static const QRegularExpression row("^\\d+\\s+(\\S+)\\s+(\\S+)\\s*$", QRegularExpression::MultilineOption);
        auto found = row.globalMatch(printed.value_or(QString()));
        double most = 0, apart = 0;
        int compared = 0;
        while (found.hasNext()) {
            const auto m = found.next();
            const double t = m.captured(1).toDouble(), v = m.captured(2).toDouble();
            const double place = t * 400e3 - 1; // the first sample is one step from the beginning
            const auto k = static_cast<std::size_t>(std::max(0.0, place));
            if (k + 1 >= volts.size()) continue;
            const double own = volts[k] + (place - static_cast<double>(k)) * (volts[k + 1] - volts[k]);
            most = std::max(most, std::abs(v));
            apart = std::max(apart, std::abs(v - own));
            ++compared;
        }
        QVERIFY2(compared >= count / 2, qPrintable(printed.value_or("").right(500)));
        QVERIFY2(apart < 0.02 * most, qPrintable(QString("%1 of %2").arg(apart).arg(most)));
    }
};

EMBER_TESTS(TestPeer)
#include "test_peer.moc"
