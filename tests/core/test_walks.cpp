// Random walks through First Power: readings of the amplifier and of the practice amplifier, edits and their undo,
// exchanged parts, switch-offs, steps passed and begun again, the program killed in between. What a walk may not reach
// is told by a second, independent account of what was done.

#include "../support/demo.h"
#include "../support/suite.h"

#include "core/build/build_json.h"
#include "core/build/part_values.h"
#include "core/procedure/changes.h"
#include "core/procedure/first_power.h"

#include <QTest>

#include <map>
#include <random>
#include <set>

using namespace ember;
using namespace ember::procedure;

namespace {

/// Two capacitors, one small valve's worth of a log: a build that is quick to walk.
Build smallBuild() {
    Build b = demoBuild();
    b.channels.clear();
    b.bottles.clear();
    b.wiring = {};
    b.chassis = {};
    b.log.clear();
    return b;
}

/// A step whose ranges are given: what is solved elsewhere is not the point here.
PowerStage stepOf(const Build& b, int index) {
    PowerStage s;
    s.index = index;
    s.powered = index > 0;
    for (const TestPoint& p : pointsOfStage(b, index)) {
        Expectation e{p, {10, 5, 15}, 20.0, {}, "Switch off.", {}, {}};
        if (p.kind == PointKind::Held) e.band = {0, -1, dischargedVolts}, e.stopAbove = 60;
        s.expectations.push_back(e);
    }
    return s;
}

/// What happened, told apart from the log: the latest reading of every point at every step, and since when it counts.
struct Account {
    struct Read {
        long moment;
        bool good;
    };
    std::map<std::pair<int, std::string>, Read> readings; ///< of the amplifier, by step and point
    long now = 0;
    std::array<long, stageCount> since{}; ///< readings before it do not count
    std::array<bool, stageCount> ended{};
    Build amplifier; ///< as it was soldered
    void reopen(int from) {
        for (int k = from; k < stageCount; ++k) {
            ended[static_cast<std::size_t>(k)] = false;
            since[static_cast<std::size_t>(k)] = now;
        }
    }
    /// Whether a step is proved: each of its readings is the amplifier's, of now, and none is past a stop; the
    /// amplifier is the one of the plan. Empty, or what is not so.
    [[nodiscard]] std::string against(const PowerStage& step, const Build& plan) const {
        const auto at = static_cast<std::size_t>(step.index);
        for (const Expectation& e : step.expectations) {
            if (step.index > 0 && e.point.kind == PointKind::Held) continue;
            const auto r = readings.find({step.index, e.point.id});
            if (r == readings.end() || !r->second.good || r->second.moment <= since[at]) return e.point.id;
        }
        if (ended[at]) return "past a stop";
        for (const auto& [id, part] : partValues(plan))
            if (partValues(amplifier).at(id).values != part.values) return id + " differs";
        return {};
    }
};

} // namespace

class TestWalks : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void noWalkPassesAStepThatWasNotProved() {
        const Build begin = smallBuild();
        std::vector<PowerStage> steps;
        for (int k = 0; k < stageCount; ++k) steps.push_back(stepOf(begin, k));
        int passes = 0, refused = 0;
#ifdef EMBER_SANITIZE
        constexpr int walks = 1500, moves = 20; // the same code, and slow there
#else
        constexpr int walks = 10000, moves = 20;
#endif
        std::vector<std::string> values{"/supply/sections/0/capacitance", "/supply/sections/0/volts",
                                        "/supply/sections/1/inductance"};
        for (int walk = 0; walk < walks; ++walk) {
            std::mt19937 chance(static_cast<unsigned>(walk));
            const auto pick = [&](int most) { return static_cast<int>(chance() % static_cast<unsigned>(most)); };
            Build b = begin;
            std::vector<Build> undo;
            Account truth;
            truth.amplifier = b;
            bool practising = false;
            const auto passed = [&](int step) {
                ++passes;
                const std::string why = truth.against(steps[static_cast<std::size_t>(step)], b);
                if (!why.empty()) qFatal("walk %d passes step %d: %s", walk, step, why.c_str());
            };
            const auto readStep = [&](int step, bool well) { // every point of it, as a patient builder
                const Strand whose = practising ? Strand::Practice : Strand::Amplifier;
                for (const Expectation& e : steps[static_cast<std::size_t>(step)].expectations) {
                    if (!notReadable(b, e.point, step, whose).empty()) continue;
                    double value = e.point.kind == PointKind::Held ? 0.5 : 10;
                    if (!well && pick(40) == 0) value = 100;
                    LogEntry r = readingEntry(e, step, value, practising ? practiceSource : "typed");
                    const bool stops = judge(e, value) == Verdict::Stop;
                    b.log.push_back(r);
                    ++truth.now;
                    if (!practising) truth.readings[{step, e.point.id}] = {truth.now, !stops};
                    if (stops) {
                        b.log.push_back(stageEntry(step, StageEvent::Ended, whose));
                        if (!practising) truth.ended[static_cast<std::size_t>(step)] = true;
                        return;
                    }
                }
            };
            for (int move = 0; move < moves; ++move) {
                ++truth.now;
                const Strand whose = practising ? Strand::Practice : Strand::Amplifier;
                const int now = std::min(currentStage(b, whose), stageCount - 1);
                switch (pick(12)) {
                case 0: practising = !practising; break;
                case 1: { // an edit
                    undo.push_back(b);
                    Build next = b;
                    const std::string& at = values[static_cast<std::size_t>(pick(3))];
                    QVERIFY(setNumber(next, at,
                                      at.ends_with("volts")
                                          ? 400 + 50 * pick(2)
                                          : 20e-6 * (1 + pick(3)) * (at.ends_with("inductance") ? 1e5 : 1))
                                .ok());
                    if (!logChanges(b, next, "2026-01-01T00:00:00") && openChanges(b).empty())
                        truth.amplifier = next; // nothing is read yet: it is not built
                    b = next;
                    break;
                }
                case 2: // taken back
                    if (!undo.empty()) {
                        Build next = undo.back();
                        undo.pop_back();
                        next.log = b.log;
                        if (!logChanges(b, next, "2026-01-01T00:00:00") && openChanges(b).empty())
                            truth.amplifier = next;
                        b = next;
                    }
                    break;
                case 3: // exchanged in the amplifier
                    for (const OpenChange& c : openChanges(b)) {
                        b.log.push_back(exchangedEntry(b, c.part));
                        truth.reopen(c.stage);
                    }
                    truth.amplifier = b;
                    break;
                case 4: b.log.push_back(switchedOffEntry(now, whose)); break;
                case 5: { // begun again, somewhere
                    const int from = pick(stageCount);
                    b.log.push_back(stageEntry(from, StageEvent::Begun, whose));
                    if (!practising) truth.reopen(from);
                    break;
                }
                case 6: {                      // the program is killed: what the file holds is all that is known
                    if (walk % 20 != 0) break; // reading a file takes longer than all the rest
                    auto again = fromText(toText(b));
                    QVERIFY2(again.ok(), again.ok() ? "" : again.problem().text().c_str());
                    b = *again;
                    break;
                }
                case 7: { // any step is asked to pass
                    const int step = pick(stageCount);
                    const auto against = obstacles(b, steps[static_cast<std::size_t>(step)], whose);
                    refused += !against.empty();
                    if (against.empty()) b.log.push_back(stageEntry(step, StageEvent::Passed, whose));
                    if (against.empty() && !practising) passed(step);
                    break;
                }
                default: // the usual: read the current step, pass it
                    readStep(now, false);
                    if (const auto against = obstacles(b, steps[static_cast<std::size_t>(now)], whose);
                        against.empty()) {
                        b.log.push_back(stageEntry(now, StageEvent::Passed, whose));
                        if (!practising) passed(now);
                    }
                    break;
                }
                // The amplifier never stands farther than its own account says.
                const Progress p = progressOf(b, Strand::Amplifier);
                for (int k = 0; k < p.current(); ++k)
                    QVERIFY2(p.steps[static_cast<std::size_t>(k)].passed, "steps in order");
            }
        }
        QVERIFY2(passes > walks / 4 && refused > walks / 4,
                 qPrintable(QString("%1 passed, %2 refused").arg(passes).arg(refused)));
    }
};

EMBER_TESTS(TestWalks)
#include "test_walks.moc"
