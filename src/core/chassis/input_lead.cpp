#include "input_lead.h"

#include "core/schematic/channel_parts.h"

#include <algorithm>
#include <limits>

namespace ember::chassis {

double inputLead(const Build& b, std::size_t channel) {
    constexpr double ends = 2 * 0.023; // [m]
    const auto& parts = b.chassis.parts;
    const auto first = [&](auto holds) {
        const auto at = std::find_if(parts.begin(), parts.end(), holds);
        return at == parts.end() ? nullptr : &*at;
    };
    const auto of = [&](const std::string& id) {
        return first([&](const PlacedPart& p) { return !id.empty() && p.of == id; });
    };
    const auto length = [&](const PlacedPart& from, const PlacedPart& to) {
        const Vector way =
            toChassis(frameOf(b.chassis, to), 0, 0, -0.01) - toChassis(frameOf(b.chassis, from), 0, 0, -0.01);
        return way.lpNorm<1>() + ends;
    };
    const Stage* stage = schematic::firstGain(b.channels[channel]);
    const PlacedPart *input = of("input-" + b.channels[channel].id),
                     *valve = stage ? of(stage->valves.front().bottle) : nullptr,
                     *volume = first([](const PlacedPart&p) { return p.kind == "potentiometer"; });
    if (!input || !valve) return std::numeric_limits<double>::quiet_NaN();
    return volume ? length(*input, *volume) + length(*volume, *valve) : length(*input, *valve);
}

} // namespace ember::chassis
