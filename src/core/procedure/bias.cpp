#include "bias.h"

#include "core/build/path.h"
#include "core/quantity/quantity.h"
#include "core/schematic/path_schematic.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace ember::procedure {

std::vector<BiasPlace> biasPlaces(const Build& b, const Catalogue& catalogue) {
    std::vector<BiasPlace> out;
    for (std::size_t c = 0; c < b.channels.size(); ++c) {
        const schematic::ChannelSchematic path = schematic::channelSchematic(b, catalogue, c);
        for (std::size_t k = 0; k < path.valves.size(); ++k) {
            const schematic::ValveUse& v = path.valves[k];
            if (v.duty != schematic::Duty::Output) continue;
            const bool sensed = v.sense.index >= 0;
            const schematic::PartId across = sensed ? v.sense : v.selfBias;
            const auto* r =
                across.index < 0 ? nullptr : std::get_if<schematic::Resistance>(&path.schematic[across].element);
            if (!r) continue;
            const Stage& stage = b.channels[c].stages[v.stage];
            const Valve& bottle = b.bottles[v.bottle];
            const schematic::StageKind* kind = schematic::stageKind(stage.kind);
            out.push_back({c, k, (sensed ? "sense-" : "cathode-") + bottle.id, bottle.id, bottle.type,
                           b.channels[c].name, v.section, v.adjuster, r->ohms, sensed ? 1 : v.sharing,
                           kind && kind->in == schematic::Phases::Two, v.at.empty() ? 'a' : v.at[0]});
        }
    }
    return out;
}

double cathodePartsVolts(const Stage& stage, const std::string& at) {
    double out = INFINITY;
    for (const StagePart& p : stage.parts) {
        if (!p.at.empty() && p.at != at && p.at != at.substr(0, 1)) continue;
        if (p.slot == "bypass")
            if (const auto* c = std::get_if<CapacitorPart>(&p.part)) out = std::min(out, c->volts);
        if (p.slot == "cathode" || p.slot == "sense")
            if (const auto* r = std::get_if<ResistorPart>(&p.part))
                out = std::min(out, std::sqrt(r->watts * r->resistance));
    }
    return out;
}

BiasState biasState(const Build& b, const Catalogue& catalogue, const plan::Steady& s, const BiasPlace& place,
                    double volts, double plateRead) {
    BiasState out;
    out.valve = place.bottle;
    if (place.channel >= s.channels.size() || place.valve >= s.channels[place.channel].valves.size()) {
        out.senseLow = out.senseHigh = plan::unknown;
        return out;
    }
    const plan::ValvePoint& p = s.channels[place.channel].valves[place.valve];
    const TypeSection& type = catalogue.valve(b.bottles[p.bottle].type)->section(p.section);
    const double share = p.plateAmps / p.cathodeAmps(), ohms = place.ohms * place.sharing;
    // With a sense resistor the plate's volts are taken to ground: a tenth of a volt. Above a cathode resistor they are
    // not.
    const bool cathodeBias = place.adjuster < 0;
    const double plate = std::isfinite(plateRead) ? plateRead : p.plate;
    const double plateVolts = cathodeBias ? plate - p.cathode : plate;
    out.plateLimit = type.limits.plateWatts > 0 ? type.limits.plateWatts : plan::unknown;
    out.screenLimit = type.pentode && p.screen != p.plate ? type.limits.screenWatts : 0;
    const double low = place.pushPull ? targetLow : classALow, high = place.pushPull ? targetHigh : classAHigh;
    const auto senseFor = [&](double part) { return part * out.plateLimit / plateVolts / share * ohms; };
    out.stopVolts = senseFor(1);
    if (type.limits.cathodeAmps > 0) {
        const double most = type.limits.cathodeAmps * ohms;
        out.stopVolts = std::isfinite(out.stopVolts) ? std::min(out.stopVolts, most) : most;
    }
    if (const double parts = cathodePartsVolts(b.channels[place.channel].stages[p.stage], p.at);
        std::isfinite(parts) && !(out.stopVolts <= parts))
        out.stopVolts = parts;
    out.senseLow = senseFor(low);
    out.senseHigh = senseFor(high);
    if (cathodeBias) { // nothing is set here: what the resistor makes of it, within what valves differ by
        constexpr double differ = 0.15;
        const double planned = p.cathodeAmps() * ohms;
        out.senseLow = (1 - differ) * planned;
        out.senseHigh = (1 + differ) * planned;
        // Never above the limit when the mains is at its high end: the watts go with the square of the volts there.
        const double reserve = std::pow(b.mains.volts / b.mains.high, 2);
        if (std::isfinite(out.stopVolts)) out.senseHigh = std::min(out.senseHigh, reserve * out.stopVolts);
    }
    if (!std::isfinite(volts)) return out;
    out.cathodeAmps = volts / ohms;
    out.plateAmps = out.cathodeAmps * share;
    out.screenAmps = out.cathodeAmps - out.plateAmps;
    out.plateWatts = out.plateAmps * (cathodeBias ? plateVolts : plateVolts - volts);
    out.screenWatts = out.screenLimit > 0 ? out.screenAmps * (p.screen - (cathodeBias ? p.cathode : volts)) : 0;
    const std::string range =
        fmt::format("the range is {} to {}", format(out.senseLow, Unit::Volt), format(out.senseHigh, Unit::Volt));
    const double middle = 0.5 * (senseFor(low) + senseFor(high)) / ohms; // [A]
    std::string how, hotter = "turn it to more current", colder = "turn it to less current";
    if (!cathodeBias) {
        // How far to turn: the valve's slope at the plan's point times the volts that the wiper moves.
        const auto adjuster = static_cast<std::size_t>(place.adjuster);
        const double wiper = adjuster < s.wipers.size() ? s.wipers[adjuster] : 0;
        const double gm =
            figuresAt(type.law, plateVolts - p.cathode, p.grid - p.cathode, p.screen - p.cathode).gm / share;
        const double position = adjustersOf(b)[adjuster].position;
        const double span = position < 0.999 ? (s.biasRail - wiper) / (1 - position)
                                             : s.biasRail * b.bias.adjuster / (b.bias.adjuster + b.bias.floor);
        const double slope = gm / (1 + gm * place.ohms);
        if (std::abs(slope * span) > 1e-9) out.turn = (middle - out.cathodeAmps) / (slope * span);
        how = fmt::format(", about {:.0f} % of the range", 100 * std::abs(out.turn));
    } else if (out.cathodeAmps > 1e-6) {
        // The volts across it hardly change while its ohms do.
        how = fmt::format(": about {}", format(nearest(volts / (middle * place.sharing), Series::E12), Unit::Ohm));
        hotter = "a smaller cathode resistor";
        colder = "a larger cathode resistor";
    }
    if (!std::isfinite(out.plateLimit))
        out.advice = fmt::format("{} has no published plate watts: not judged", b.bottles[p.bottle].type);
    else if (out.plateWatts > out.plateLimit)
        out.advice = fmt::format("over its limit: {}{}{}; {}", cathodeBias ? "switch off, " : "", colder,
                                 cathodeBias ? how : " at once" + how, range);
    else if (volts < out.senseLow)
        out.advice = fmt::format("low: {}{}{}; {}", hotter, how, cathodeBias ? "" : " in small steps", range);
    else if (volts > out.senseHigh)
        out.advice = fmt::format("high: {}{}; {}", colder, how, range);
    else if (cathodeBias) {
        const double idles = out.plateWatts / out.plateLimit;
        out.advice = "in range: nothing is set here; read again in ten minutes";
        if (idles < low || idles > high) // of a plan that idles it elsewhere: what would bring it there
            out.advice += fmt::format(
                ". It idles at {:.0f} % of its plate watts; about {} brings it to {:.0f} %", 100 * idles,
                format(nearest(volts / (middle * place.sharing), Series::E12), Unit::Ohm), 50 * (low + high));
    } else
        out.advice =
            fmt::format("in range: leave it{}, read again in ten minutes", place.pushPull ? ", read its partner" : "");
    return out;
}

} // namespace ember::procedure
