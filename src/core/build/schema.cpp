#include "schema.h"

#include "build_json.h"
#include "fields.h"

#include <fmt/format.h>

namespace ember {

namespace {

/// Visits default objects and notes what each key may hold.
class Describer {
  public:
    Json properties = Json::object();

    void number(const char* key, double&, Unit unit, Range r) {
        properties[key] = {{"type", "number"}, {"minimum", r.least}, {"maximum", r.most}};
        if (!symbol(unit).empty()) properties[key]["description"] = fmt::format("[{}]", symbol(unit));
    }
    void integer(const char* key, int&, int least, int most) {
        properties[key] = {{"type", "integer"}, {"minimum", least}, {"maximum", most}};
    }
    void text(const char* key, std::string&) { properties[key] = {{"type", "string"}, {"maxLength", 20000}}; }
    void flag(const char* key, bool&) { properties[key] = {{"type", "boolean"}}; }
    template <typename E, std::size_t N>
    void choice(const char* key, E&, const std::array<std::string_view, N>& names) {
        Json all = Json::array();
        for (const auto n : names) all.push_back(std::string(n));
        properties[key] = {{"enum", all}};
    }
    template <typename T>
    void object(const char* key, T& value) {
        properties[key] = describe(value);
    }
    template <typename T>
    void list(const char* key, std::vector<T>&, std::size_t most) {
        properties[key] = {{"type", "array"}, {"maxItems", most}, {"items", each<T>()}};
    }
    template <typename T>
    static Json describe(T& value) {
        Describer inner;
        fields::visit(inner, value);
        return {{"type", "object"}, {"properties", inner.properties}};
    }

  private:
    /// Keys of every form that an entry of a list can take.
    template <typename T>
    static Json each() {
        std::vector<T> forms(1);
        if constexpr (std::is_same_v<T, Section>) {
            forms.resize(3);
            forms[1].kind = SectionKind::Resistor;
            forms[2].kind = SectionKind::Choke;
        }
        if constexpr (std::is_same_v<T, LogEntry>) {
            forms.resize(2);
            forms[1].kind = "reading";
            forms[1].struck = true;
        }
        Describer all;
        for (T& f : forms) fields::visit(all, f);
        return {{"type", "object"}, {"properties", all.properties}};
    }
};

} // namespace

Json buildSchema() {
    Build b;
    Json properties = {{"format", {{"const", "dim-ember/build"}}},
                       {"version", {{"type", "integer"}, {"minimum", 1}, {"maximum", formatVersion}}}};
    const Json whole = Describer::describe(b);
    for (const auto& [key, value] : whole.at("properties").items()) properties[key] = value;
    return {{"$schema", "http://json-schema.org/draft-07/schema#"},
            {"title", "Dim Ember build"},
            {"description", "SI numbers, readable ids; unknown keys are kept. See format.md."},
            {"type", "object"},
            {"required", {"format", "version", "supply", "transformer"}},
            {"properties", properties}};
}

} // namespace ember
