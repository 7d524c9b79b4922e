#include "schema.h"

#include "build_json.h"
#include "fields.h"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace ember {

namespace {

/// Visits a default build and notes what each key may hold, in every form an object can take.
class Describer : public fields::Visitor {
  public:
    Json properties = Json::object();

    void number(const char* key, double&, Unit unit, Range r) override {
        properties[key] = {{"type", "number"}, {"minimum", r.least}, {"maximum", r.most}};
        if (!symbol(unit).empty()) properties[key]["description"] = fmt::format("[{}]", symbol(unit));
    }
    void integer(const char* key, int&, int least, int most) override {
        properties[key] = {{"type", "integer"}, {"minimum", least}, {"maximum", most}};
    }
    void text(const char* key, std::string&) override {
        properties[key] = {{"type", "string"}, {"maxLength", fields::longestText}};
    }
    void flag(const char* key, bool&) override { properties[key] = {{"type", "boolean"}}; }
    void choiceOf(const char* key, int&, std::span<const std::string_view> names) override {
        Json all = Json::array();
        for (const auto n : names) all.push_back(std::string(n));
        properties[key] = {{"enum", all}};
    }
    void objectOf(const char* key, const fields::Object& value) override { properties[key] = describe(value); }
    void listOf(const char* key, const fields::List& values, std::size_t most) override {
        values.assign(1);
        properties[key] = {{"type", "array"}, {"maxItems", most}, {"items", describe(values.at(0))}};
    }
    [[nodiscard]] bool describing() const override { return true; }

    static Json describe(const fields::Object& value) {
        Describer inner;
        value.accept(inner);
        return {{"type", "object"}, {"properties", inner.properties}};
    }
};

} // namespace

Json buildSchema() {
    Build b;
    Json properties = {{"format", {{"const", "dim-ember/build"}}},
                       {"version", {{"type", "integer"}, {"minimum", 1}, {"maximum", formatVersion}}}};
    const Json whole = Describer::describe(fields::objectOf(b));
    for (const auto& [key, value] : whole.at("properties").items()) properties[key] = value;
    return {{"$schema", "http://json-schema.org/draft-07/schema#"},
            {"title", "Dim Ember build"},
            {"description", "SI numbers, readable ids; unknown keys are kept. See format.md."},
            {"type", "object"},
            {"required", {"format", "version", "supply", "transformer"}},
            {"properties", properties}};
}

} // namespace ember
