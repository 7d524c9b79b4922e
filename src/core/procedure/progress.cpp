#include "progress.h"

#include "changes.h"
#include "first_power.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace ember::procedure {

Strand strandOf(const LogEntry& e) {
    return e.source == practiceSource ? Strand::Practice : Strand::Amplifier;
}

int Progress::current() const {
    const auto first = std::find_if(steps.begin(), steps.end(), [](const Step& s) { return !s.passed; });
    return static_cast<int>(first - steps.begin());
}

Progress progressOf(const Build& b, Strand strand) {
    Progress out;
    const auto reopen = [&](int from, std::size_t entry) {
        for (int k = std::max(0, from); k < stageCount; ++k)
            out.steps[static_cast<std::size_t>(k)] = {false, false, entry + 1};
    };
    for (std::size_t k = 0; k < b.log.size(); ++k) {
        const LogEntry& e = b.log[k];
        if (e.struck) continue;
        // The practice amplifier is made from the plan as it is: it has no part to exchange.
        if (isChange(e) && strand == Strand::Amplifier) reopen(e.stage, k);
        if (strandOf(e) != strand) continue;
        if (e.kind == "power") out.unplugged = k + 1;
        if (e.kind != "stage" || e.stage < 0 || e.stage >= stageCount) continue;
        Progress::Step& step = out.steps[static_cast<std::size_t>(e.stage)];
        switch (e.event) {
        case StageEvent::Begun: reopen(e.stage, k); break;
        case StageEvent::Ended:
            for (int later = e.stage; later < stageCount; ++later)
                out.steps[static_cast<std::size_t>(later)].passed = false;
            step.ended = true;
            out.unplugged = k + 1;
            break;
        case StageEvent::Passed:
            if (e.stage != out.current() || step.ended) break; // out of order: it does not count
            step.passed = true;
            if (e.stage > 0) out.unplugged = k + 1;
            break;
        }
    }
    return out;
}

int currentStage(const Build& b, Strand strand) {
    return progressOf(b, strand).current();
}

bool stageEnded(const Build& b, int stage, Strand strand) {
    return stage >= 0 && stage < stageCount && progressOf(b, strand).steps[static_cast<std::size_t>(stage)].ended;
}

namespace {

/// The newest reading of a point from an entry on, of one stage or (-1) of any.
const LogEntry* newest(const Build& b, std::size_t from, int stage, const std::string& point, Strand strand) {
    for (std::size_t k = b.log.size(); k-- > from;) {
        const LogEntry& e = b.log[k];
        if (!e.struck && e.kind == "reading" && e.point == point && strandOf(e) == strand &&
            (stage < 0 || e.stage == stage))
            return &e;
    }
    return nullptr;
}

} // namespace

const LogEntry* lastReading(const Build& b, int stage, const std::string& point, Strand strand) {
    if (stage < 0 || stage >= stageCount) return nullptr;
    return newest(b, progressOf(b, strand).steps[static_cast<std::size_t>(stage)].begun, stage, point, strand);
}

namespace {

/// The log entry from which on a reading with the plug out counts.
std::size_t unpluggedSince(const Progress& p) {
    const auto now = static_cast<std::size_t>(std::min(p.current(), stageCount - 1));
    return std::max(p.unplugged, p.steps[now].begun);
}

std::vector<TestPoint> notYetDischarged(const Build& b, const Progress& p, Strand strand) {
    std::vector<TestPoint> out = heldPoints(b);
    const std::size_t since = unpluggedSince(p);
    std::erase_if(out, [&](const TestPoint& point) {
        const LogEntry* e = newest(b, since, -1, point.id, strand);
        return e && std::abs(e->value) <= dischargedVolts;
    });
    return out;
}

} // namespace

const LogEntry* heldReading(const Build& b, const std::string& point, Strand strand) {
    return newest(b, unpluggedSince(progressOf(b, strand)), -1, point, strand);
}

const LogEntry* shownReading(const Build& b, int stage, const TestPoint& point, Strand strand) {
    const bool gate = point.kind == PointKind::Held && stage > 0;
    return gate && stage == currentStage(b, strand) ? heldReading(b, point.id, strand)
                                                    : lastReading(b, stage, point.id, strand);
}

std::vector<TestPoint> notYetDischarged(const Build& b, Strand strand) {
    return notYetDischarged(b, progressOf(b, strand), strand);
}

std::string notReadable(const Build& b, const TestPoint& point, int stage, Strand strand) {
    if (point.mode == MeterMode::Ohms || point.kind == PointKind::Held || stage < 1) return {};
    const Progress p = progressOf(b, strand);
    const int now = p.current();
    if (now == stageCount) return {};
    if (stage > now)
        return fmt::format("Not kept: {} is read at step \"{}\". Pass step \"{}\" first.", point.label,
                           stageName(stage), stageName(now));
    std::string which;
    for (const TestPoint& held : notYetDischarged(b, p, strand)) which += (which.empty() ? "" : ", ") + held.label;
    if (which.empty()) return {};
    return fmt::format("Not kept: {} is read under power. Read first: {}.", point.label, which);
}

std::vector<std::string> obstacles(const Build& b, const PowerStage& stage, Strand strand,
                                   const std::vector<std::string>& stops) {
    std::vector<std::string> out;
    const Progress p = progressOf(b, strand);
    const int now = p.current();
    if (now > stage.index) return {"This step is passed."};
    if (now < stage.index) out.push_back(fmt::format("Pass step \"{}\" first.", stageName(now)));
    if (p.steps[static_cast<std::size_t>(stage.index)].ended)
        out.emplace_back("A reading past a stop limit ended this step. Find the cause, then begin the step again.");
    if (!stage.failure.empty())
        out.push_back("This step could not be computed, and nothing is judged: " + stage.failure);
    out.insert(out.end(), stage.refusals.begin(), stage.refusals.end());
    if (strand == Strand::Amplifier) {
        for (const OpenChange& c : openChanges(b))
            out.push_back(c.sentence +
                          ": changed in the plan alone. Exchange it in the amplifier, or undo the change.");
        for (const std::string& title : stops)
            out.push_back("Stop finding: " + title + ". Mend it, or waive it with a reason.");
    }
    std::size_t missing = 0, wrong = 0;
    const std::size_t begun = p.steps[static_cast<std::size_t>(stage.index)].begun;
    for (const Expectation& e : stage.expectations) {
        if (e.point.kind == PointKind::Held && stage.powered) continue; // the gate asks for these
        const LogEntry* have = newest(b, begun, stage.index, e.point.id, strand);
        const Verdict v = have ? verdictOf(have->verdict) : Verdict::NotJudged;
        if (!have)
            ++missing;
        else if (v == Verdict::Stop || (v != Verdict::InRange && have->text.empty()))
            ++wrong;
    }
    if (missing > 0)
        out.push_back(fmt::format("{} {} not taken yet.", missing, missing == 1 ? "reading is" : "readings are"));
    if (wrong > 0)
        out.push_back(fmt::format("{} {} out of range: explain {} in words, or find the cause.", wrong,
                                  wrong == 1 ? "reading is" : "readings are", wrong == 1 ? "it" : "each"));
    if (stage.expectations.empty()) out.emplace_back("This step has no readings.");
    return out;
}

LogEntry stageEntry(int stage, StageEvent event, Strand strand, const std::string& why) {
    static constexpr std::array<std::string_view, 3> words{"passed", "ended", "begun again"};
    LogEntry e;
    e.kind = "stage";
    e.stage = stage;
    e.event = event;
    if (strand == Strand::Practice) e.source = practiceSource;
    e.text = fmt::format("{}: {}{}", words[static_cast<std::size_t>(event)], stageName(stage),
                         why.empty() ? "" : ", " + why);
    return e;
}

LogEntry switchedOffEntry(int stage, Strand strand) {
    LogEntry e;
    e.kind = "power";
    e.stage = stage;
    if (strand == Strand::Practice) e.source = practiceSource;
    e.text = fmt::format("switched off{}", stage >= 0 && stage < stageCount
                                               ? fmt::format(" at step \"{}\"", stageName(stage))
                                               : std::string());
    return e;
}

Expected<TestPoint> whileUnplugged(const Build& b, const TestPoint& point) {
    if (point.kind == PointKind::Held || point.mode == MeterMode::Ohms) return point;
    if (point.kind == PointKind::Node)
        for (const TestPoint& p : heldPoints(b))
            if (p.section == static_cast<int>(point.index)) return p;
    return Problem{"",
                   fmt::format("{} is read under power, and the amplifier is unplugged: read each capacitor first. If "
                               "the mains is on, switch off, unplug and measure every capacitor.",
                               point.label)};
}

} // namespace ember::procedure
