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

LogWords understandLogWords(const Build& build, std::string_view typed) {
    const std::string_view words = trimmed(typed);
    const auto space = words.find_first_of(blank);
    if (space == std::string_view::npos) return {};
    const auto points = testPoints(build);
    const TestPoint* point = findPoint(points, words.substr(0, space));
    if (!point) return {};
    const auto value = parseWithin(trimmed(words.substr(space)), point->unit(), senseOf(build, *point));
    if (!value) return {{}, 0, value.problem().sentence, -1};
    const int now = std::min(currentStage(build), stageCount - 1);
    if (point->readAt(now)) return {*point, *value, {}, now};
    for (int k = stageCount - 1; k >= 0; --k)
        if (point->readAt(k)) return {*point, *value, {}, k};
    return {};
}

} // namespace ember::procedure
