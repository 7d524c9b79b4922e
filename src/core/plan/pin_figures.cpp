#include "pin_figures.h"

#include "core/quantity/letters.h"

#include <fmt/format.h>

#include <set>

namespace ember::plan {

using namespace schematic;

Expected<SchematicFigures> schematicFigures(const Build& b, const Catalogue& catalogue, const Steady& s) {
    SchematicFigures out;
    std::set<std::string> seen;
    for (std::size_t k = 0; k < b.channels.size(); ++k) {
        const Channel& ch = b.channels[k];
        const HeldChannel h = heldChannel(ch, catalogue, supplyOf(b, s, k));
        Analysis analysis(h.schematic);
        const auto point = analysis.operatingPoint();
        if (!point) return Problem{ch.name, point.problem().sentence};
        // What holds the channel here is a node or a line of the amplifier there.
        std::vector<std::string> names;
        for (const Net& n : h.schematic.nets()) names.push_back(n.name);
        const auto call = [&](PartId source, std::string name) {
            names[static_cast<std::size_t>(h.schematic[source].pins[0].net.index)] = std::move(name);
        };
        call(h.railPlate, fmt::format("B+{}", ch.plateNode));
        call(h.railScreen, fmt::format("B+{}", ch.screenNode));
        call(h.railSmall, fmt::format("B+{}", ch.smallNode));
        call(h.biasA, upper(ch.pair.a.id) + " bias");
        call(h.biasB, upper(ch.pair.b.id) + " bias");
        for (std::size_t n = 0; n < names.size(); ++n)
            if (seen.insert(names[n]).second) out.nets.push_back({names[n], point->volts({static_cast<int>(n)})});
        for (std::size_t p = 0; p < h.schematic.parts().size(); ++p) {
            const Part& part = h.schematic.parts()[p];
            if (std::holds_alternative<Voltage>(part.element)) continue;
            const PartId id{static_cast<int>(p)};
            const double across = point->volts(part.pins[0].net) - point->volts(part.pins[1].net);
            out.parts.push_back({part.id, part.role, across, point->amps({id, 0}), point->watts(id)});
            if (!std::holds_alternative<Bottle>(part.element)) continue;
            for (std::size_t pin = 0; pin < part.pins.size(); ++pin) {
                const Pin& at = part.pins[pin];
                PinFigure f{part.id, at.name, "", at.number};
                if (at.net.index >= 0) {
                    f.net = names[static_cast<std::size_t>(at.net.index)];
                    f.volts = point->volts(at.net);
                    f.amps = point->amps({id, static_cast<int>(pin)});
                }
                out.pins.push_back(std::move(f));
            }
        }
    }
    return out;
}

} // namespace ember::plan
