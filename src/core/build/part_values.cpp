#include "part_values.h"

#include "fields.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>

namespace ember {

namespace {

/// Keys of what is no part's value, beside every tolerance; see partValues().
constexpr std::array<std::string_view, 11> notOfParts{"name",   "notes", "note",     "position", "emission", "mu",
                                                      "cutoff", "gas",   "readings", "follows",  "screen"};
/// Objects and lists of the build that the amplifier is not made of.
constexpr std::array<std::string_view, 10> notOfCircuit{"meter",  "limiter", "spares", "chassis", "wiring",
                                                        "prices", "waivers", "log",    "mains",   "types"};

bool tells(std::string_view key) {
    const bool tolerance = key.size() >= 9 && key.substr(key.size() - 8) == "olerance";
    return !tolerance && std::find(notOfParts.begin(), notOfParts.end(), key) == notOfParts.end();
}

class PartsReader : public fields::Visitor {
  public:
    std::map<std::string, PartValues> parts;

    void number(const char* key, double& value, Unit unit, Range) override { put(key, formatExact(value, unit)); }
    void integer(const char* key, int& value, int, int) override { put(key, std::to_string(value)); }
    void text(const char* key, std::string& value) override {
        if (std::string_view(key) == "id")
            at().id = value;
        else
            put(key, value);
    }
    void flag(const char* key, bool& value) override { put(key, value ? "yes" : "no"); }
    void choiceOf(const char* key, int& index, std::span<const std::string_view> names) override {
        put(key, std::string(names[static_cast<std::size_t>(index)]));
    }
    void objectOf(const char* key, const fields::Object& value) override {
        if (!left(key)) object(key, value);
    }
    void listOf(const char* key, const fields::List& values, std::size_t) override {
        if (left(key)) return;
        for (std::size_t k = 0; k < values.size(); ++k) object(fmt::format("{}/{}", key, k), values.at(k));
    }

  private:
    [[nodiscard]] bool left(std::string_view key) const {
        return !tells(key) ||
               (open.empty() && std::find(notOfCircuit.begin(), notOfCircuit.end(), key) != notOfCircuit.end());
    }
    PartValues& at() { return open.back(); }
    void put(const char* key, std::string value) {
        if (!open.empty() && tells(key)) at().values[prefix + key] = std::move(value);
    }
    /// A part of its own where it has an id, else of what holds it; at the top by its key.
    void object(const std::string& key, const fields::Object& value) {
        const std::string outer = std::exchange(prefix, {});
        open.push_back({{}, (open.empty() ? std::string() : at().place) + "/" + key, {}});
        value.accept(*this);
        PartValues own = std::move(open.back());
        open.pop_back();
        prefix = outer;
        if (own.id.empty() && open.empty()) own.id = key;
        if (!own.id.empty())
            parts[own.id] = std::move(own);
        else
            for (auto& [name, text] : own.values) at().values[prefix + key + "/" + name] = std::move(text);
    }
    std::vector<PartValues> open;
    std::string prefix;
};

} // namespace

std::map<std::string, PartValues> partValues(const Build& build) {
    PartsReader reader;
    fields::visit(reader, const_cast<Build&>(build)); // it only reads
    return std::move(reader.parts);
}

} // namespace ember
