#pragma once
// The Build as JSON: `"format": "dim-ember/build"`, `"version": 2`; version 1 is read too. See docs/format.md.

#include "fields.h"

#include "core/quantity/quantity.h"

#include <optional>
#include <string>
#include <string_view>

namespace ember {

inline constexpr int formatVersion = 2;
inline constexpr std::size_t largestFile = 64u << 20; ///< bytes
inline constexpr int deepestNesting = 24;
inline constexpr std::size_t mostStages = 100, mostParts = 2000; ///< of all channels together

/// Keys in a stable order: known ones as described in fields.h, then unknown ones as they came.
Json toJson(const Build& build);
Json toJson(const fields::Object& object); ///< one object of it
std::string toText(const Build& build);

/// Checks format, version, every key's kind and range, ids and references; a Problem names the place as a JSON pointer.
Expected<Build> fromJson(const Json& json);
/// The same for a text; also refuses what is too large, nested too deep, or not JSON, naming line and column.
Expected<Build> fromText(std::string_view text);

/// Unit and range of sense at a JSON pointer of the file, such as `/supply/sections/1/resistance`.
struct Place {
    Unit unit = Unit::None;
    Range range{-1e12, 1e12};
    double value = 0;
    bool whole = false; ///< a whole number alone
};
std::optional<Place> placeAt(const Build& build, std::string_view pointer);
/// Sets the number there, or says why it cannot be; references are not checked.
Expected<Done> setNumber(Build& build, const std::string& pointer, double value);

/// Something of the build that can be set: where it stands, what kind of thing it is, and what it holds.
struct Setting {
    std::string pointer; ///< in the file
    std::string label;   ///< for people: "supply, c1, capacitance"
    enum class Kind { Number, Text, Choice } kind = Kind::Number;
    Place number;
    std::string text; ///< also the present choice
    std::vector<std::string> choices;
    std::string entry; ///< pointer of the list entry it belongs to, or empty
};
/// Every setting, in the order of the file; history (log, waivers) is left out.
std::vector<Setting> settingsOf(const Build& build);

/// Ids that are used twice, references to nodes that do not exist, and unknown valve types.
std::optional<Problem> checkReferences(const Build& build);

/// Number of supply nodes: the rectifier's output and one behind every resistor or choke.
int supplyNodes(const Supply& supply);
/// Supply node (1-based) at which section `index` stands: a capacitor's node, or the node in front of a resistor or
/// choke.
int nodeOfSection(const Supply& supply, std::size_t index);

} // namespace ember
