// What feedback from the output does to a path, against the closed forms: A / (1 + A b), output impedance, distortion,
// the width of the response; and that what the nodes deliver goes through the valves.
#include "../support/demo.h"
#include "../support/parts.h"
#include "../support/shipped.h"
#include "../support/solved.h"
#include "../support/suite.h"

#include "core/build/starts.h"
#include "core/plan/channel_circuit.h"
#include "core/plan/channel_response.h"
#include "core/plan/solve.h"
#include "core/plan/stage_figures.h"
#include "core/schematic/path_schematic.h"

#include <QTest>

#include <cmath>
#include <numbers>

using namespace ember;
using namespace ember::plan;

namespace {

/// Share of the output that the demo's 1 k and 100 ohm lead back to the first cathode.
constexpr double back = 100.0 / 1100;

/// Of the small signal from the input to the output; the stages that have a gain.
double gainThrough(const Build& b, const Steady& s, std::size_t channel = 0) {
    double gain = 1;
    const auto all = stageFigures(b, catalogue, s, {});
    for (const StageFigures& f : all.at(channel))
        if (std::isfinite(f.gain)) gain *= f.gain;
    return std::abs(gain);
}

} // namespace

class TestFeedback : public QObject {
    Q_OBJECT
    Build closed = demoBuild(), open = demoOpenLoop();
    Steady atRest = solved(closed), openAtRest = solved(open);

  private Q_SLOTS:
    void theOperatingPointDoesNotMove() {
        // The secondary has no direct volts that could be led back; the first stage's foot is a little lower.
        for (std::size_t k = 0; k < atRest.channels[0].valves.size(); ++k) {
            const ValvePoint &a = atRest.channels[0].valves[k], &b = openAtRest.channels[0].valves[k];
            QVERIFY2(std::abs(a.plate / b.plate - 1) < 0.03, qPrintable(QString::number(k)));
            QVERIFY(std::abs(a.cathodeAmps() / b.cathodeAmps() - 1) < 0.03);
        }
    }

    void theGainIsDividedByOneAndTheLoop() {
        const double a = gainThrough(open, openAtRest), expected = a / (1 + a * back);
        const double found = gainThrough(closed, atRest);
        QVERIFY2(std::abs(found / expected - 1) < 0.1,
                 qPrintable(QString("%1 open, %2 closed, %3 expected").arg(a).arg(found).arg(expected)));
        QVERIFY2(found < 1 / back, "no feedback makes more gain than its divider asks for");
    }

    void theOutputImpedanceFallsByTheLoopWithoutTheLoad() {
        const double z = portsOf(open, catalogue, openAtRest, 0).outputOhms,
                     closedZ = portsOf(closed, catalogue, atRest, 0).outputOhms;
        // Without the load the open gain is higher, by the divider that the load and the impedance make.
        const double a = gainThrough(open, openAtRest) * (8 + z) / 8;
        QVERIFY2(std::abs(closedZ / (z / (1 + a * back)) - 1) < 0.1,
                 qPrintable(QString("%1 ohm open, %2 closed").arg(z).arg(closedZ)));
    }

    /// Turns go as the square root of the load: a tap for twice the impedance has 1.414 times the volts, and feedback
    /// from there through a divider that much smaller is the same feedback.
    void feedbackFromAnotherTapIsTheSameByItsTurns() {
        Build b = closed;
        for (Channel& ch : b.channels) {
            std::get<OutputTransformer>(outputOf(ch).part("transformer")->part).secondaryTaps = {{{}, 16}, {{}, 4}};
            for (Stage& s : ch.stages)
                if (s.kind == "feedback") {
                    s.from = outputOf(ch).id + " 16 \u03A9 tap";
                    for (StagePart& p : s.parts)
                        if (auto* c = std::get_if<CapacitorPart>(&p.part)) c->capacitance /= std::numbers::sqrt2;
                }
        }
        QVERIFY(schematic::pathProblems(b, catalogue).empty()); // the tap that nothing hangs on is no mistake
        const auto held = schematic::channelSchematic(b, catalogue, 0);
        QVERIFY(held.points.contains(outputOf(b.channels[0]).id + " 4 \u03A9 tap"));
        for (const char* id : {"r24", "r44"}) // 1 k and 100 ohm: 1.1 k in all
            ohmsOf(b, id) = std::numbers::sqrt2 * 1100 - 100;
        const Steady s = solved(b);
        const auto at = [&](schematic::NetId net) {
            const auto h = heldChannel(b, catalogue, 0, supplyOf(b, s));
            schematic::Analysis a(h.schematic);
            return std::abs(a.gain(*a.operatingPoint(), h.source, net, 1000));
        };
        const double tap = at(held.points.at(outputOf(b.channels[0]).id + " 16 \u03A9 tap")),
                     lower = at(held.points.at(outputOf(b.channels[0]).id + " 4 \u03A9 tap"));
        // Above the load's tap the copper carries next to nothing, so that its drop is missing there.
        QVERIFY2(tap / at(held.output) > std::numbers::sqrt2 && tap / at(held.output) < 1.06 * std::numbers::sqrt2,
                 qPrintable(QString::number(tap / at(held.output))));
        QVERIFY(std::abs(tap / lower / 2 - 1) < 0.06);
        // The larger resistance loads the first cathode's foot a little less.
        QVERIFY2(
            std::abs(gainThrough(b, s) / gainThrough(closed, atRest) - 1) < 0.02,
            qPrintable(QString("%1 from 16 ohm, %2 from 8").arg(gainThrough(b, s)).arg(gainThrough(closed, atRest))));
        // The drop in the load's copper is seen by its turns less: a little more impedance than from the load itself.
        const double more = portsOf(b, catalogue, s, 0).outputOhms / portsOf(closed, catalogue, atRest, 0).outputOhms;
        QVERIFY2(more > 1 && more < 1.3, qPrintable(QString::number(more)));
    }

    void aStageTakesInWhatItsPartsSay() {
        const auto stages = stageFigures(closed, catalogue, atRest, {});
        const Channel& ch = closed.channels[0];
        for (std::size_t n = 0; n < ch.stages.size(); ++n) {
            const StageFigures& f = stages[0][n];
            if (ch.stages[n].kind != "push-pull") continue;
            // Into a coupling capacitor and a grid leak; the grid itself takes nothing but through its capacitances.
            for (const StagePart& p : ch.stages[n].parts)
                if (p.slot == "grid leak")
                    QVERIFY2(std::abs(f.inputOhms / mainValue(p.part) - 1) < 0.02,
                             qPrintable(QString::number(f.inputOhms)));
        }
        QVERIFY(std::abs(stages[0][0].inputOhms / portsOf(closed, catalogue, atRest, 0).inputOhms - 1) < 1e-3);
        // A split load's own cathode follows its grid: its grid sees ten times a resistor's megohms.
        const Build split = startOf("push-pull-pentode")->build;
        const auto of = stageFigures(split, catalogue, solved(split), {});
        for (std::size_t n = 0; n < split.channels[0].stages.size(); ++n)
            if (split.channels[0].stages[n].kind == "split load") QVERIFY(of[0][n].inputOhms > 10e6);
    }

    /// What a stage gives into the next, by each alone: loaded 1 / (1 / Zout + 1 / Zin).
    void impedancesOfNeighboursBelongTogether() {
        const Build b = startOf("line-stage")->build;
        Build cut = b;
        std::size_t last = b.channels[0].stages.size() - 1;
        while (b.channels[0].stages[last].kind != "line out") --last;
        for (Channel& c : cut.channels) c.stages.erase(c.stages.begin() + static_cast<std::ptrdiff_t>(last));
        const auto whole = stageFigures(b, catalogue, solved(b), {}),
                   withoutNext = stageFigures(cut, catalogue, solved(cut), {});
        const double alone = withoutNext[0][last - 1].outputOhms, next = whole[0][last].inputOhms,
                     loaded = whole[0][last - 1].outputOhms;
        QVERIFY2(std::abs(loaded / (1 / (1 / alone + 1 / next)) - 1) < 0.01,
                 qPrintable(QString("%1 alone, %2 next, %3 loaded").arg(alone).arg(next).arg(loaded)));
    }

    /// The curve is what its single figures say; beyond each end it falls on.
    void theResponseIsOneCurveWithItsEnds() {
        for (const char* id : {"push-pull-pentode", "single-ended-triode", "line-stage"}) {
            const Build b = startOf(id)->build;
            const Steady s = solved(b);
            const ChannelResponse r = channelResponse(b, catalogue, s, 0);
            const Ports ports = portsOf(b, catalogue, s, 0);
            QVERIFY(r.hertz.size() > 150 && r.db.size() == r.hertz.size());
            const auto at = [&](const std::vector<double>& y, double hz) {
                for (std::size_t k = 1; k < r.hertz.size(); ++k)
                    if (r.hertz[k] >= hz) {
                        const double share = std::log(hz / r.hertz[k - 1]) / std::log(r.hertz[k] / r.hertz[k - 1]);
                        return y[k - 1] + share * (y[k] - y[k - 1]);
                    }
                return unknown;
            };
            QVERIFY(std::abs(at(r.db, 1000)) < 0.01);
            QVERIFY2(std::abs(at(r.outputOhms, 1000) / ports.outputOhms - 1) < 0.01, id);
            for (const double edge : {r.ends.low, r.ends.high})
                if (edge > 2.2 && edge < 190e3)
                    QVERIFY2(std::abs(at(r.db, edge) + 3.01) < 0.05, qPrintable(QString("%1 %2").arg(id).arg(edge)));
            for (std::size_t k = 1; k < r.degrees.size(); ++k) QVERIFY(std::abs(r.degrees[k] - r.degrees[k - 1]) < 90);
        }
    }

    void moreFeedbackIsLessGainAndLessImpedance() {
        double gain = 1e9, ohms = 1e9;
        for (const double resistance : {10e3, 3.3e3, 1e3, 680.0}) {
            Build b = closed;
            ohmsOf(b, "r24") = ohmsOf(b, "r44") = resistance;
            const Steady s = solved(b);
            const double g = gainThrough(b, s), z = portsOf(b, catalogue, s, 0).outputOhms;
            QVERIFY2(g < gain && z < ohms, qPrintable(QString::number(resistance)));
            gain = g, ohms = z;
        }
    }

    void distortionFallsAboutAsTheGain() {
        const auto a = channelPower(open, catalogue, openAtRest), b = channelPower(closed, catalogue, atRest);
        const double gain = a[0].gain / b[0].gain, distortion = a[0].thdAtReference / b[0].thdAtReference;
        QVERIFY2(distortion > 0.6 * gain, qPrintable(QString("gain / %1, distortion / %2").arg(gain).arg(distortion)));
        // It makes no watts: what the output valves can give they give with it and without.
        QVERIFY(std::abs(b[0].sweep.back().watts / a[0].sweep.back().watts - 1) < 0.15);
        QVERIFY(b[0].clipWatts > 1.5 * a[0].clipWatts); // but it keeps them clean for longer
        // Two ways to the same gain: small signals, and a tone at one watt.
        QVERIFY(std::abs(gainThrough(closed, atRest) / b[0].gain - 1) < 0.03);
        // Watts, volts and load belong together.
        for (const PowerFigures& p : b)
            QVERIFY(std::abs(p.clipOutput * p.clipOutput / p.load / p.clipWatts - 1) < 0.02);
    }

    /// With the secondary turned round the loop's sign is: A / (1 - A b), which is more than the divider asks for.
    void turnedRoundItIsTheOtherSign() {
        Build wrong = closed;
        outputOf(wrong.channels[0]).options.push_back({{}, "secondary", "turned round"});
        const double a = gainThrough(open, openAtRest), expected = std::abs(a / (1 - a * back));
        const double found = gainThrough(wrong, solved(wrong));
        QVERIFY2(std::abs(found / expected - 1) < 0.2, qPrintable(QString("%1, %2").arg(found).arg(expected)));
        QVERIFY(found > 1 / back);
    }

    void oneChannelsFeedbackIsNotTheOthers() {
        Build half = closed;
        std::erase_if(half.channels[1].stages, [](const Stage& s) { return s.kind == "feedback"; });
        const Steady s = solved(half);
        QVERIFY(std::abs(gainThrough(half, s, 0) / gainThrough(closed, atRest, 0) - 1) < 0.01);
        QVERIFY(std::abs(gainThrough(half, s, 1) / gainThrough(open, openAtRest, 1) - 1) < 0.01);
    }

    void bothChannelsAreTheSame() {
        QVERIFY(std::abs(gainThrough(closed, atRest, 0) / gainThrough(closed, atRest, 1) - 1) < 0.02);
    }

    void whatTheNodesDeliverReturnsThroughTheCathodes_data() {
        QTest::addColumn<QString>("id");
        for (const Start& s : starts())
            if (!s.build.channels.empty()) QTest::newRow(s.id.c_str()) << QString::fromStdString(s.id);
    }
    void whatTheNodesDeliverReturnsThroughTheCathodes() {
        QFETCH(QString, id);
        const Build& b = startOf(id.toStdString())->build;
        const Steady s = solved(b);
        for (const ChannelPoint& ch : s.channels) {
            if (ch.valves.empty()) continue; // a path that is only begun
            double delivered = 0, returned = 0;
            for (const NodeDraw& d : ch.draws) delivered += d.amps;
            for (const ValvePoint& v : ch.valves) returned += v.cathodeAmps();
            QVERIFY(returned > 0);
            QVERIFY2(std::abs(delivered / returned - 1) < 0.01,
                     qPrintable(QString("%1 mA against %2").arg(1e3 * delivered).arg(1e3 * returned)));
            for (const ValvePoint& v : ch.valves) {
                QVERIFY(v.plateAmps > 0 && v.plateWatts() > 0);
                QVERIFY2(v.plate > v.cathode && v.grid < v.cathode, "every valve is biased");
            }
        }
    }
};

EMBER_TESTS(TestFeedback)
#include "test_feedback.moc"
