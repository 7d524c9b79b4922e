// How far First Power has come, as the log shows it: a stage is begun, read, passed, or ended by a stop.
#include "first_power.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

namespace ember::procedure {

namespace {

const LogEntry* lastEvent(const Build& b, int stage) {
    for (auto e = b.log.rbegin(); e != b.log.rend(); ++e)
        if (e->kind == "stage" && e->stage == stage && !e->struck) return &*e;
    return nullptr;
}

} // namespace

int currentStage(const Build& b) {
    std::array<bool, stageCount> passed{};
    for (const LogEntry& e : b.log)
        if (e.kind == "stage" && !e.struck && e.stage >= 0 && e.stage < stageCount)
            passed[static_cast<std::size_t>(e.stage)] = e.event == StageEvent::Passed;
    const auto first = std::find(passed.begin(), passed.end(), false);
    return static_cast<int>(first - passed.begin());
}

bool stageEnded(const Build& b, int stage) {
    const LogEntry* last = lastEvent(b, stage);
    return last && last->event == StageEvent::Ended;
}

const LogEntry* lastReading(const Build& b, int stage, const std::string& point) {
    for (auto e = b.log.rbegin(); e != b.log.rend(); ++e) {
        if (e->struck || e->stage != stage) continue;
        if (e->kind == "stage" && e->event == StageEvent::Begun) return nullptr; // what was read before does not count
        if (e->kind == "reading" && e->point == point) return &*e;
    }
    return nullptr;
}

bool mayPass(const Build& b, const PowerStage& stage) {
    if (stage.expectations.empty() || stageEnded(b, stage.index)) return false;
    return std::all_of(stage.expectations.begin(), stage.expectations.end(), [&](const Expectation& e) {
        const LogEntry* have = lastReading(b, stage.index, e.point.id);
        if (!have) return false;
        const Verdict v = verdictOf(have->verdict);
        return v == Verdict::InRange || (v != Verdict::Stop && !have->text.empty());
    });
}

LogEntry stageEntry(int stage, StageEvent event, const std::string& why) {
    static constexpr std::array<std::string_view, 3> words{"passed", "ended", "begun again"};
    LogEntry e;
    e.kind = "stage";
    e.stage = stage;
    e.event = event;
    e.text = fmt::format("{}: {}{}", words[static_cast<std::size_t>(event)], stageName(stage),
                         why.empty() ? "" : ", " + why);
    return e;
}

std::string unpluggedWarning(const Build& b, const TestPoint& point, double value) {
    if (point.mode == MeterMode::Ohms || currentStage(b) != 0 || !(std::abs(value) > dischargedVolts)) return {};
    return fmt::format("{} at {} while the plan says unplugged: look at the plug, discharge, read again before a hand "
                       "goes in.",
                       format(value, Unit::Volt), point.label);
}

} // namespace ember::procedure
