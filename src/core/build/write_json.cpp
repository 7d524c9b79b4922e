#include "build_json.h"

#include "fields.h"

#include <nlohmann/json.hpp>

namespace ember {

namespace {

class Writer : public fields::Visitor {
  public:
    Json out = Json::object();

    void number(const char* key, double& value, Unit, Range) override { out[key] = value; }
    void integer(const char* key, int& value, int, int) override { out[key] = value; }
    void text(const char* key, std::string& value) override { out[key] = value; }
    void flag(const char* key, bool& value) override { out[key] = value; }
    void choiceOf(const char* key, int& index, std::span<const std::string_view> names) override {
        out[key] = std::string(names[static_cast<std::size_t>(index)]);
    }
    void objectOf(const char* key, const fields::Object& value) override { out[key] = write(value); }
    void listOf(const char* key, const fields::List& values, std::size_t) override {
        Json array = Json::array();
        for (std::size_t k = 0; k < values.size(); ++k) array.push_back(write(values.at(k)));
        out[key] = std::move(array);
    }
    static Json write(const fields::Object& value) {
        Writer inner;
        value.accept(inner);
        if (value.extras->unknown)
            for (const auto& [key, content] : value.extras->unknown->items()) inner.out[key] = content;
        return std::move(inner.out);
    }
};

} // namespace

Json toJson(const fields::Object& object) {
    return Writer::write(object);
}

Json toJson(const Build& build) {
    Json out = {{"format", "dim-ember/build"}, {"version", formatVersion}};
    // Visitors take references that may be written; this one only reads.
    const Json body = Writer::write(fields::objectOf(const_cast<Build&>(build)));
    for (const auto& [key, value] : body.items()) out[key] = value;
    return out;
}

std::string toText(const Build& build) {
    return toJson(build).dump(2, ' ', false, Json::error_handler_t::replace) + "\n";
}

} // namespace ember
