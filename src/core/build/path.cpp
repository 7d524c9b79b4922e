#include "path.h"

#include "build_json.h"
#include "fields.h"

#include <fmt/format.h>

#include <algorithm>

namespace ember {

std::string AdjusterAt::pointer() const {
    return fmt::format("/channels/{}/stages/{}/parts/{}/position", channel, stage, part);
}

std::vector<AdjusterAt> adjustersOf(const Build& b) {
    std::vector<AdjusterAt> out;
    for (std::size_t c = 0; c < b.channels.size(); ++c)
        for (std::size_t s = 0; s < b.channels[c].stages.size(); ++s) {
            const auto& parts = b.channels[c].stages[s].parts;
            for (std::size_t p = 0; p < parts.size(); ++p)
                if (const auto* a = std::get_if<AdjusterPart>(&parts[p].part))
                    out.push_back({c, s, p, parts[p].at, a->position});
        }
    return out;
}

std::optional<std::size_t> bottleIndex(const Build& b, const std::string& id) {
    for (std::size_t k = 0; k < b.bottles.size(); ++k)
        if (b.bottles[k].id == id) return k;
    return std::nullopt;
}

const Valve* bottleOf(const Build& b, const std::string& id) {
    const auto at = bottleIndex(b, id);
    return at ? &b.bottles[*at] : nullptr;
}

std::vector<std::string> bottlesOf(const Channel& ch) {
    std::vector<std::string> out;
    for (const Stage& s : ch.stages)
        for (const StageValve& v : s.valves)
            if (std::find(out.begin(), out.end(), v.bottle) == out.end()) out.push_back(v.bottle);
    return out;
}

namespace {

class IdFinder : public fields::Visitor {
  public:
    IdFinder(const std::string& id, std::string pointer, std::optional<std::string>& out)
        : wanted(id),
          at(std::move(pointer)),
          found(out) {}
    void number(const char*, double&, Unit, Range) override {}
    void integer(const char*, int&, int, int) override {}
    void text(const char* key, std::string& value) override {
        if (!found && value == wanted && std::string_view(key) == "id") found = at;
    }
    void flag(const char*, bool&) override {}
    void choiceOf(const char*, int&, std::span<const std::string_view>) override {}
    void objectOf(const char* key, const fields::Object& value) override { descend(at + "/" + key, value); }
    void listOf(const char* key, const fields::List& values, std::size_t) override {
        const std::string list = at + "/" + key;
        if (list == "/chassis/parts" || list == "/log") return; // what stands where has names of its own
        for (std::size_t k = 0; k < values.size() && !found; ++k) descend(fmt::format("{}/{}", list, k), values.at(k));
    }

  private:
    void descend(const std::string& pointer, const fields::Object& value) {
        if (found) return;
        IdFinder inner(wanted, pointer, found);
        value.accept(inner);
    }
    const std::string& wanted;
    std::string at;
    std::optional<std::string>& found;
};

} // namespace

std::string mainKeyAt(const Build& b, const std::string& pointer) {
    for (const char* key : {"inductance", "capacitance", "resistance", "primaryInductance", "emission", "plateVolts",
                            "position", "drop", "volts", "amps"})
        if (placeAt(b, pointer + "/" + key)) return key;
    return {};
}

std::optional<std::string> pointerOfId(const Build& b, const std::string& id) {
    std::optional<std::string> found;
    if (id.empty()) return found;
    IdFinder finder(id, "", found);
    fields::visit(finder, const_cast<Build&>(b)); // it only reads
    return found;
}

} // namespace ember
