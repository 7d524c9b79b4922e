#include "stage_figures.h"

#include <cmath>

namespace ember::plan {

using namespace schematic;

namespace {

constexpr double hertz = 1000;

std::optional<PartId> loadOf(const HeldChannel& h, const Build& b, std::size_t channel) {
    const auto& stages = b.channels[channel].stages;
    for (std::size_t k = stages.size(); k-- > 0;)
        if (const StagePart* p = stages[k].part("load");
            p && !idOf(p->part).empty() && dutyOf(stages[k]) >= Duty::Output)
            return h.schematic.find(idOf(p->part));
    return std::nullopt;
}

/// The channel without its load.
HeldChannel unloaded(HeldChannel h, const Build& b, std::size_t channel) {
    if (const auto load = loadOf(h, b, channel)) h.schematic.set(*load, 1e9);
    return h;
}

} // namespace

std::vector<std::vector<StageFigures>> stageFigures(const Build& b, const Catalogue& catalogue, const Steady& s,
                                                    const std::vector<PowerFigures>& power) {
    std::vector<std::vector<StageFigures>> out;
    const ChannelSupply supply = supplyOf(b, s);
    for (std::size_t k = 0; k < b.channels.size(); ++k) {
        out.emplace_back(b.channels[k].stages.size());
        const HeldChannel h = heldChannel(b, catalogue, k, supply);
        Analysis a(h.schematic);
        const auto point = a.operatingPoint();
        if (!point) continue;
        const auto to = [&](NetId net) {
            return net.index <= 0 ? 0.0 : std::abs(a.gain(*point, h.source, net, hertz));
        };
        for (std::size_t n = 0; n < out.back().size(); ++n) {
            StageFigures& f = out.back()[n];
            const double before = to(h.before[n]), after = to(h.after[n]);
            if (before > 0) f.gain = after / before;
            if (h.after[n].index > 0) f.outputOhms = std::abs(a.impedance(*point, h.after[n], hertz));
            if (k < power.size()) f.voltsAtClip = after * power[k].clipInput;
        }
    }
    return out;
}

Ports portsOf(const Build& b, const Catalogue& catalogue, const Steady& s, std::size_t channel) {
    Ports out;
    const HeldChannel h = heldChannel(b, catalogue, channel, supplyOf(b, s));
    const HeldChannel open = unloaded(h, b, channel);
    Analysis a(open.schematic);
    if (const auto point = a.operatingPoint()) out.outputOhms = std::abs(a.impedance(*point, open.output, hertz));
    // The source behind a megohm: what is left of its volt at the input tells what the input is.
    HeldChannel behind = h;
    constexpr double series = 1e6;
    const NetId source = behind.schematic.net("generator", NetKind::Signal);
    behind.schematic.edit(behind.source).pins[0].net = source;
    behind.schematic.add(resistor("generator's resistance", source, behind.input, series));
    Analysis c(behind.schematic);
    if (const auto point = c.operatingPoint()) {
        const circuit::Complex share = c.gain(*point, behind.source, behind.input, hertz);
        out.inputOhms = std::abs(series * share / (1.0 - share));
    }
    return out;
}

std::vector<Oscillation> oscillationsOf(const Build& b, const Catalogue& catalogue, const Steady& s) {
    std::vector<Oscillation> out;
    const ChannelSupply supply = supplyOf(b, s);
    for (std::size_t k = 0; k < b.channels.size(); ++k) {
        const HeldChannel built = heldChannel(b, catalogue, k, supply);
        const auto look = [&](const HeldChannel& h, const char* how) {
            Analysis a(h.schematic);
            const auto point = a.operatingPoint();
            if (!point) return;
            if (const auto g = a.growth(*point)) out.push_back({k, how, g->hertz});
        };
        look(built, "as built");
        if (!(built.load > 0)) continue;
        look(unloaded(built, b, k), "without its load");
        HeldChannel cable = built;
        cable.schematic.add(capacitor("cable", cable.output, Schematic::ground, 0.1e-6));
        look(cable, "into 0.1 µF");
    }
    return out;
}

} // namespace ember::plan
