#include "build_json.h"

#include "fields.h"
#include "migrate.h"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

/// Reads and checks; the first thing wrong is kept with its place.
class JsonReader : public fields::Visitor {
  public:
    JsonReader(const Json& from, std::string at, std::optional<Problem>& wrong)
        : in(from),
          place(std::move(at)),
          problem(wrong) {}

    void number(const char* key, double& value, Unit unit, Range range) override {
        const Json* j = find(key);
        if (!j) return;
        if (!j->is_number()) return fail(key, fmt::format("a number in {} is expected, not {}", word(unit), shown(*j)));
        const auto checked = checkWithin(j->get<double>(), unit, range);
        if (!checked) return fail(key, checked.problem().sentence);
        value = *checked;
    }
    void optional(const char* key, double& value, Unit unit, Range range) override {
        value = std::numeric_limits<double>::quiet_NaN();
        if (const auto j = in.find(key); j != in.end() && j->is_null()) { // as older programs wrote an unknown one
            known.emplace_back(key);
            return;
        }
        number(key, value, unit, range);
    }
    void integer(const char* key, int& value, int least, int most) override {
        const Json* j = find(key);
        if (!j) return;
        if (!j->is_number_integer() || j->get<std::int64_t>() < least || j->get<std::int64_t>() > most)
            return fail(key, fmt::format("a whole number from {} to {} is expected, not {}", least, most, shown(*j)));
        value = j->get<int>();
    }
    void text(const char* key, std::string& value) override {
        const Json* j = find(key);
        if (!j) return;
        if (!j->is_string()) return fail(key, fmt::format("a text is expected, not {}", shown(*j)));
        if (j->get_ref<const std::string&>().size() > fields::longestText)
            return fail(key, fmt::format("this text is longer than {} characters", fields::longestText));
        value = j->get<std::string>();
    }
    void flag(const char* key, bool& value) override {
        const Json* j = find(key);
        if (!j) return;
        if (!j->is_boolean()) return fail(key, fmt::format("true or false is expected, not {}", shown(*j)));
        value = j->get<bool>();
    }
    void choiceOf(const char* key, int& index, std::span<const std::string_view> names) override {
        const Json* j = find(key);
        if (!j) return;
        if (j->is_string())
            for (std::size_t k = 0; k < names.size(); ++k)
                if (j->get_ref<const std::string&>() == names[k]) {
                    index = static_cast<int>(k);
                    return;
                }
        std::string all;
        for (const auto n : names) all += fmt::format("{}\"{}\"", all.empty() ? "" : ", ", n);
        fail(key, fmt::format("one of {} is expected, not {}", all, shown(*j)));
    }
    void objectOf(const char* key, const fields::Object& value) override {
        const Json* j = find(key);
        if (!j) return;
        read(*j, place + "/" + key, value);
    }
    void listOf(const char* key, const fields::List& values, std::size_t most) override {
        const Json* j = find(key);
        if (!j) return;
        if (!j->is_array()) return fail(key, fmt::format("a list is expected, not {}", shown(*j)));
        if (j->size() > most)
            return fail(key, fmt::format("{} entries are more than the {} that are read", j->size(), most));
        values.assign(j->size());
        for (std::size_t k = 0; k < values.size() && !problem; ++k)
            read((*j)[k], fmt::format("{}/{}/{}", place, key, k), values.at(k));
    }
    void read(const Json& from, const std::string& at, const fields::Object& value) {
        if (problem) return;
        if (!from.is_object()) {
            problem = Problem{at.empty() ? "/" : at, fmt::format("an object is expected, not {}", shown(from))};
            return;
        }
        JsonReader inner(from, at, problem);
        value.accept(inner);
        Json unknown = Json::object();
        for (const auto& [key, content] : from.items())
            if (std::find(inner.known.begin(), inner.known.end(), key) == inner.known.end()) unknown[key] = content;
        value.extras->unknown = unknown.empty() ? nullptr : std::make_shared<const Json>(std::move(unknown));
    }

  private:
    static std::string shown(const Json& j) {
        const std::string text = j.dump(-1, ' ', false, Json::error_handler_t::replace);
        return text.size() > 40 ? text.substr(0, 37) + "..." : text;
    }
    const Json* find(const char* key) {
        known.emplace_back(key);
        if (problem) return nullptr;
        const auto at = in.find(key);
        return at == in.end() ? nullptr : &*at; // an absent key keeps its default
    }
    void fail(const char* key, std::string sentence) {
        if (!problem) problem = Problem{place + "/" + key, std::move(sentence)};
    }

    const Json& in;
    std::string place;
    std::optional<Problem>& problem;
    std::vector<std::string> known;
};

/// Nesting is counted before parsing: a hostile file must not exhaust the stack.
bool tooDeep(std::string_view text) {
    int depth = 0;
    bool quoted = false;
    for (std::size_t k = 0; k < text.size(); ++k) {
        const char c = text[k];
        if (quoted) {
            if (c == '\\')
                ++k;
            else if (c == '"')
                quoted = false;
        } else if (c == '"') {
            quoted = true;
        } else if (c == '{' || c == '[') {
            if (++depth > deepestNesting) return true;
        } else if (c == '}' || c == ']') {
            --depth;
        }
    }
    return false;
}

} // namespace

Expected<Build> fromJson(const Json& json) {
    if (!json.is_object()) return Problem{"/", "this is not a build: an object is expected"};
    const auto format = json.find("format");
    if (format == json.end() || !format->is_string() || *format != "dim-ember/build")
        return Problem{"/format", "this is not a Dim Ember build: \"format\" should be \"dim-ember/build\""};
    const auto version = json.find("version");
    if (version == json.end() || !version->is_number_integer() || version->get<std::int64_t>() < 1)
        return Problem{"/version", "a whole number of 1 or more is expected"};
    if (version->get<std::int64_t>() > formatVersion)
        return Problem{"/version",
                       fmt::format("this build was written by a newer Dim Ember (version {}, this one reads up to {}); "
                                   "open it there, or update this program",
                                   version->get<std::int64_t>(), formatVersion)};
    Json body = json;
    body.erase("format");
    body.erase("version");
    if (version->get<std::int64_t>() == 1) body = fromVersion1(std::move(body));
    Build build;
    std::optional<Problem> problem;
    JsonReader(body, "", problem).read(body, "", fields::objectOf(build));
    if (!problem) problem = checkReferences(build);
    if (problem) return *problem;
    return build;
}

Expected<Build> fromText(std::string_view text) {
    if (text.size() > largestFile)
        return Problem{
            "", fmt::format("the file has {} MB; a build is at most {} MB", text.size() >> 20, largestFile >> 20)};
    if (tooDeep(text))
        return Problem{"", fmt::format("the file is nested deeper than {} levels; a build never is", deepestNesting)};
    try {
        return fromJson(Json::parse(text));
    } catch (const Json::parse_error& e) {
        const auto upTo = text.substr(0, std::min(text.size(), e.byte ? e.byte - 1 : 0));
        const auto line = std::count(upTo.begin(), upTo.end(), '\n') + 1;
        const auto start = upTo.rfind('\n');
        const auto column = upTo.size() - (start == std::string_view::npos ? 0 : start + 1) + 1;
        return Problem{fmt::format("line {}, column {}", line, column),
                       e.byte >= text.size()
                           ? "the file ends too early; it may have been cut off"
                           : "this is not JSON from here on; restore the file from a copy or mend this place"};
    } catch (const Json::exception& e) {
        return Problem{"", fmt::format("the file could not be read as JSON ({})", e.what())};
    }
}

} // namespace ember
