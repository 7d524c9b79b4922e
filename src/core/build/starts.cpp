#include "starts.h"

#include "build_json.h"

#include "core/base/embedded.h"

#include <algorithm>
#include <array>
#include <stdexcept>

namespace ember {

namespace {

constexpr std::array<std::string_view, 12> order{
    "single-ended-triode",     "single-ended-pentode",  "single-ended-ultralinear",
    "push-pull-pentode",       "push-pull-ultralinear", "four-output-valves",
    "instrument-single-ended", "instrument-push-pull",  "line-stage",
    "line-transformers",       "supply-alone",          "nothing"};

std::vector<Start> read() {
    std::vector<Start> out;
    for (const std::string_view id : order) {
        auto build = fromText(embedded::text(std::string(id) + ".ember.json"));
        if (!build) throw std::logic_error("data/starts/" + std::string(id) + ": " + build.problem().text());
        out.push_back({std::string(id), std::move(*build)});
    }
    return out;
}

} // namespace

const std::vector<Start>& starts() {
    static const std::vector<Start> all = read();
    return all;
}

const Start* startOf(const std::string& id) {
    const auto at = std::find_if(starts().begin(), starts().end(), [&](const Start& s) { return s.id == id; });
    return at == starts().end() ? nullptr : &*at;
}

Build begunFrom(const Start& start) {
    Build b = start.build;
    b.notes = start.id == "nothing" ? "" : "Begun from \"" + b.name + "\". " + b.notes;
    b.name = "Untitled";
    b.log.clear();
    b.waivers.clear();
    return b;
}

} // namespace ember
