#include "edit.h"

#include "build_json.h"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <set>

namespace ember {

namespace {

Edit single(std::string name, Json operation) {
    return {std::move(name), std::make_shared<const Json>(Json::array({std::move(operation)}))};
}

template <typename T>
Edit replace(std::string name, const std::string& pointer, const T& value) {
    return single(std::move(name), {{"op", "replace"}, {"path", pointer}, {"value", value}});
}

} // namespace

Edit setValue(std::string name, const std::string& pointer, double value) {
    return replace(std::move(name), pointer, value);
}
Edit setWhole(std::string name, const std::string& pointer, int value) {
    return replace(std::move(name), pointer, value);
}
Edit setFlag(std::string name, const std::string& pointer, bool value) {
    return replace(std::move(name), pointer, value);
}
Edit setText(std::string name, const std::string& pointer, const std::string& value) {
    return replace(std::move(name), pointer, value);
}

Edit removeAt(std::string name, const std::string& pointer) {
    return single(std::move(name), {{"op", "remove"}, {"path", pointer}});
}

Edit insertAt(std::string name, const std::string& pointer, const fields::Object& value) {
    return single(std::move(name), {{"op", "add"}, {"path", pointer}, {"value", toJson(value)}});
}

Edit together(std::string name, const std::vector<Edit>& parts) {
    Json all = Json::array();
    for (const Edit& e : parts) all.insert(all.end(), e.patch->begin(), e.patch->end());
    return {std::move(name), std::make_shared<const Json>(std::move(all))};
}

Edit guarded(const Build& build, const Edit& edit) {
    const Json whole = toJson(build);
    Json steps = Json::array();
    std::set<std::string> tested;
    for (const Json& step : *edit.patch) {
        std::string at = step.at("path").get<std::string>();
        if (step.at("op") == "add") at.erase(at.rfind('/')); // what it is added to
        if (!tested.insert(at).second) continue;
        const Json::json_pointer pointer(at);
        if (whole.contains(pointer)) steps.push_back({{"op", "test"}, {"path", at}, {"value", whole.at(pointer)}});
    }
    steps.insert(steps.end(), edit.patch->begin(), edit.patch->end());
    return {edit.name, std::make_shared<const Json>(std::move(steps))};
}

namespace {

/// Numbers alone do not change the form of a build: they are set where they stand, a hundred times faster than by way
/// of the file's form. False: something else is changed too.
bool onlyNumbers(const Json& patch, const Build& build) {
    return std::all_of(patch.begin(), patch.end(), [&](const Json& step) {
        if (step.at("op") != "replace" || !step.at("value").is_number()) return false;
        const auto place = placeAt(build, step.at("path").get_ref<const std::string&>());
        return place && (!place->whole || step.at("value").is_number_integer());
    });
}

} // namespace

Expected<Build> apply(const Build& build, const Edit& edit) {
    try {
        if (onlyNumbers(*edit.patch, build)) {
            Build next = build;
            for (const Json& step : *edit.patch)
                if (auto done = setNumber(next, step.at("path").get<std::string>(), step.at("value").get<double>());
                    !done)
                    return done.problem();
            if (auto problem = checkReferences(next)) return *problem;
            return next;
        }
        return fromJson(toJson(build).patch(*edit.patch));
    } catch (const Json::exception& e) {
        if (e.id == 501) // a `test` that failed
            return Problem{
                "", fmt::format("\"{}\" was proposed for a build that has changed since; nothing was done", edit.name)};
        return Problem{"", fmt::format("\"{}\" does not fit this build ({})", edit.name, e.what())};
    }
}

} // namespace ember
