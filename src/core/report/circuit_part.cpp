#include "circuit_part.h"

#include "core/quantity/quantity.h"

#include <fmt/format.h>

#include <cmath>

namespace ember::report {

std::string voltsText(double volts) {
    return std::abs(volts) < 5e-4 ? std::string("0 V") : format(volts, Unit::Volt);
}

std::map<int, double> voltsByNet(const drawing::ChannelSubject& subject, const plan::Steady& steady,
                                 const PointOf& pointOf) {
    std::map<int, double> out;
    const auto say = [&](schematic::NetId net, double volts) {
        if (net.index >= 0 && std::isfinite(volts)) out.emplace(net.index, volts);
    };
    for (const schematic::HeldNode& n : subject.nodes)
        if (n.node >= 1 && n.node <= static_cast<int>(steady.nodes.size()))
            say(subject.schematic[n.source].pins[0].net, steady.nodes[static_cast<std::size_t>(n.node - 1)].mean);
    for (const schematic::ValveUse& use : subject.valves)
        if (const plan::ValvePoint* v = pointOf(use)) {
            say(use.plate, v->plate), say(use.cathode, v->cathode);
            say(use.grid, v->grid), say(use.screen, v->screen);
        }
    return out;
}

drawing::Drawing circuitDrawing(const Build& b, const Catalogue& catalogue, std::size_t channel,
                                const plan::Steady* steady) {
    const auto subject = drawing::channelSubject(b, catalogue, channel);
    drawing::Words words;
    words.value = [&](const schematic::Part& p) { return drawing::valueOf(b, p); };
    std::map<int, double> volts;
    if (steady) {
        volts = voltsByNet(*subject, *steady, [&](const schematic::ValveUse& use) -> const plan::ValvePoint* {
            if (channel < steady->channels.size())
                for (const plan::ValvePoint& v : steady->channels[channel].valves)
                    if (v.stage == use.stage && v.at == use.at) return &v;
            return nullptr;
        });
        words.volts = [&](schematic::NetId net) {
            const auto v = volts.find(net.index);
            return v == volts.end() ? std::string() : voltsText(v->second);
        };
    }
    return drawing::draw(subject->subject, words);
}

std::string circuitSvg(const Build& b, const Catalogue& catalogue, std::size_t channel, const plan::Steady* steady) {
    return drawing::toSvg(circuitDrawing(b, catalogue, channel, steady),
                          fmt::format("{}, {}", b.name, b.channels[channel].name));
}

} // namespace ember::report
