#include "channel_circuit.h"

namespace ember::plan {

HeldChannel miswired(HeldChannel held, const Miswiring& wiring) {
    for (const schematic::NamedVariation& v : wiring)
        if (const auto found = schematic::resolve(held.schematic, v)) held.schematic = held.schematic.with(*found);
    return held;
}

HeldChannel heldChannel(const Build& build, const Catalogue& catalogue, std::size_t channel,
                        const ChannelSupply& supply, const circuit::Waveform& drive, const Miswiring& wiring) {
    HeldChannel h = miswired(schematic::channelSchematic(build, catalogue, channel, supply.emission), wiring);
    const auto volts = [](const std::vector<double>& of, std::size_t k) { return k < of.size() ? of[k] : 0.0; };
    for (const schematic::HeldNode& n : h.nodes)
        h.schematic.set(n.source, volts(supply.nodes, static_cast<std::size_t>(n.node - 1)));
    for (const schematic::HeldLine& l : h.lines) h.schematic.set(l.source, volts(supply.wipers, l.adjuster));
    h.schematic.setWave(h.source, drive);
    return h;
}

} // namespace ember::plan
