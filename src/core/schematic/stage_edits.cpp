#include "stage_edits.h"

#include "core/build/build_json.h"
#include "core/build/path.h"
#include "core/build/structure.h"
#include "core/quantity/letters.h"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <map>
#include <set>

namespace ember::schematic {

namespace {

std::string stagePointer(std::size_t channel, std::size_t stage) {
    return fmt::format("/channels/{}/stages/{}", channel, stage);
}

/// The places at which a slot of this stage may be filled.
std::vector<std::string> placesOf(const Stage& stage, const StageKind& kind, const Slot& slot) {
    if (slot.each == Each::Stage) return {""};
    if (slot.each == Each::First) return {"a"};
    std::vector<std::string> out;
    if (slot.each == Each::Side) {
        for (const ValveSlot& v : kind.valves) out.emplace_back(v.at.substr(0, 1));
        if (kind.valves.empty()) out = {"a", "b"};
        return out;
    }
    for (const StageValve& v : stage.valves) out.push_back(v.at);
    if (kind.valves.empty()) // positions of a switch, steps of a ladder
        for (int k = 1; k <= 8; ++k) out.push_back(std::to_string(k));
    return out;
}

const char* letterOf(const PartValue& part) {
    static constexpr const char* letters[] = {"r1", "c1", "l1", "p1", "ot1", "i1", "d1", "z1", ""};
    return letters[part.index()];
}

/// Hands out ids that the build, and what was handed out before, do not use.
class Ids {
  public:
    explicit Ids(const Build& build) : b(build) {}
    std::string fresh(const std::string& like) {
        if (like.empty()) return {};
        std::string id = freshId(b, like);
        const std::string stem = like.substr(0, like.find_last_not_of("0123456789") + 1);
        for (int n = 1; given.contains(id) || pointerOfId(b, id); ++n) id = fmt::format("{}{}", stem, n);
        given.insert(id);
        return id;
    }

  private:
    const Build& b;
    std::set<std::string> given;
};

std::string freshStageId(const Channel& ch) {
    for (int n = 1;; ++n) {
        const std::string id = fmt::format("s{}", n);
        if (std::none_of(ch.stages.begin(), ch.stages.end(), [&](const Stage& s) { return s.id == id; })) return id;
    }
}

void giveIds(Stage& s, Ids& ids) {
    for (StagePart& p : s.parts) idOf(p.part) = ids.fresh(letterOf(p.part));
}

/// The type that a channel uses most where such a valve goes.
std::string usualType(const Build& b, const Catalogue& catalogue, std::size_t channel, bool pentode) {
    std::map<std::string, int> count;
    for (const Stage& s : b.channels[channel].stages)
        for (const StageValve& v : s.valves)
            if (const Valve* bottle = bottleOf(b, v.bottle))
                if (const ValveType* t = catalogue.valve(bottle->type); t && t->section(v.section).pentode == pentode)
                    ++count[bottle->type];
    std::string best = pentode ? "EL84" : "ECC85";
    int most = 0;
    for (const auto& [type, n] : count)
        if (n > most) most = n, best = type;
    return best;
}

struct NewValves {
    std::vector<StageValve> uses;
    std::vector<Valve> bottles; ///< to be added
};

/// A free section where the build has one of a fitting type, else a new bottle.
NewValves valvesFor(const Build& b, const Catalogue& catalogue, std::size_t channel, const StageKind& kind, Ids& ids) {
    NewValves out;
    std::set<std::pair<std::string, int>> used;
    for (const Channel& ch : b.channels)
        for (const Stage& s : ch.stages)
            for (const StageValve& v : s.valves) used.emplace(v.bottle, v.section);
    for (const ValveSlot& slot : kind.valves) {
        const bool pentode = slot.takes == Takes::Pentode || kind.duty == Duty::Output;
        StageValve use;
        use.at = slot.several ? std::string(slot.at) + "1" : std::string(slot.at);
        const auto take = [&](const Valve& v) {
            const ValveType* t = catalogue.valve(v.type);
            if (!t || !use.bottle.empty()) return;
            for (int n = 1; n <= t->sections() && use.bottle.empty(); ++n)
                if (t->section(n).pentode == pentode && used.emplace(v.id, n).second)
                    use.bottle = v.id, use.section = n;
        };
        if (!pentode)
            for (const std::vector<Valve>* list : {&b.bottles, &std::as_const(out.bottles)})
                for (const Valve& v : *list) take(v);
        if (use.bottle.empty()) {
            Valve fresh;
            fresh.id = ids.fresh("v1");
            fresh.type = usualType(b, catalogue, channel, pentode);
            out.bottles.push_back(fresh);
            take(out.bottles.back());
            if (use.bottle.empty()) use.bottle = fresh.id;
        }
        out.uses.push_back(std::move(use));
    }
    return out;
}

Edit addBottle(const Valve& v) {
    return insertAt("", "/bottles/-", v);
}

/// Bottles of a stage that nothing else uses, the last in the list first, so that the pointers hold while they go.
std::vector<Edit> removeUnused(const Build& b, const std::vector<std::string>& ids, std::size_t channel,
                               std::size_t stage) {
    std::vector<std::size_t> gone;
    for (const std::string& id : ids) {
        bool other = false;
        for (std::size_t c = 0; c < b.channels.size(); ++c)
            for (std::size_t s = 0; s < b.channels[c].stages.size(); ++s)
                if (c != channel || s != stage)
                    for (const StageValve& v : b.channels[c].stages[s].valves) other = other || v.bottle == id;
        if (const auto k = bottleIndex(b, id); k && !other) gone.push_back(*k);
    }
    std::sort(gone.rbegin(), gone.rend());
    gone.erase(std::unique(gone.begin(), gone.end()), gone.end());
    std::vector<Edit> out;
    for (const std::size_t k : gone) out.push_back(removeAt("", fmt::format("/bottles/{}", k)));
    return out;
}

std::vector<std::string> bottlesOfStage(const Stage& s) {
    std::vector<std::string> out;
    for (const StageValve& v : s.valves) out.push_back(v.bottle);
    return out;
}

} // namespace

Stage freshStage(const StageKind& kind, const std::vector<StageValve>& valves) {
    Stage s;
    s.kind = std::string(kind.id);
    s.valves = valves;
    if (valves.empty())
        for (const ValveSlot& v : kind.valves)
            s.valves.push_back({{}, v.several ? std::string(v.at) + "1" : std::string(v.at), "", 1});
    for (const Slot& slot : kind.places) {
        if (!slot.usual && !slot.needed) continue;
        for (const std::string& at : placesOf(s, kind, slot)) {
            s.parts.push_back({{}, std::string(slot.name), at, "", freshPart(slot.fills.front(), slot)});
            if (slot.each == Each::Valve && kind.valves.empty()) break; // one step to begin with
        }
    }
    if (valves.empty()) s.valves.clear();
    return s;
}

Edit insertStage(const Build& b, const Catalogue& catalogue, std::size_t channel, std::size_t at,
                 const StageKind& kind) {
    Ids ids(b);
    std::vector<Edit> steps;
    Build now = b; // sections that one channel took are not free for the next
    for (const std::size_t c : familyOf(b, channel)) {
        const auto& stages = b.channels[c].stages;
        const std::size_t place = std::min(at, stages.size());
        NewValves valves = valvesFor(now, catalogue, c, kind, ids);
        Stage s = freshStage(kind, valves.uses);
        s.id = freshStageId(b.channels[c]);
        // On the supply node of its neighbour; an output stage on the lowest number that an output would use.
        s.node = stages.empty() ? 1 : stages[place > 0 ? place - 1 : 0].node;
        giveIds(s, ids);
        for (const Valve& v : valves.bottles) {
            steps.push_back(addBottle(v));
            now.bottles.push_back(v);
        }
        steps.push_back(insertAt("", stagePointer(c, place), s));
        now.channels[c].stages.insert(now.channels[c].stages.begin() + static_cast<std::ptrdiff_t>(place), s);
    }
    return together(fmt::format("insert a {}", kind.title), steps);
}

Edit removeStage(const Build& b, std::size_t channel, std::size_t at) {
    std::vector<Edit> steps;
    std::vector<Edit> bottles;
    Build now = b;
    for (const std::size_t c : familyOf(b, channel)) {
        if (at >= b.channels[c].stages.size()) continue;
        steps.push_back(removeAt("", stagePointer(c, at)));
    }
    // Bottles go after the stages: no stage may name one that is gone.
    std::vector<std::string> ids;
    for (const std::size_t c : familyOf(b, channel))
        if (at < now.channels[c].stages.size()) {
            for (std::string& id : bottlesOfStage(now.channels[c].stages[at])) ids.push_back(std::move(id));
            now.channels[c].stages[at].valves.clear();
        }
    for (Edit& e : removeUnused(now, ids, channel, at)) steps.push_back(std::move(e));
    const Stage& s = b.channels[channel].stages[at];
    const StageKind* kind = stageKind(s.kind);
    return together(fmt::format("take the {} away", kind ? std::string(kind->title) : s.kind), steps);
}

Edit moveStage(const Build& b, std::size_t channel, std::size_t at, int by) {
    std::vector<Edit> steps;
    for (const std::size_t c : familyOf(b, channel)) {
        const auto& stages = b.channels[c].stages;
        const auto to = static_cast<std::ptrdiff_t>(at) + by;
        if (at >= stages.size() || to < 0 || to >= std::ssize(stages)) continue;
        const Json steps2 = Json::array(
            {{{"op", "move"}, {"from", stagePointer(c, at)}, {"path", stagePointer(c, static_cast<std::size_t>(to))}}});
        steps.push_back({"", std::make_shared<const Json>(steps2)});
    }
    return together("move a stage", steps);
}

Edit exchangeStage(const Build& b, const Catalogue& catalogue, std::size_t channel, std::size_t at,
                   const StageKind& kind) {
    Ids ids(b);
    std::vector<Edit> steps;
    Build now = b;
    for (const std::size_t c : familyOf(b, channel)) {
        if (at >= b.channels[c].stages.size()) continue;
        const Stage& old = b.channels[c].stages[at];
        // Its valves are free for the new kind.
        now.channels[c].stages[at].valves.clear();
        std::vector<StageValve> kept;
        for (std::size_t k = 0; k < std::min(old.valves.size(), kind.valves.size()); ++k) {
            StageValve v = old.valves[k];
            v.at = kind.valves[k].several ? std::string(kind.valves[k].at) + "1" : std::string(kind.valves[k].at);
            kept.push_back(v);
        }
        NewValves valves;
        if (kept.size() == kind.valves.size())
            valves.uses = kept;
        else
            valves = valvesFor(now, catalogue, c, kind, ids);
        Stage s = freshStage(kind, valves.uses);
        s.id = old.id, s.node = old.node, s.screenNode = old.screenNode, s.note = old.note;
        giveIds(s, ids);
        for (StagePart& p : s.parts)
            if (const StagePart* same = old.part(p.slot, p.at); same && same->part.index() == p.part.index()) p = *same;
        for (const Valve& v : valves.bottles) {
            steps.push_back(addBottle(v));
            now.bottles.push_back(v);
        }
        steps.push_back(removeAt("", stagePointer(c, at)));
        steps.push_back(insertAt("", stagePointer(c, at), s));
        now.channels[c].stages[at] = s;
        for (Edit& e : removeUnused(now, bottlesOfStage(old), b.channels.size(), 0)) steps.push_back(std::move(e));
    }
    return together(fmt::format("make it a {}", kind.title), steps);
}

Edit addPart(const Build& b, std::size_t channel, std::size_t stage, const Slot& slot, const std::string& at,
             Fill fill) {
    Ids ids(b);
    std::vector<Edit> steps;
    for (const std::size_t c : familyOf(b, channel)) {
        if (stage >= b.channels[c].stages.size()) continue;
        StagePart p{{}, std::string(slot.name), at, "", freshPart(fill, slot)};
        idOf(p.part) = ids.fresh(letterOf(p.part));
        steps.push_back(insertAt("", stagePointer(c, stage) + "/parts/-", p));
    }
    return together(fmt::format("add {}{}", slot.name, at.empty() ? "" : " " + at), steps);
}

Edit removePart(const Build& b, std::size_t channel, std::size_t stage, std::size_t part) {
    const StagePart& p = b.channels[channel].stages[stage].parts[part];
    std::vector<Edit> steps;
    for (const std::size_t c : familyOf(b, channel)) {
        if (stage >= b.channels[c].stages.size()) continue;
        const auto& parts = b.channels[c].stages[stage].parts;
        for (std::size_t k = 0; k < parts.size(); ++k)
            if (parts[k].slot == p.slot && parts[k].at == p.at) {
                steps.push_back(removeAt("", fmt::format("{}/parts/{}", stagePointer(c, stage), k)));
                break;
            }
    }
    return together("take " + (idOf(p.part).empty() ? p.slot : upper(idOf(p.part))) + " away", steps);
}

std::vector<EmptySlot> emptySlots(const Stage& stage) {
    std::vector<EmptySlot> out;
    const StageKind* kind = stageKind(stage.kind);
    if (!kind) return out;
    for (const Slot& slot : kind->places)
        for (const std::string& at : placesOf(stage, *kind, slot))
            if (!stage.part(slot.name, at)) {
                out.push_back({&slot, at});
                if (slot.each == Each::Valve && kind->valves.empty()) break; // the next step alone
            }
    return out;
}

Edit addOutputValves(const Build& b, std::size_t channel, std::size_t stage) {
    Ids ids(b);
    std::vector<Edit> steps;
    for (const std::size_t c : familyOf(b, channel)) {
        const Stage& s = b.channels[c].stages[stage];
        for (const char side : {'a', 'b'}) {
            const StageValve* last = nullptr;
            for (const StageValve& v : s.valves)
                if (!v.at.empty() && v.at[0] == side && (!last || v.at > last->at)) last = &v;
            if (!last || last->at[1] >= '8') continue;
            const std::string at{side, static_cast<char>(last->at[1] + 1)};
            Valve bottle = *bottleOf(b, last->bottle);
            bottle.id = ids.fresh(last->bottle);
            steps.push_back(addBottle(bottle));
            steps.push_back(
                insertAt("", stagePointer(c, stage) + "/valves/-", StageValve{{}, at, bottle.id, last->section}));
            for (const StagePart& p : s.parts)
                if (p.at == last->at) {
                    StagePart copy = p;
                    copy.at = at;
                    idOf(copy.part) = ids.fresh(letterOf(copy.part));
                    steps.push_back(insertAt("", stagePointer(c, stage) + "/parts/-", copy));
                }
        }
    }
    return together("one more valve a side", steps);
}

Edit removeOutputValves(const Build& b, std::size_t channel, std::size_t stage) {
    std::vector<Edit> steps, bottles;
    std::vector<std::string> ids;
    Build now = b;
    for (const std::size_t c : familyOf(b, channel)) {
        const Stage& s = b.channels[c].stages[stage];
        std::set<std::string> gone;
        for (const char side : {'a', 'b'}) {
            std::string last;
            int count = 0;
            for (const StageValve& v : s.valves)
                if (!v.at.empty() && v.at[0] == side) ++count, last = std::max(last, v.at);
            if (count > 1) gone.insert(last);
        }
        for (std::size_t k = s.parts.size(); k-- > 0;)
            if (gone.contains(s.parts[k].at))
                steps.push_back(removeAt("", fmt::format("{}/parts/{}", stagePointer(c, stage), k)));
        for (std::size_t k = s.valves.size(); k-- > 0;)
            if (gone.contains(s.valves[k].at)) {
                ids.push_back(s.valves[k].bottle);
                steps.push_back(removeAt("", fmt::format("{}/valves/{}", stagePointer(c, stage), k)));
                auto& valves = now.channels[c].stages[stage].valves;
                valves.erase(valves.begin() + static_cast<std::ptrdiff_t>(k));
            }
    }
    for (Edit& e : removeUnused(now, ids, b.channels.size(), 0)) steps.push_back(std::move(e));
    return together("one valve a side less", steps);
}

Edit setTaps(const Build& b, std::size_t channel, std::size_t stage, std::size_t part,
             const std::vector<double>& ohms) {
    // As a whole, so that a channel that follows takes the list over.
    Json list = Json::array();
    std::string name = "taps of " + upper(idOf(b.channels[channel].stages[stage].parts[part].part));
    for (const double tap : ohms) {
        SecondaryTap entry{{}, tap};
        list.push_back(toJson(fields::objectOf(entry)));
        name += fmt::format("{} {}", &tap == &ohms.front() ? ":" : ",", format(tap, Unit::Ohm, 2));
    }
    const std::string pointer = fmt::format("{}/parts/{}/secondaryTaps", stagePointer(channel, stage), part);
    return {name, std::make_shared<const Json>(
                      Json::array({{{"op", "replace"}, {"path", pointer}, {"value", std::move(list)}}}))};
}

Edit addLoose(const Build& b, Fill fill, double value, const std::string& from, const std::string& to) {
    Slot slot;
    slot.value = value;
    LoosePart p{{}, from, to, "", freshPart(fill, slot)};
    idOf(p.part) = Ids(b).fresh(letterOf(p.part));
    return insertAt(fmt::format("{} from {} to {}", upper(idOf(p.part)), from, to), "/loose/-", p);
}

} // namespace ember::schematic
