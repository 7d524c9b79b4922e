#include "heater_edits.h"

#include "structure.h"

#include "core/quantity/letters.h"

#include <fmt/format.h>

#include <algorithm>

namespace ember {

namespace {

Edit setHeater(std::size_t bottle, const std::string& winding, const std::string& string) {
    return together("", {setText("", fmt::format("/bottles/{}/heater", bottle), winding),
                         setText("", fmt::format("/bottles/{}/heaterString", bottle), string)});
}

/// As the file says it: empty for the winding that valves hang on unless they say otherwise.
std::string nameOfWinding(const Build& b, std::size_t winding) {
    Valve plain;
    return heaterWindingOf(b, plain) == winding ? std::string() : b.transformer.heaters[winding].id;
}

} // namespace

Edit addHeaterWinding(const Build& b, double volts, double amps, const std::string& against) {
    HeaterWinding w;
    w.id = freshId(b, "h1");
    w.volts = volts;
    w.resistance = 0.02 * volts / amps;
    w.amps = amps;
    w.feeds = against.empty() ? "signal" : against;
    return insertAt(against.empty() ? fmt::format("add heater winding {}", upper(w.id))
                                    : fmt::format("add {} in series with {}", upper(w.id), upper(against)),
                    "/transformer/heaters/-", w);
}

Expected<Edit> removeHeaterWinding(const Build& b, std::size_t winding) {
    const HeaterWinding& w = b.transformer.heaters[winding];
    const auto& all = b.transformer.heaters;
    const auto signals =
        std::count_if(all.begin(), all.end(), [](const HeaterWinding& x) { return x.feeds == "signal"; });
    const bool another = std::any_of(all.begin(), all.end(), [&](const HeaterWinding& x) { return x.id == w.feeds; });
    if (w.feeds != "signal" && !another)
        return Problem{"/transformer/heaters",
                       fmt::format("{} heats a rectifier; change the rectifier first", upper(w.id))};
    if (w.feeds == "signal" && signals < 2 && !b.bottles.empty())
        return Problem{"/transformer/heaters",
                       fmt::format("{} heats every valve; add another winding first", upper(w.id))};
    std::vector<Edit> edits;
    for (std::size_t k = 0; k < b.bottles.size(); ++k)
        if (!w.id.empty() && b.bottles[k].heater == w.id) edits.push_back(setHeater(k, "", ""));
    edits.push_back(removeAt("", fmt::format("/transformer/heaters/{}", winding)));
    return together(fmt::format("remove heater winding {}", upper(w.id)), edits);
}

Edit heatFrom(const Build& b, std::size_t bottle, std::size_t winding) {
    Edit e = setHeater(bottle, nameOfWinding(b, winding), "");
    e.name = fmt::format("{} heated from {}", upper(b.bottles[bottle].id), upper(b.transformer.heaters[winding].id));
    return e;
}

Edit inStringWith(const Build& b, std::size_t bottle, std::size_t other) {
    const auto winding = heaterWindingOf(b, b.bottles[other]);
    const std::string at = winding ? nameOfWinding(b, *winding) : std::string();
    std::string string = b.bottles[other].heaterString;
    std::vector<Edit> edits;
    if (string.empty()) {
        string = "with " + b.bottles[other].id;
        edits.push_back(setHeater(other, at, string));
    }
    edits.push_back(setHeater(bottle, at, string));
    return together(fmt::format("{} in series with {}", upper(b.bottles[bottle].id), upper(b.bottles[other].id)),
                    edits);
}

} // namespace ember
