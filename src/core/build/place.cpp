#include "build_json.h"

#include "fields.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

/// A number of a build, and where it is kept.
struct Spot {
    Place place;
    double* number = nullptr;
    int* whole = nullptr; ///< one of the two
};

/// Walks to a pointer and reports the number there.
class Finder : public fields::Visitor {
  public:
    Finder(std::string_view wanted, std::optional<Spot>& out) : rest(wanted), found(out) {}
    void number(const char* key, double& value, Unit unit, Range range) override {
        if (isHere(key)) found = Spot{{unit, range, value}, &value};
    }
    void integer(const char* key, int& value, int least, int most) override {
        if (isHere(key))
            found = Spot{{Unit::None, {double(least), double(most)}, double(value), true}, nullptr, &value};
    }
    void text(const char*, std::string&) override {}
    void flag(const char*, bool&) override {}
    void choiceOf(const char*, int&, std::span<const std::string_view>) override {}
    void objectOf(const char* key, const fields::Object& value) override { descend(fmt::format("/{}/", key), value); }
    void listOf(const char* key, const fields::List& values, std::size_t) override {
        for (std::size_t k = 0; k < values.size(); ++k) descend(fmt::format("/{}/{}/", key, k), values.at(k));
    }

  private:
    [[nodiscard]] bool isHere(std::string_view key) const {
        return rest.size() == key.size() + 1 && rest.front() == '/' && rest.substr(1) == key;
    }
    void descend(const std::string& prefix, const fields::Object& value) {
        if (rest.substr(0, prefix.size()) != prefix) return;
        Finder inner(rest.substr(prefix.size() - 1), found);
        value.accept(inner);
    }
    std::string_view rest;
    std::optional<Spot>& found;
};

std::optional<Spot> spotAt(Build& build, std::string_view pointer) {
    std::optional<Spot> found;
    Finder finder(pointer, found);
    fields::visit(finder, build);
    return found;
}

} // namespace

std::optional<Place> placeAt(const Build& build, std::string_view pointer) {
    const auto spot = spotAt(const_cast<Build&>(build), pointer); // it only reads
    return spot ? std::optional(spot->place) : std::nullopt;
}

Expected<Done> setNumber(Build& build, const std::string& pointer, double value) {
    const auto spot = spotAt(build, pointer);
    if (!spot) return Problem{pointer, "there is no number"};
    const auto checked = checkWithin(value, spot->place.unit, spot->place.range);
    if (!checked) return Problem{pointer, checked.problem().sentence};
    if (spot->number)
        *spot->number = value;
    else if (value == std::floor(value))
        *spot->whole = static_cast<int>(value);
    else
        return Problem{pointer, fmt::format("a whole number is expected, not {}", value)};
    return Done{};
}

int supplyNodes(const Supply& supply) {
    return 1 + static_cast<int>(std::count_if(supply.sections.begin(), supply.sections.end(),
                                              [](const Section& s) { return s.kind != SectionKind::Capacitor; }));
}

int nodeOfSection(const Supply& supply, std::size_t index) {
    return 1 + static_cast<int>(std::count_if(supply.sections.begin(),
                                              supply.sections.begin() + static_cast<std::ptrdiff_t>(index),
                                              [](const Section& s) { return s.kind != SectionKind::Capacitor; }));
}

} // namespace ember
