#include "structure.h"

#include "build_json.h"
#include "path.h"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <map>
#include <set>

namespace ember {

namespace {

void collectIds(const Json& j, std::set<std::string>& ids) {
    if (j.is_object() && j.contains("id") && j.at("id").is_string()) ids.insert(j.at("id").get<std::string>());
    if (j.is_structured())
        for (const Json& inner : j) collectIds(inner, ids);
}

std::string fresh(const std::string& like, std::set<std::string>& taken) {
    const std::string stem = like.substr(0, like.find_last_not_of("0123456789") + 1);
    int number = 1;
    while (taken.contains(fmt::format("{}{}", stem, number))) ++number;
    std::string id = fmt::format("{}{}", stem, number);
    taken.insert(id);
    return id;
}

void renew(Json& j, std::set<std::string>& taken) {
    if (j.is_object() && j.contains("id") && j.at("id").is_string() && !j.at("id").get_ref<std::string&>().empty())
        j["id"] = fresh(j.at("id").get<std::string>(), taken);
    if (j.is_structured())
        for (Json& inner : j) renew(inner, taken);
}

/// A channel with bottles of its own behind it. Its stages keep their ids, which are the channel's own affair.
Edit duplicateChannel(const Build& build, const Json& all, std::size_t index) {
    Json copy = all.at("channels").at(index);
    std::set<std::string> taken;
    collectIds(all, taken);
    Json steps = Json::array();
    std::map<std::string, std::string> renamed;
    for (const std::string& id : bottlesOf(build.channels[index])) {
        Json bottle = all.at("bottles").at(*bottleIndex(build, id));
        bottle["id"] = renamed[id] = fresh(id, taken);
        steps.push_back({{"op", "add"}, {"path", "/bottles/-"}, {"value", std::move(bottle)}});
    }
    for (Json& stage : copy.at("stages")) {
        for (Json& valve : stage.at("valves")) valve["bottle"] = renamed.at(valve.at("bottle").get<std::string>());
        for (Json& part : stage.at("parts")) renew(part, taken);
    }
    const std::string before = copy.value("id", "");
    copy["id"] = fresh(before, taken);
    copy["name"] = copy.value("name", "") + " copy";
    steps.push_back({{"op", "add"}, {"path", fmt::format("/channels/{}", index + 1)}, {"value", std::move(copy)}});
    return {"double " + before, std::make_shared<const Json>(std::move(steps))};
}

} // namespace

Expected<Edit> duplicateEntry(const Build& build, const std::string& entry) {
    const Json all = toJson(build);
    const auto slash = entry.rfind('/');
    const std::string digits = slash == std::string::npos ? "" : entry.substr(slash + 1);
    const bool number = !digits.empty() && digits.find_first_not_of("0123456789") == std::string::npos;
    if (!number || !all.contains(Json::json_pointer(entry)))
        return Problem{entry, "there is no such entry of a list to double"};
    if (entry.substr(0, slash) == "/channels") return duplicateChannel(build, all, std::stoul(digits));
    Json copy = all.at(Json::json_pointer(entry));
    std::set<std::string> taken;
    collectIds(all, taken);
    const std::string before = copy.value("id", "");
    renew(copy, taken);
    if (copy.contains("name") && copy.at("name").is_string())
        copy["name"] = copy.at("name").get<std::string>() + " copy";
    const std::string behind = fmt::format("{}/{}", entry.substr(0, slash), std::stoul(digits) + 1);
    return Edit{
        before.empty() ? "double an entry" : "double " + before,
        std::make_shared<const Json>(Json::array({{{"op", "add"}, {"path", behind}, {"value", std::move(copy)}}}))};
}

std::string freshId(const Build& build, const std::string& like) {
    std::set<std::string> taken;
    collectIds(toJson(build), taken);
    return fresh(like, taken);
}

} // namespace ember
