#include "hung_parts.h"

#include <fmt/format.h>

#include <algorithm>

namespace ember::app {

std::vector<HungPart> hungParts(const Supply& supply) {
    std::vector<HungPart> all;
    const auto add = [&](const std::string& entry, const char* value, const std::string& id, int node) {
        const auto before = std::count_if(all.begin(), all.end(), [&](const HungPart& h) { return h.node == node; });
        all.push_back({entry, entry + value, id, node, static_cast<std::size_t>(before)});
    };
    for (std::size_t k = 0; k < supply.bleeders.size(); ++k)
        add(fmt::format("/supply/bleeders/{}", k), "/resistor/resistance", supply.bleeders[k].resistor.id,
            supply.bleeders[k].node);
    for (std::size_t k = 0; k < supply.loads.size(); ++k) {
        const SupplyLoad& l = supply.loads[k];
        add(fmt::format("/supply/loads/{}", k), l.amps > 0 || l.resistance <= 0 ? "/amps" : "/resistance", l.id,
            l.node);
    }
    return all;
}

} // namespace ember::app
