#include "circuit_part.h"

#include "core/drawing/of_build.h"
#include "core/quantity/quantity.h"

#include <fmt/format.h>

#include <cmath>
#include <map>

namespace ember::report {

namespace {

/// By net of the drawing. What is nothing reads as nothing.
std::map<int, std::string> voltsOf(const drawing::ChannelSubject& subject, std::size_t channel,
                                   const plan::Steady& steady) {
    std::map<int, std::string> out;
    const auto say = [&](schematic::NetId net, double volts) {
        if (net.index >= 0 && std::isfinite(volts))
            out.emplace(net.index, std::abs(volts) < 5e-4 ? std::string("0 V") : format(volts, Unit::Volt));
    };
    for (const schematic::HeldNode& n : subject.nodes)
        if (n.node >= 1 && n.node <= static_cast<int>(steady.nodes.size()))
            say(subject.schematic[n.source].pins[0].net, steady.nodes[static_cast<std::size_t>(n.node - 1)].mean);
    if (channel >= steady.channels.size()) return out;
    for (const schematic::ValveUse& use : subject.valves)
        for (const plan::ValvePoint& v : steady.channels[channel].valves)
            if (v.stage == use.stage && v.at == use.at) {
                say(use.plate, v.plate), say(use.cathode, v.cathode), say(use.grid, v.grid);
                say(use.screen, v.screen);
            }
    return out;
}

} // namespace

drawing::Drawing circuitDrawing(const Build& b, const Catalogue& catalogue, std::size_t channel,
                                const plan::Steady* steady) {
    const auto subject = drawing::channelSubject(b, catalogue, channel);
    drawing::Words words;
    words.value = subject->value;
    std::map<int, std::string> volts;
    if (steady) {
        volts = voltsOf(*subject, channel, *steady);
        words.volts = [&](schematic::NetId net) {
            const auto v = volts.find(net.index);
            return v == volts.end() ? std::string() : v->second;
        };
    }
    return drawing::draw(subject->subject, words);
}

std::string circuitSvg(const Build& b, const Catalogue& catalogue, std::size_t channel, const plan::Steady* steady) {
    return drawing::toSvg(circuitDrawing(b, catalogue, channel, steady),
                          fmt::format("{}, {}", b.name, b.channels[channel].name));
}

} // namespace ember::report
