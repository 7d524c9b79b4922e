// Channels that follow another.
#include "stage_edits.h"

#include "core/build/build_json.h"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <algorithm>

namespace ember::schematic {

std::vector<std::size_t> familyOf(const Build& b, std::size_t channel) {
    std::vector<std::size_t> out{channel};
    for (std::size_t k = 0; k < b.channels.size(); ++k)
        if (k != channel && !b.channels[k].follows.empty() && b.channels[k].follows == b.channels[channel].id)
            out.push_back(k);
    return out;
}

Edit followed(const Build& b, const Edit& edit) {
    Json steps = *edit.patch, more = Json::array();
    const bool channels = std::any_of(steps.begin(), steps.end(), [](const Json& step) {
        return step.at("path").get_ref<const std::string&>().rfind("/channels/", 0) == 0;
    });
    if (!channels ||
        std::none_of(b.channels.begin(), b.channels.end(), [](const Channel& c) { return !c.follows.empty(); }))
        return edit;
    const Json whole = toJson(b);
    for (const Json& step : steps) {
        const std::string path = step.at("path").get<std::string>();
        if (path.rfind("/channels/", 0) != 0 || step.at("op") != "replace") continue;
        const auto slash = path.find('/', 10);
        const std::string digits = path.substr(10, slash - 10);
        if (slash == std::string::npos || path.rfind("/stages/", slash) != slash ||
            digits.find_first_not_of("0123456789") != std::string::npos)
            continue;
        const std::string rest = path.substr(slash), key = path.substr(path.rfind('/') + 1);
        if (key == "id" || key == "bottle" || key == "position" || key == "section") continue;
        for (const std::size_t c : familyOf(b, std::stoul(digits))) {
            if (c == std::stoul(digits)) continue;
            const Json::json_pointer there(fmt::format("/channels/{}{}", c, rest)), here(path);
            if (!whole.contains(there) || !whole.contains(here)) continue;
            // Only what is the same part of the same kind of stage, and had the same value, is not set apart.
            const auto parent = here.parent_pointer(), other = there.parent_pointer();
            const auto same = [&](const char* name) {
                const Json &x = whole.at(parent), &y = whole.at(other);
                return !x.is_object() || !x.contains(name) || (y.contains(name) && x.at(name) == y.at(name));
            };
            if (!same("slot") || !same("kind") || whole.at(here) != whole.at(there)) continue;
            more.push_back({{"op", "replace"}, {"path", there.to_string()}, {"value", step.at("value")}});
        }
    }
    if (more.empty()) return edit;
    steps.insert(steps.end(), more.begin(), more.end());
    return {edit.name, std::make_shared<const Json>(std::move(steps))};
}

Edit setFollows(const Build& b, std::size_t channel, const std::string& leader) {
    return setText(leader.empty() ? b.channels[channel].name + " stands apart"
                                  : fmt::format("{} follows {}", b.channels[channel].name, leader),
                   fmt::format("/channels/{}/follows", channel), leader);
}

} // namespace ember::schematic
