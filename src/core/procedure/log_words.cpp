#include "log_words.h"

#include "first_power.h"

#include <algorithm>

namespace ember::procedure {

namespace {

constexpr std::string_view blank = " \t\r\n\f\v";

std::string_view trimmed(std::string_view s) {
    const auto from = s.find_first_not_of(blank);
    if (from == std::string_view::npos) return {};
    return s.substr(from, s.find_last_not_of(blank) - from + 1);
}

} // namespace

LogWords understandLogWords(const Build& build, std::string_view typed, Strand strand) {
    const std::string_view words = trimmed(typed);
    const auto space = words.find_first_of(blank);
    if (space == std::string_view::npos) return {};
    const auto points = testPoints(build);
    const TestPoint* point = findPoint(points, words.substr(0, space));
    if (!point) return {};
    const auto value = parseReading(build, *point, std::string(trimmed(words.substr(space))));
    if (!value) return {{}, 0, value.problem().sentence, -1};
    const int now = std::min(currentStage(build, strand), stageCount - 1);
    // Volts that are read while the plug is out are a capacitor's, whatever the point is called under power.
    if (!notYetDischarged(build, strand).empty() || now == 0) {
        const auto there = whileUnplugged(build, *point);
        if (!there) return {{}, 0, there.problem().sentence, -1};
        if (there->kind == PointKind::Held) return {*there, *value, {}, now};
    }
    if (point->readAt(now) || point->stages == 0) return {*point, *value, {}, now};
    for (int k = stageCount - 1; k >= 0; --k)
        if (point->readAt(k)) return {*point, *value, {}, k};
    return {};
}

} // namespace ember::procedure
