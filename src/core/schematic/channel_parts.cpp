#include "channel_parts.h"

#include <algorithm>

namespace ember::schematic {

namespace {

std::vector<std::string> bottles(const Channel& ch, bool output) {
    std::vector<std::string> out;
    for (const Stage& s : ch.stages)
        for (const StageValve& v : s.valves)
            if (isOutput(s) == output && std::find(out.begin(), out.end(), v.bottle) == out.end())
                out.push_back(v.bottle);
    return out;
}

} // namespace

std::vector<std::string> outputBottles(const Channel& ch) {
    return bottles(ch, true);
}
std::vector<std::string> smallBottles(const Channel& ch) {
    return bottles(ch, false);
}

std::vector<std::string> signalIron(const Channel& ch) {
    std::vector<std::string> out;
    for (const Stage& s : ch.stages)
        for (const StagePart& p : s.parts)
            if (std::holds_alternative<OutputTransformer>(p.part)) out.push_back(idOf(p.part));
    return out;
}

std::size_t firstOf(const Channel& ch, Duty duty) {
    return static_cast<std::size_t>(
        std::find_if(ch.stages.begin(), ch.stages.end(), [&](const Stage& s) { return dutyOf(s) == duty; }) -
        ch.stages.begin());
}

const Stage* firstGain(const Channel& ch) {
    for (const Stage& s : ch.stages)
        if (!s.valves.empty()) return &s;
    return nullptr;
}

const Stage* outputStage(const Channel& ch) {
    const std::size_t k = firstOf(ch, Duty::Output);
    return k < ch.stages.size() ? &ch.stages[k] : nullptr;
}

} // namespace ember::schematic
