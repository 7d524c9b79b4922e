#include "channel_response.h"

#include <cmath>
#include <numbers>

namespace ember::plan {

using namespace schematic;

ChannelResponse channelResponse(const Build& b, const Catalogue& catalogue, const Steady& s, std::size_t channel) {
    ChannelResponse out;
    out.ends = responseEnds(b, catalogue, s, channel);
    if (!(out.ends.gain > 1e-9)) return out;
    const HeldChannel h = heldChannel(b, catalogue, channel, supplyOf(b, s)), open = withoutLoad(h, b, channel);
    Analysis loaded(h.schematic), unloaded(open.schematic);
    const auto at = loaded.operatingPoint(), bare = unloaded.operatingPoint();
    if (!at || !bare) return out;
    double before = 0;
    for (double hz = 2; hz <= 200e3; hz *= std::exp2(1.0 / 12)) {
        const circuit::Complex gain = loaded.gain(*at, h.source, h.output, hz);
        double turn = std::arg(gain) * 180 / std::numbers::pi;
        if (!out.degrees.empty()) turn += 360 * std::round((before - turn) / 360);
        before = turn;
        out.hertz.push_back(hz);
        out.db.push_back(20 * std::log10(std::abs(gain) / out.ends.gain));
        out.degrees.push_back(turn);
        out.outputOhms.push_back(std::abs(unloaded.impedance(*bare, open.output, hz)));
    }
    return out;
}

} // namespace ember::plan
