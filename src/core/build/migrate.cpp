#include "migrate.h"

#include <nlohmann/json.hpp>

#include <initializer_list>
#include <string>
#include <utility>

namespace ember {

namespace {

/// An object of a channel, or an empty one: what it leaves out keeps the reader's defaults.
Json taken(Json& from, const char* key) {
    if (!from.is_object() || !from.contains(key)) return Json::object();
    Json out = std::move(from[key]);
    from.erase(key);
    return out;
}

Json slotted(const char* slot, const char* at, const char* kind, Json part) {
    if (!part.is_object()) return part; // the reader says what is wrong with it
    Json out = {{"slot", slot}, {"at", at}, {"kind", kind}};
    out.update(part);
    return out;
}

std::string idOf(const Json& valve) {
    const auto id = valve.is_object() ? valve.find("id") : valve.end();
    return valve.is_object() && id != valve.end() && id->is_string() ? id->get<std::string>() : "";
}

/// `channel` becomes a path; its three valves go to `bottles`.
void migrateChannel(Json& channel, Json& bottles, std::size_t index) {
    if (!channel.is_object()) return;
    const auto number = [&](const char* key, int otherwise) {
        const Json value = channel.contains(key) ? channel[key] : Json(otherwise);
        channel.erase(key);
        return value;
    };
    const Json plates = number("plateNode", 2), screens = number("screenNode", 2), first = number("smallNode", 3);
    Json small = taken(channel, "small"), voltage = taken(channel, "voltageStage"), split = taken(channel, "splitLoad"),
         pair = taken(channel, "pair");
    Json a = taken(pair, "a"), b = taken(pair, "b");
    // A bottle is found by its id: one that has none is given one.
    const auto bottle = [&](Json valve, const char* like) {
        if (valve.is_object() && idOf(valve).empty()) valve["id"] = std::string(like) + std::to_string(index + 1);
        std::string id = idOf(valve);
        bottles.push_back(std::move(valve));
        return id;
    };
    const std::string one = bottle(std::move(small), "v-small-"), va = bottle(std::move(a), "v-a-"),
                      vb = bottle(std::move(b), "v-b-");
    Json stages = Json::array();
    stages.push_back({{"id", "s1"},
                      {"kind", "triode"},
                      {"node", first},
                      {"valves", Json::array({{{"bottle", one}, {"section", 1}}})},
                      {"parts", Json::array({slotted("grid leak", "", "resistor", taken(voltage, "gridLeak")),
                                             slotted("plate", "", "resistor", taken(voltage, "plate")),
                                             slotted("cathode", "", "resistor", taken(voltage, "cathode")),
                                             slotted("bypass", "", "capacitor", taken(voltage, "bypass"))})}});
    stages.push_back({{"id", "s2"},
                      {"kind", "split load"},
                      {"node", first},
                      {"valves", Json::array({{{"bottle", one}, {"section", 2}}})},
                      {"parts", Json::array({slotted("plate", "", "resistor", taken(split, "plate")),
                                             slotted("cathode", "", "resistor", taken(split, "cathode"))})}});
    Json parts = Json::array();
    for (const auto& [slot, key, kind] :
         {std::tuple{"coupling", "coupling", "capacitor"}, std::tuple{"grid leak", "gridLeak", "resistor"}})
        for (const auto& [at, end] : {std::pair{"a1", "A"}, std::pair{"b1", "B"}})
            parts.push_back(slotted(slot, at, kind, taken(pair, (std::string(key) + end).c_str())));
    for (const auto& [slot, key] :
         {std::pair{"stopper", "stopper"}, std::pair{"screen", "screen"}, std::pair{"sense", "sense"}})
        for (const auto& [at, end] : {std::pair{"a1", "A"}, std::pair{"b1", "B"}})
            parts.push_back(slotted(slot, at, "resistor", taken(pair, (std::string(key) + end).c_str())));
    for (const auto& [at, key] : {std::pair{"a1", "adjusterA"}, std::pair{"b1", "adjusterB"}}) {
        const Json position = pair.contains(key) ? pair[key] : Json(1.0);
        pair.erase(key);
        parts.push_back({{"slot", "adjuster"}, {"at", at}, {"kind", "adjuster"}, {"position", position}});
    }
    parts.push_back(slotted("transformer", "", "transformer", taken(pair, "transformer")));
    const Json load = pair.contains("load") ? pair["load"] : Json(8.0);
    pair.erase("load");
    parts.push_back({{"slot", "load"},
                     {"at", ""},
                     {"kind", "resistor"},
                     {"id", "load-" + idOf(channel)},
                     {"resistance", load},
                     {"watts", 50.0}});
    Json output = {{"id", "s3"},
                   {"kind", "push-pull"},
                   {"node", plates},
                   {"screenNode", screens},
                   {"valves", Json::array({{{"at", "a1"}, {"bottle", va}}, {{"at", "b1"}, {"bottle", vb}}})},
                   {"parts", std::move(parts)}};
    output.update(pair); // keys that version 1 did not know
    stages.push_back(std::move(output));
    channel["stages"] = std::move(stages);
}

} // namespace

Json fromVersion1(Json body) {
    const auto channels = body.find("channels");
    if (channels == body.end() || !channels->is_array()) return body;
    Json bottles = Json::array();
    for (std::size_t k = 0; k < channels->size(); ++k) migrateChannel((*channels)[k], bottles, k);
    body["bottles"] = std::move(bottles);
    return body;
}

} // namespace ember
