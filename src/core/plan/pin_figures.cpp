#include "pin_figures.h"

#include "bias_range.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

namespace ember::plan {

using namespace schematic;

Expected<SchematicFigures> schematicFigures(const Build& b, const Catalogue& catalogue, const Steady& s) {
    SchematicFigures out;
    std::set<std::string> seen;
    std::map<std::string, std::size_t> parts;
    const ChannelSupply supply = supplyOf(b, s);
    for (std::size_t k = 0; k < b.channels.size(); ++k) {
        const HeldChannel h = heldChannel(b, catalogue, k, supply);
        Analysis analysis(h.schematic);
        const auto point = analysis.operatingPoint();
        if (!point) return Problem{b.channels[k].name, point.problem().sentence};
        // What is held apart as the screens' feed is one node of the amplifier.
        std::vector<std::string> names;
        for (const Net& n : h.schematic.nets()) names.push_back(n.name);
        for (const HeldNode& n : h.nodes)
            names[static_cast<std::size_t>(h.schematic[n.source].pins[0].net.index)] = nodeNet(n.node);
        for (std::size_t n = 0; n < names.size(); ++n)
            if (seen.insert(names[n]).second) out.nets.push_back({names[n], point->volts({static_cast<int>(n)})});
        for (std::size_t p = 0; p < h.schematic.parts().size(); ++p) {
            const Part& part = h.schematic.parts()[p];
            if (std::holds_alternative<Voltage>(part.element)) continue;
            const PartId id{static_cast<int>(p)};
            const double across = point->volts(part.pins[0].net) - point->volts(part.pins[1].net);
            // A bottle that two channels share is one part.
            const auto [at, fresh] = parts.emplace(part.id, out.parts.size());
            if (fresh)
                out.parts.push_back({part.id, part.role, part.place, across, point->amps({id, 0}), point->watts(id),
                                     part.pins.size() == 2});
            else
                out.parts[at->second].watts += point->watts(id);
            if (!std::holds_alternative<Bottle>(part.element)) continue;
            for (std::size_t pin = 0; pin < part.pins.size(); ++pin) {
                const Pin& on = part.pins[pin];
                PinFigure f{part.id, on.name, "", on.number};
                if (on.net.index >= 0) {
                    f.net = names[static_cast<std::size_t>(on.net.index)];
                    f.volts = point->volts(on.net);
                    f.amps = point->amps({id, static_cast<int>(pin)});
                }
                out.pins.push_back(std::move(f));
            }
        }
    }
    return out;
}

std::optional<Steady> coldestMoment(const Build& b, const Figures& f) {
    if (!f.cold) return std::nullopt;
    Steady cold = *f.cold;
    const double coldest = biasRange(b.bias, cold).coldest;
    for (double& w : cold.wipers) w = coldest;
    for (NodeFigures& n : cold.nodes) n.mean = n.most;
    return cold;
}

std::map<std::string, WorstVolts> worstVolts(const Build& b, const Catalogue& catalogue, const Figures& f) {
    std::map<std::string, WorstVolts> out;
    const auto take = [&](const Steady& s, double WorstVolts::*which) {
        const auto at = schematicFigures(b, catalogue, s);
        if (!at) return;
        for (const PartFigure& p : at->parts)
            if (p.twoEnded) {
                double& most = out[p.part].*which;
                most = std::isfinite(most) ? std::max(most, std::abs(p.volts)) : std::abs(p.volts);
            }
    };
    for (const auto* s : {&f.low, &f.nominal, &f.high})
        if (*s) take(**s, &WorstVolts::hot);
    if (const auto cold = coldestMoment(b, f)) take(*cold, &WorstVolts::cold);
    return out;
}

} // namespace ember::plan
