// THD at one watt of four amplifiers that one begins from, against a general circuit simulator.

#include "../support/shipped.h"
#include "../support/solved.h"
#include "../support/spice_tone.h"
#include "../support/suite.h"

#include "core/build/starts.h"
#include "core/plan/tone.h"

#include <QTest>

#include <cmath>

using namespace ember;
using namespace ember::plan;

namespace {

/// Bypass and coupling capacitors and a primary's inductance a twentieth as large: a simulator that steps through time
/// is then settled within tens of periods, where it would take thousands.
void settleSooner(Channel& ch) {
    for (Stage& stage : ch.stages)
        for (StagePart& part : stage.parts) {
            if (auto* c = std::get_if<CapacitorPart>(&part.part); c && c->capacitance > 5e-9) c->capacitance /= 20;
            if (auto* t = std::get_if<OutputTransformer>(&part.part)) t->primaryInductance /= 20;
        }
}

} // namespace

class TestPeerDistortion : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void initTestCase() { QVERIFY2(!QStandardPaths::findExecutable("ngspice").isEmpty(), "scripts/setup installs it"); }

    void atOneWattItIsThePeers_data() {
        QTest::addColumn<QString>("id");
        for (const char* id :
             {"single-ended-triode", "single-ended-pentode", "push-pull-pentode", "push-pull-ultralinear"})
            QTest::newRow(id) << id;
    }
    /// Within 1 % of itself. The simulator is given the time to settle: after fourteen periods with the capacitors as
    /// they are it is 1 to 5 % off, its second harmonic still on the way.
    void atOneWattItIsThePeers() {
        QFETCH(QString, id);
        Build b = startOf(id.toStdString())->build;
        const ChannelSupply supply = supplyOf(b, solved(b));
        for (Channel& ch : b.channels) settleSooner(ch);
        constexpr double hz = 1000;
        ToneRun run;
        double level = 0.02;
        while (level < 4 && solveTone(b, catalogue, 0, supply, {level, hz}, run) && run.figures.watts < 1) level *= 1.1;
        for (int k = 0; k < 4; ++k) {
            level /= std::sqrt(run.figures.watts);
            QVERIFY(solveTone(b, catalogue, 0, supply, {level, hz}, run));
        }
        QVERIFY(std::abs(run.figures.watts - 1) < 0.01);
        const HeldChannel h = heldChannel(b, catalogue, 0, supply, {0, level * std::numbers::sqrt2, hz, 0});
        // Settled, it repeats itself to 0.02 %; the feedback round the ultralinear pair makes that take twice as long.
        const auto period = spicePeriod(h, hz,
                                        id == "push-pull-ultralinear" ? 130
                                        : id == "push-pull-pentode"   ? 60
                                                                      : 40,
                                        200);
        QVERIFY2(!period.empty(), "the simulator found no solution");
        double square = 0;
        for (int k = 2; k <= 10; ++k) square += std::pow(rmsOfHarmonic(period, k), 2);
        const double thd = 100 * std::sqrt(square) / rmsOfHarmonic(period, 1);
        const QString seen = QString("%1 %, the peer %2 %").arg(run.figures.thdPercent).arg(thd);
        QVERIFY2(std::abs(run.figures.thdPercent / thd - 1) < 0.01, qPrintable(seen));
    }
};

EMBER_TESTS(TestPeerDistortion)
#include "test_peer_distortion.moc"
