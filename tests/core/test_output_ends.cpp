// What stands at an output besides the signal: the thump of switching on, direct volts.

#include "../support/inspected.h"
#include "../support/shipped.h"
#include "../support/suite.h"

#include "core/build/starts.h"
#include "core/plan/switch_on_volts.h"
#include "core/plan/tone.h"

#include <QTest>

#include <cmath>

using namespace ember;

namespace {

/// The line stage without its follower: a plate that drives the coupling capacitor.
Build plateDriven() {
    Build b = startOf("line-stage")->build;
    b.loose.clear();
    for (Channel& ch : b.channels) std::erase_if(ch.stages, [](const Stage& s) { return s.kind == "follower"; });
    return b;
}
double value(const Build& b, const char* kind, const char* slot) {
    for (const Stage& s : b.channels[0].stages)
        if (s.kind == kind)
            if (const StagePart* p = s.part(slot)) return mainValue(p->part);
    qFatal("no %s of a %s", slot, kind);
}
/// A supply that rises to 300 V in `rise` seconds and stays.
plan::Figures rising(const Build& b, double rise) {
    plan::Figures f;
    f.switchOn.nodes.resize(static_cast<std::size_t>(supplyNodes(b.supply)));
    for (int k = 0; k <= 20000; ++k) {
        const double t = k * 5e-4;
        f.switchOn.seconds.push_back(t);
        for (auto& node : f.switchOn.nodes) node.push_back(300 * std::min(1.0, t / rise));
    }
    return f;
}

} // namespace

class TestOutputEnds : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    /// A step divides between plate resistor and load; a slow ramp gives slope times R C of both, so divided.
    void aLineOutputThumpsAsItsCapacitorPasses() {
        const Build b = plateDriven();
        const double plate = value(b, "triode", "plate"), load = value(b, "line out", "load"),
                     farads = value(b, "line out", "coupling"), divided = load / (load + plate);
        const double step = plan::switchOnVolts(b, rising(b, 1e-4), 0);
        QVERIFY2(std::abs(step / (300 * divided) - 1) < 0.02, qPrintable(QString::number(step)));
        const double rise = 8, tau = farads * (plate + load), ramp = plan::switchOnVolts(b, rising(b, rise), 0);
        const double expected = 300 / rise * tau * divided * (1 - std::exp(-rise / tau));
        QVERIFY2(std::abs(ramp / expected - 1) < 0.02, qPrintable(QString("%1 %2").arg(ramp).arg(expected)));
    }
    /// Without its capacitor the plate's direct volts stand at the jack: a stop, and no part of the signal.
    void directVoltsAreAFindingAndNoSignal() {
        const Build b = plateDriven();
        QVERIFY(!findingOf(inspected(b), "output-dc/"));
        Build joined = b;
        for (Channel& ch : joined.channels)
            for (Stage& s : ch.stages)
                if (s.kind == "line out")
                    std::erase_if(s.parts,
                                  [](const StagePart& p) { return p.slot == "coupling" || p.slot == "fail-safe"; });
        const auto all = inspected(joined);
        const auto* x = findingOf(all, "output-dc/left");
        QVERIFY(x && x->level == rules::Level::Stop && x->title.find(" V DC") != std::string::npos);
        std::vector<double> heard;
        for (const Build* of : {&b, static_cast<const Build*>(&joined)}) {
            const auto f = plan::solveFigures(*of, catalogue);
            plan::ToneRun run;
            QVERIFY(plan::solveTone(*of, catalogue, 0, plan::supplyOf(*of, *f.nominal), {0.1, 1000}, run));
            heard.push_back(run.figures.outputRms);
            QVERIFY(run.figures.outputRms < 1.1 * run.figures.harmonics[0]);
        }
        QVERIFY2(std::abs(heard[1] / heard[0] - 1) < 0.1, qPrintable(QString("%1 %2").arg(heard[0]).arg(heard[1])));
    }
};

EMBER_TESTS(TestOutputEnds)
#include "test_output_ends.moc"
