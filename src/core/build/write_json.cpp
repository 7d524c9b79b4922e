#include "build_json.h"

#include "fields.h"

#include <nlohmann/json.hpp>

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

/// `text` as the reader accepts it: UTF-8 with `?` for what is not, cut before the character that would be too long.
std::string acceptable(const std::string& text) {
    std::string out;
    for (std::size_t k = 0; k < text.size();) {
        const auto lead = static_cast<unsigned char>(text[k]);
        const std::size_t length = lead < 0x80   ? 1
                                   : lead < 0xC2 ? 0
                                   : lead < 0xE0 ? 2
                                   : lead < 0xF0 ? 3
                                   : lead < 0xF5 ? 4
                                                 : 0;
        bool whole = length > 0 && k + length <= text.size();
        for (std::size_t n = 1; whole && n < length; ++n)
            whole = (static_cast<unsigned char>(text[k + n]) & 0xC0) == 0x80;
        if (whole && length > 2) { // no longer form than needed, no surrogates, nothing beyond the last code point
            const auto second = static_cast<unsigned char>(text[k + 1]);
            whole = !(lead == 0xE0 && second < 0xA0) && !(lead == 0xED && second > 0x9F) &&
                    !(lead == 0xF0 && second < 0x90) && !(lead == 0xF4 && second > 0x8F);
        }
        const std::size_t size = whole ? length : 1;
        if (out.size() + size > fields::longestText) break;
        out += whole ? text.substr(k, size) : "?";
        k += size;
    }
    return out;
}

/// Writes nothing that the reader would refuse: what is not a number is left out, so that the reader's default stands
/// in its place, and what is beyond its range is written as the range's end.
class Writer : public fields::Visitor {
  public:
    Json out = Json::object();

    void number(const char* key, double& value, Unit, Range range) override {
        if (!std::isnan(value)) out[key] = std::clamp(value, range.least, range.most);
    }
    void optional(const char* key, double& value, Unit unit, Range range) override {
        if (std::isfinite(value)) number(key, value, unit, range);
    }
    void integer(const char* key, int& value, int least, int most) override {
        out[key] = std::clamp(value, least, most);
    }
    void text(const char* key, std::string& value) override { out[key] = acceptable(value); }
    void flag(const char* key, bool& value) override { out[key] = value; }
    void choiceOf(const char* key, int& index, std::span<const std::string_view> names) override {
        out[key] =
            std::string(names[static_cast<std::size_t>(std::clamp(index, 0, static_cast<int>(names.size()) - 1))]);
    }
    void objectOf(const char* key, const fields::Object& value) override { out[key] = write(value); }
    void listOf(const char* key, const fields::List& values, std::size_t most) override {
        Json array = Json::array();
        for (std::size_t k = 0; k < std::min(values.size(), most); ++k) array.push_back(write(values.at(k)));
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
