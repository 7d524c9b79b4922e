#include "heater_groups.h"

#include "heater.h"

#include "core/build/path.h"
#include "core/schematic/path_schematic.h"

#include <algorithm>
#include <cmath>

namespace ember::plan {

std::vector<bool> bottlesIn(const Build& b, const Conditions& c) {
    const auto duties = schematic::bottleDuties(b);
    std::vector<bool> in;
    for (std::size_t k = 0; k < b.bottles.size(); ++k)
        in.push_back((duties[k] == schematic::Duty::Output ? c.outputsIn : c.smallIn) &&
                     std::find(c.pulled.begin(), c.pulled.end(), b.bottles[k].id) == c.pulled.end());
    return in;
}

std::vector<double> bottleEmissions(const Build& b, const Conditions& c,
                                    const std::function<double(std::size_t, const Valve&)>& hot) {
    const auto in = bottlesIn(b, c);
    std::vector<double> out;
    for (std::size_t k = 0; k < b.bottles.size(); ++k) {
        const auto winding = heaterWindingOf(b, b.bottles[k]);
        out.push_back(!in[k] ? 0 : winding ? hot(*winding, b.bottles[k]) : 1);
    }
    return out;
}

Heater wiredHeater(const Build& b, const Catalogue& catalogue, const Valve& bottle, std::size_t winding) {
    return catalogue.valve(bottle.type)->heater.wiredFor(heaterVoltsOf(b, bottle, winding));
}

std::optional<std::size_t> sharedWindingOf(const PowerTransformer& t, const RectifierType& rectifier) {
    if (!rectifier.vacuum || rectifier.cathodeOnHeater || rectifier.heater.directlyHeated) return std::nullopt;
    for (std::size_t k = 0; k < t.heaters.size(); ++k)
        if (t.heaters[k].feeds == "signal" && !t.heaters[k].rectified() &&
            std::abs(t.heaters[k].volts / rectifier.heater.volts - 1) < 0.15)
            return k;
    return std::nullopt;
}

std::vector<HeaterGroup> heaterGroups(const Build& b, const Catalogue& catalogue, const Conditions& c) {
    std::vector<HeaterGroup> groups;
    const auto add = [&](std::size_t winding, const std::string& type, const Heater& wired,
                         const std::string& string = {}) {
        for (HeaterGroup& g : groups)
            if (g.winding == winding && g.type == type && string.empty() && g.string.empty()) {
                g.law = heaterLaw(wired, ++g.count);
                return;
            }
        groups.push_back({winding, type, 1, heaterLaw(wired, 1), string});
    };
    const auto feeding = [&](const std::string& feeds, const std::string& type) {
        const RectifierType* found = catalogue.rectifier(type);
        if (!found || !found->vacuum || !c.rectifierIn) return;
        const auto& windings = b.transformer.heaters;
        for (std::size_t k = 0; k < windings.size(); ++k)
            if (windings[k].feeds == feeds) return add(k, type, found->heater.wiredFor(windings[k].volts));
        if (const auto shared = sharedWindingOf(b.transformer, *found))
            add(*shared, type, found->heater.wiredFor(windings[*shared].volts));
    };
    feeding("rectifier", b.supply.rectifier.type);
    for (const Section& tap : b.supply.sections)
        if (tap.kind == SectionKind::Tap) feeding(tap.id, tap.type);
    const auto in = bottlesIn(b, c);
    const auto complete = [&](const Valve& bottle, std::size_t winding) {
        for (std::size_t k = 0; k < b.bottles.size(); ++k)
            if (!in[k] && b.bottles[k].heaterString == bottle.heaterString &&
                heaterWindingOf(b, b.bottles[k]) == winding)
                return false;
        return true;
    };
    for (std::size_t k = 0; k < b.bottles.size(); ++k) {
        const Valve& bottle = b.bottles[k];
        const auto winding = heaterWindingOf(b, bottle);
        if (!in[k] || !winding || !catalogue.valve(bottle.type)) continue;
        if (!bottle.heaterString.empty() && !complete(bottle, *winding)) continue;
        add(*winding, bottle.type, wiredHeater(b, catalogue, bottle, *winding), bottle.heaterString);
    }
    return groups;
}

bool lastOfString(const std::vector<HeaterGroup>& groups, std::size_t k) {
    return std::none_of(groups.begin() + static_cast<std::ptrdiff_t>(k) + 1, groups.end(), [&](const HeaterGroup& g) {
        return g.winding == groups[k].winding && g.string == groups[k].string;
    });
}

} // namespace ember::plan
