#include "stage_figures.h"

#include <fmt/format.h>

#include <cmath>
#include <numbers>

namespace ember::plan {

using namespace schematic;

namespace {

constexpr double hertz = 1000;

std::optional<PartId> loadOf(const HeldChannel& h, const Build& b, std::size_t channel) {
    const ResistorPart* load = loadResistor(b.channels[channel].stages);
    return load && !load->id.empty() ? h.schematic.find(load->id) : std::nullopt;
}

/// A channel in which the signal enters each stage through a resistance small enough to change nothing, so that the
/// volts across it are what the stage takes in.
struct MeteredInputs {
    static constexpr double ohms = 1e-3;
    HeldChannel channel;
    std::vector<NetId> outside, inside; ///< by stage, of the resistance; none where the signal passes no stage
};

MeteredInputs meteredInputs(const HeldChannel& h, const Build& b, std::size_t channel) {
    const auto& stages = b.channels[channel].stages;
    MeteredInputs m{h, std::vector<NetId>(stages.size()), std::vector<NetId>(stages.size())};
    Schematic& s = m.channel.schematic;
    std::vector<NetId> before = h.before;
    for (std::size_t n = 0; n < stages.size(); ++n) {
        if (before[n].index <= 0 || dutyOf(stages[n]) == Duty::Feedback) continue;
        m.outside[n] = before[n];
        m.inside[n] = s.net(fmt::format("into {}", stages[n].id), NetKind::Signal);
        const auto move = [&](PartId part, std::size_t pin) {
            if (NetId& net = s.edit(part).pins[pin].net; net == before[n]) net = m.inside[n];
        };
        // Of a bottle that serves several stages the pins of its own section alone.
        for (const auto& [part, stage] : h.stageOf)
            if (stage >= n && !std::holds_alternative<Bottle>(s[part].element))
                for (std::size_t pin = 0; pin < s[part].pins.size(); ++pin) move(part, pin);
        for (const ValveUse& v : h.valves)
            if (v.stage >= n)
                for (const int pin :
                     std::get<Bottle>(s[v.part].element).sections[static_cast<std::size_t>(v.system)].pins)
                    move(v.part, static_cast<std::size_t>(pin));
        s.add(resistor(fmt::format("meter at {}", stages[n].id), m.outside[n], m.inside[n], MeteredInputs::ohms));
        for (std::size_t later = n + 1; later < stages.size(); ++later)
            if (before[later] == m.outside[n]) before[later] = m.inside[n];
    }
    return m;
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
        const MeteredInputs m = meteredInputs(h, b, k);
        Analysis metered(m.channel.schematic);
        const auto driven = metered.operatingPoint();
        for (std::size_t n = 0; driven && n < out.back().size(); ++n) {
            if (m.inside[n].index <= 0) continue;
            const auto at = [&](NetId net) { return metered.gain(*driven, m.channel.source, net, hertz); };
            const circuit::Complex inside = at(m.inside[n]), amps = (at(m.outside[n]) - inside) / MeteredInputs::ohms;
            if (const double volts = std::abs(inside); volts > 0 && std::abs(amps) > 1e-12 * volts)
                out.back()[n].inputOhms = volts / std::abs(amps);
        }
    }
    return out;
}

HeldChannel withoutLoad(HeldChannel h, const Build& b, std::size_t channel) {
    if (const auto load = loadOf(h, b, channel)) h.schematic.set(*load, 1e9);
    return h;
}

Ports portsOf(const Build& b, const Catalogue& catalogue, const Steady& s, std::size_t channel) {
    Ports out;
    const HeldChannel h = heldChannel(b, catalogue, channel, supplyOf(b, s));
    const HeldChannel open = withoutLoad(h, b, channel);
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
        out.gain = std::abs(c.gain(*point, behind.source, h.output, hertz) / share);
    }
    return out;
}

ResponseEnds responseEnds(const Build& b, const Catalogue& catalogue, const Steady& s, std::size_t channel) {
    const HeldChannel h = heldChannel(b, catalogue, channel, supplyOf(b, s));
    Analysis a(h.schematic);
    const auto point = a.operatingPoint();
    if (!point) return {};
    const auto at = [&](double hz) { return std::abs(a.gain(*point, h.source, h.output, hz)); };
    ResponseEnds out;
    out.gain = at(hertz);
    const double edge = out.gain / std::numbers::sqrt2;
    // The end nearest to 1 kHz: a third of an octave at a time until it is passed, then halved.
    const auto end = [&](double ratio, double last) {
        double inside = hertz, outside = hertz * ratio;
        while (at(outside) > edge) {
            if ((ratio > 1) == (outside > last)) return unknown;
            inside = outside, outside *= ratio;
        }
        for (int k = 0; k < 24; ++k) {
            const double middle = std::sqrt(inside * outside);
            (at(middle) > edge ? inside : outside) = middle;
        }
        return std::sqrt(inside * outside);
    };
    if (!(out.gain > 1e-9)) return out;
    out.low = end(std::exp2(-1.0 / 3), 0.1);
    out.high = end(std::exp2(1.0 / 3), 1e6);
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
        look(withoutLoad(built, b, k), "without its load");
        HeldChannel cable = built;
        cable.schematic.add(capacitor("cable", cable.output, Schematic::ground, 0.1e-6));
        look(cable, "into 0.1 µF");
    }
    return out;
}

std::vector<LeakageResonance> resonancesOf(const Build& b, const Catalogue& catalogue, const Steady& s) {
    constexpr double from = 5000, most = 1e6, open = 1e12; // [Hz], [ohm]
    std::vector<LeakageResonance> out;
    const ChannelSupply supply = supplyOf(b, s);
    for (std::size_t k = 0; k < b.channels.size(); ++k) {
        const OutputTransformer* iron = nullptr;
        std::vector<std::string> feedback;
        for (const Stage& stage : b.channels[k].stages) {
            const Duty duty = dutyOf(stage);
            const StagePart* part = duty == Duty::Feedback ? stage.part("resistor") : stage.part("transformer");
            if (!part) continue;
            if (const auto* t = std::get_if<OutputTransformer>(&part->part); t && duty == Duty::Output) iron = t;
            if (const auto* r = std::get_if<ResistorPart>(&part->part)) feedback.push_back(r->id);
        }
        if (!iron || feedback.empty() || !(iron->leakageInductance * iron->windingCapacitance > 0)) continue;
        const HeldChannel h = heldChannel(b, catalogue, k, supply);
        HeldChannel opened = h;
        for (const std::string& id : feedback)
            if (const auto part = h.schematic.find(id)) opened.schematic.set(*part, open);
        Analysis built(h.schematic), without(opened.schematic);
        const auto point = built.operatingPoint(), free = without.operatingPoint();
        if (!point || !free) continue;
        const auto gain = [&](double hz) { return std::abs(built.gain(*point, h.source, h.output, hz)); };
        const auto db = [](double ratio) { return 20 * std::log10(ratio); };
        const double middle = gain(hertz);
        if (!(middle > 1e-9)) continue;
        LeakageResonance r;
        r.channel = k;
        r.iron = iron->id;
        r.hertz = 1 / (2 * std::numbers::pi * std::sqrt(iron->leakageInductance * iron->windingCapacitance));
        r.feedbackDb = db(std::abs(without.gain(*free, h.source, h.output, r.hertz)) / gain(r.hertz));
        const auto openGain = [&](double hz) { return std::abs(without.gain(*free, h.source, h.output, hz)); };
        const double openMiddle = openGain(hertz);
        for (double hz = from; hz < most; hz *= std::exp2(1.0 / 6)) {
            if (const double rise = db(gain(hz) / middle); !(rise <= r.peakDb)) r.peakDb = rise, r.peakHertz = hz;
            if (const double rise = db(openGain(hz) / openMiddle); !(rise <= r.openPeakDb)) r.openPeakDb = rise;
        }
        out.push_back(r);
    }
    return out;
}

} // namespace ember::plan
