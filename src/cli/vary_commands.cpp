#include "vary_commands.h"

#include "output.h"

#include "core/build/build_json.h"
#include "core/build/own_types.h"
#include "core/build/path.h"
#include "core/build/storage.h"
#include "core/plan/find_value.h"
#include "core/quantity/quantity.h"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <memory>

namespace ember::cli {

namespace {

/// JSON pointer of "c1.volts", or of the main value of "r10".
Expected<std::string> pointerOf(const Build& b, const std::string& words, const std::string& option) {
    const auto dot = words.find('.');
    const std::string part = words.substr(0, dot);
    const auto object = pointerOfId(b, part);
    if (!object) return Problem{option, fmt::format("the build has no part \"{}\"", part)};
    const std::string key = dot == std::string::npos ? mainKeyAt(b, *object) : words.substr(dot + 1);
    if (!placeAt(b, *object + "/" + key)) return Problem{option, fmt::format("{} has no number \"{}\"", part, key)};
    return *object + "/" + key;
}

struct Asked {
    std::string file, figure, part, target, mains;
};

Json figureJson(const plan::SoughtFigure& f) {
    return {{"id", f.figure.id},
            {"title", f.figure.label},
            {"unit", symbol(f.figure.unit)},
            {"now", known(f.figure.value)}};
}

Expected<Json> found(const Asked& asked) {
    const auto build = loadBuild(asked.file);
    if (!build) return build.problem();
    const auto rest = plan::solveSteady(*build, catalogueOf(*build), {build->mains.volts});
    if (!rest) return rest.problem();
    const auto figures = plan::soughtNames(*build, catalogueOf(*build), *rest);
    if (asked.part.empty()) {
        Json all = Json::array();
        for (const plan::SoughtFigure& f : figures) all.push_back(figureJson(f));
        return Json{{"figures", all}};
    }
    const auto named = std::find_if(figures.begin(), figures.end(),
                                    [&](const plan::SoughtFigure& f) { return f.figure.id == asked.figure; });
    if (named == figures.end())
        return Problem{"--figure", fmt::format("there is no figure \"{}\": find BUILD lists them", asked.figure)};
    const auto pointer = pointerOf(*build, asked.part, "--part");
    if (!pointer) return pointer.problem();
    const auto wanted = parseQuantity(asked.target, named->figure.unit);
    if (!wanted) return Problem{"--target", wanted.problem().sentence};
    plan::ValueAsked ask{*pointer, asked.figure, named->group, *wanted, build->mains.volts};
    if (!asked.mains.empty()) {
        const auto volts = parseWithin(asked.mains, Unit::Volt, {1, 1000});
        if (!volts) return Problem{"--mains", volts.problem().sentence};
        ask.mainsVolts = *volts;
    }
    const auto value = plan::findValue(*build, catalogueOf(*build), ask);
    if (!value) return value.problem();
    const auto step = [](const plan::ValueStep& s) {
        return Json{{"value", s.value}, {"figure", known(s.figure)}, {"watts", known(s.watts)}};
    };
    return Json{
        {"part", value->part}, {"exact", value->exact}, {"below", step(value->below)}, {"above", step(value->above)}};
}

} // namespace

Expected<Build> varied(Build b, const std::vector<std::string>& sets) {
    for (const std::string& set : sets) {
        const auto equals = set.find('=');
        if (equals == std::string::npos) return Problem{"--set", fmt::format("PART=VALUE is expected, not {}", set)};
        const auto pointer = pointerOf(b, set.substr(0, equals), "--set " + set);
        if (!pointer) return pointer.problem();
        const auto value = parseQuantity(set.substr(equals + 1), placeAt(b, *pointer)->unit);
        if (!value) return Problem{"--set " + set, value.problem().sentence};
        if (auto done = setNumber(b, *pointer, *value); !done) return done.problem();
    }
    if (auto wrong = checkReferences(b)) return *wrong;
    return b;
}

void addFindCommand(CLI::App& app, int& code) {
    auto* find = app.add_subcommand("find", "Which value of a part gives the figure that is wanted");
    const auto asked = std::make_shared<Asked>();
    find->add_option("BUILD", asked->file)->required();
    auto* part = find->add_option("--part", asked->part, "PART or PART.KEY; without it the figures are listed");
    find->add_option("--figure", asked->figure, "its id")->needs(part);
    find->add_option("--target", asked->target, "as people write it: 240V, 2.5mA")->needs(part);
    find->add_option("--mains", asked->mains, "as read; else the build's own")->needs(part);
    find->callback([&code, asked] {
        const auto answer = found(*asked);
        if (answer)
            print(*answer);
        else
            code = refuse(answer.problem());
    });
}

} // namespace ember::cli
