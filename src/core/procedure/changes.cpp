#include "changes.h"

#include "progress.h"

#include "core/build/part_values.h"
#include "core/quantity/letters.h"
#include "core/schematic/stages/stage_kind.h"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <set>

namespace ember::procedure {

namespace {

/// A part as one text, so that two can be compared and one be kept in the log.
std::string written(const PartValues* part) {
    std::string out;
    if (part)
        for (const auto& [key, value] : part->values) out += key + "=" + value + "\n";
    return out;
}

const PartValues* find(const std::map<std::string, PartValues>& parts, const std::string& id) {
    const auto at = parts.find(id);
    return at == parts.end() ? nullptr : &at->second;
}

/// "C1: capacitance 47 µF → 100 µF, volts 350 V → 450 V".
std::string sentenceOf(const std::string& id, const PartValues* before, const PartValues* after) {
    if (!before) return upper(id) + " is new in the plan";
    if (!after) return upper(id) + " is removed from the plan";
    std::string what;
    int more = 0;
    const auto say = [&](const std::string& key, const std::string& from, const std::string& to) {
        if (std::count(what.begin(), what.end(), ',') >= 2)
            ++more;
        else
            what += fmt::format("{} {} {} → {}", what.empty() ? "" : ",", key, from.empty() ? "none" : from,
                                to.empty() ? "none" : to);
    };
    for (const auto& [key, value] : before->values) {
        const auto now = after->values.find(key);
        if (now == after->values.end())
            say(key, value, {});
        else if (now->second != value)
            say(key, value, now->second);
    }
    for (const auto& [key, value] : after->values)
        if (!before->values.contains(key)) say(key, {}, value);
    return fmt::format("{}:{}{}", upper(id), what, more > 0 ? fmt::format(" and {} more", more) : std::string());
}

/// "/channels/1/stages/2/parts/0" has 1 after "channels"; nothing where the key is not there.
std::optional<std::size_t> indexAfter(const std::string& place, std::string_view key) {
    const std::string wanted = "/" + std::string(key) + "/";
    const std::size_t at = place.find(wanted);
    if (at == std::string::npos) return std::nullopt;
    std::size_t out = 0;
    const char* from = place.data() + at + wanted.size();
    const auto [end, error] = std::from_chars(from, place.data() + place.size(), out);
    return error == std::errc() && end != from ? std::optional(out) : std::nullopt;
}

/// A step at which the log shows work: what is after it was never reached, and nothing has to be proved again.
bool reached(const Build& b, int stage) {
    return std::any_of(b.log.begin(), b.log.end(), [&](const LogEntry& e) {
        return !e.struck && strandOf(e) == Strand::Amplifier && e.stage >= stage &&
               (e.kind == "reading" || (e.kind == "stage" && e.event == StageEvent::Passed));
    });
}

} // namespace

bool isChange(const LogEntry& e) {
    return e.kind == "change" || e.kind == "exchange";
}

int firstStageOf(const Build& b, const std::string& place) {
    const auto channel = indexAfter(place, "channels"), stage = indexAfter(place, "stages");
    if (channel && stage && *channel < b.channels.size() && *stage < b.channels[*channel].stages.size()) {
        const Stage& s = b.channels[*channel].stages[*stage];
        // Of an output stage grid leaks, cathode resistors and the load are read before the mains comes near.
        return schematic::isOutput(s) ? 0 : 3;
    }
    if (const auto bottle = indexAfter(place, "bottles"); bottle && *bottle < b.bottles.size()) {
        for (const Channel& ch : b.channels)
            for (const Stage& s : ch.stages)
                if (schematic::isOutput(s))
                    for (const StageValve& v : s.valves)
                        if (v.bottle == b.bottles[*bottle].id) return 4;
        return 3;
    }
    if (place == "/supply/rectifier") {
        const RectifierType* type = Catalogue::shipped().rectifier(b.supply.rectifier.type);
        return type && type->vacuum ? 2 : 0; // silicon is in before the first reading
    }
    return place.starts_with("/channels") ? 3 : 0;
}

namespace {

using Parts = std::map<std::string, PartValues>;

std::vector<LogEntry> changesBetween(const Build& before, const Build& after, const Parts& was, const Parts& is) {
    std::vector<LogEntry> out;
    const auto differ = [&](const std::string& id) {
        const PartValues *from = find(was, id), *to = find(is, id);
        const std::string old = written(from);
        if (old == written(to)) return;
        const int first = to ? firstStageOf(after, to->place) : firstStageOf(before, from->place);
        if (!reached(after, first)) return;
        LogEntry e;
        e.kind = "change";
        e.point = id;
        e.stage = first;
        e.was = old;
        e.text = sentenceOf(id, from, to);
        out.push_back(std::move(e));
    };
    for (const auto& [id, part] : was) differ(id);
    for (const auto& [id, part] : is)
        if (!was.contains(id)) differ(id);
    return out;
}

/// By part: the changes in force that nobody has said to be in the amplifier, the oldest first.
std::map<std::string, std::vector<std::size_t>> pending(const Build& b) {
    std::map<std::string, std::vector<std::size_t>> out;
    for (std::size_t k = 0; k < b.log.size(); ++k) {
        const LogEntry& e = b.log[k];
        if (e.struck) continue;
        if (e.kind == "change") out[e.point].push_back(k);
        if (e.kind == "exchange") out.erase(e.point);
    }
    return out;
}

/// Entries of the log whose part is as it was before them.
std::vector<std::size_t> takenBack(const Build& after, const Parts& is) {
    std::vector<std::size_t> out;
    const auto all = pending(after);
    for (const auto& [part, entries] : all) {
        const std::string now = written(find(is, part));
        for (std::size_t k = 0; k < entries.size(); ++k)
            if (after.log[entries[k]].was == now) {
                out.insert(out.end(), entries.begin() + static_cast<std::ptrdiff_t>(k), entries.end());
                break;
            }
    }
    return out;
}

} // namespace

bool logChanges(const Build& before, Build& after, const std::string& time) {
    if (!reached(after, 0)) return false; // nothing is proved yet
    const Parts was = partValues(before), is = partValues(after);
    const auto back = takenBack(after, is);
    std::set<std::string> same;
    for (const std::size_t k : back) {
        after.log[k].struck = true;
        after.log[k].struckWhy = "taken back in the plan";
        same.insert(after.log[k].point);
    }
    auto changes = changesBetween(before, after, was, is);
    std::erase_if(changes, [&](const LogEntry& e) { return same.contains(e.point); });
    for (LogEntry& e : changes) {
        e.time = time;
        after.log.push_back(std::move(e));
    }
    return !back.empty() || !changes.empty();
}

std::vector<OpenChange> openChanges(const Build& b) {
    std::vector<OpenChange> out;
    for (const auto& [part, entries] : pending(b)) {
        int stage = stageCount;
        for (const std::size_t k : entries) stage = std::min(stage, b.log[k].stage);
        out.push_back({part, b.log[entries.back()].text, stage});
    }
    return out;
}

LogEntry exchangedEntry(const Build& b, const std::string& part) {
    LogEntry e;
    e.kind = "exchange";
    e.point = part;
    e.stage = 0;
    for (const OpenChange& c : openChanges(b))
        if (c.part == part) e.stage = c.stage;
    e.text = upper(part) + " is in the amplifier as the plan has it";
    return e;
}

} // namespace ember::procedure
