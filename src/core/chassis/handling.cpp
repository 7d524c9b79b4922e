#include "handling.h"

#include "layout_edits.h"

#include <fmt/format.h>

#include <algorithm>

namespace ember::chassis {

std::string handlingCaution(const Chassis& c) {
    std::string out = "Clamp the sheet, wear goggles, deburr every edge, clear all swarf before the first wire.";
    double sum = 0;
    for (const PlacedPart& p : c.parts) sum += p.mass;
    const auto heaviest = std::max_element(c.parts.begin(), c.parts.end(),
                                           [](const PlacedPart& a, const PlacedPart& b) { return a.mass < b.mass; });
    if (heaviest != c.parts.end() && heaviest->mass >= 1)
        out += fmt::format(" Fit the iron last: {} weighs {:.1f} kg, all parts together {:.1f} kg.", tagOf(*heaviest),
                           heaviest->mass, sum);
    return out;
}

} // namespace ember::chassis
