// The small valves against their limits, and the path's capacitors before any valve draws current.
#include "findings.h"

#include "remedies.h"

#include "core/plan/pin_figures.h"
#include "core/plan/supply_circuit.h"
#include "core/quantity/letters.h"
#include "core/schematic/channel_parts.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>

namespace ember::rules {

namespace {

/// Grid current that loads a source of some 100 kohm and is heard as distortion [A].
constexpr double audibleGridAmps = 1e-6;

std::string v(double volts) {
    return format(volts, Unit::Volt);
}

/// Before any valve draws, each capacitor of the path stands between its nets as the supply and the coldest bias hold
/// them: the worst that it meets, at every switch-on.
void capacitorVoltsRule(const Build& b, const Catalogue& catalogue, const plan::Figures& f, std::vector<Finding>& out) {
    const auto cold = plan::coldestMoment(b, f);
    if (!cold) return;
    const auto at = plan::schematicFigures(b, catalogue, *cold);
    if (!at) return;
    for (std::size_t k = 0; k < b.channels.size(); ++k)
        for (std::size_t s = 0; s < b.channels[k].stages.size(); ++s) {
            const Stage& stage = b.channels[k].stages[s];
            for (std::size_t p = 0; p < stage.parts.size(); ++p) {
                const auto* part = std::get_if<CapacitorPart>(&stage.parts[p].part);
                if (!part || stage.parts[p].slot == "bypass") continue; // cold, a bypass stands at 0 V
                const auto figure = std::find_if(at->parts.begin(), at->parts.end(),
                                                 [&](const plan::PartFigure& x) { return x.part == part->id; });
                if (figure == at->parts.end()) continue;
                const double most = std::abs(figure->volts);
                if (!(most > 0.9 * part->volts)) continue;
                const bool past = most > part->volts;
                Finding x = finding(
                    "bias", "capacitor-volts/" + part->id, past ? Level::Stop : Level::Warn,
                    fmt::format("{} is {} its rating when cold", upper(part->id), past ? "over" : "near"),
                    fmt::format("{} across it at every switch-on, with mains at {} and no valve drawing yet; "
                                "rated {} ({:.0f} %).{}",
                                v(most), v(b.mains.high), v(part->volts), 100 * most / part->volts,
                                schematic::isOutput(stage) ? " If it fails, its output valve loses its bias." : ""));
                for (const double rating : {100.0, 160.0, 250.0, 400.0, 630.0, 1000.0})
                    if (!x.fix && rating >= most / 0.9)
                        x.fix = setValue(fmt::format("use {}", v(rating)),
                                         fmt::format("/channels/{}/stages/{}/parts/{}/volts", k, s, p), rating);
                out.push_back(std::move(x));
            }
        }
}

std::string nameOf(const Build& b, const Catalogue& catalogue, const plan::ValvePoint& p) {
    const Valve& bottle = b.bottles[p.bottle];
    const ValveType* type = catalogue.valve(bottle.type);
    if (!type || type->sections() < 2) return upper(bottle.id);
    return fmt::format("{} {}", upper(bottle.id), p.section == 1 ? "first" : p.section == 2 ? "second" : "third");
}

void limitsRule(const Build& b, const Catalogue& catalogue, const plan::Figures& f, std::vector<Finding>& out) {
    for (const plan::ChannelPoint& c : f.high->channels)
        for (const plan::ValvePoint& p : c.valves) {
            const Valve& bottle = b.bottles[p.bottle];
            const ValveType* type = catalogue.valve(bottle.type);
            if (!type) continue;
            const TypeSection& section = type->section(p.section);
            const ValveLimits& l = section.limits;
            const std::string name = nameOf(b, catalogue, p), tail = fmt::format(" with mains at {}.", v(b.mains.high));
            const std::string which = type->sections() < 2 ? bottle.id
                                                           : fmt::format("{}/{}", bottle.id,
                                                                         p.section == 1   ? "first"
                                                                         : p.section == 2 ? "second"
                                                                                          : "third");
            const auto id = [&](const char* what) { return fmt::format("{}/{}", what, which); };
            const double volts = p.plate - p.cathode;
            if (p.duty != schematic::Duty::Output) {
                againstValveLimit(out, id("plate-watts"), name + " plate", volts * p.plateAmps, l.plateWatts,
                                  Unit::Watt, tail);
                againstValveLimit(out, id("plate-volts"), name + " plate volts", volts, l.mostPlateVolts(), Unit::Volt,
                                  tail);
                againstValveLimit(out, id("cathode-amps"), name + " cathode current", p.cathodeAmps(), l.cathodeAmps,
                                  Unit::Ampere, tail);
                if (section.pentode && p.screen != p.plate) {
                    againstValveLimit(out, id("screen-watts"), name + " screen", p.screenWatts(), l.screenWatts,
                                      Unit::Watt, tail);
                    againstValveLimit(out, id("screen-volts"), name + " screen volts", p.screen - p.cathode,
                                      l.mostScreenVolts(), Unit::Volt, tail);
                }
            }
            if (type->heater.directlyHeated) continue;
            const auto winding = heaterWindingOf(b, bottle);
            const double heater = winding ? f.high->heaterReference(b.transformer.heaters[*winding]) : 0,
                         apart = p.cathode - heater;
            againstValveLimit(out, id("heater-cathode"),
                              name + (apart > 0 ? " cathode above its heater" : " heater above its cathode"),
                              std::abs(apart), l.heaterCathodeVolts, Unit::Volt,
                              tail + (apart > 0 ? " Lower the cathode, or raise the heaters' reference."
                                                : " Lower the heaters' reference."));
        }
}

/// The two plates of a bottle together, where that is less than twice one.
void bothPlatesRule(const Build& b, const Catalogue& catalogue, const plan::Figures& f, std::vector<Finding>& out) {
    std::map<std::size_t, double> watts;
    for (const plan::ChannelPoint& c : f.high->channels)
        for (const plan::ValvePoint& p : c.valves) watts[p.bottle] += (p.plate - p.cathode) * p.plateAmps;
    for (const auto& [bottle, both] : watts)
        if (const ValveType* type = catalogue.valve(b.bottles[bottle].type))
            againstValveLimit(out, "both-plates/" + b.bottles[bottle].id, upper(b.bottles[bottle].id) + " both plates",
                              both, type->section(1).limits.bothPlatesWatts, Unit::Watt,
                              fmt::format(" with mains at {}.", v(b.mains.high)));
}

/// With the crest of the input for full power the grid comes this near its cathode.
void gridCurrentRule(const Build& b, const Catalogue& catalogue, const plan::Figures& f, std::vector<Finding>& out) {
    for (std::size_t k = 0; k < b.channels.size() && k < f.nominal->channels.size(); ++k) {
        const plan::ChannelPoint& c = f.nominal->channels[k];
        if (c.valves.empty() || c.valves.front().duty == schematic::Duty::Output) continue;
        const plan::ValvePoint& first = c.valves.front();
        const Stage& stage = b.channels[k].stages[first.stage];
        // With feedback the cathode takes most of the signal along: what is left between it and the grid is small.
        const bool feedback = std::any_of(b.channels[k].stages.begin(), b.channels[k].stages.end(), [](const Stage& s) {
            return schematic::dutyOf(s) == schematic::Duty::Feedback;
        });
        const double input = k < f.power.size() ? f.power[k].clipInput : plan::unknown;
        // Behind a control or a pad the grid sees an unknown part of the input.
        const bool straight = std::none_of(
            b.channels[k].stages.begin(), b.channels[k].stages.begin() + static_cast<std::ptrdiff_t>(first.stage),
            [](const Stage& s) { return schematic::dutyOf(s) == schematic::Duty::Control; });
        const double crest = std::isfinite(input) && straight && !feedback ? std::numbers::sqrt2 * input : 0;
        const double bias = first.cathode - first.grid;
        const ValveType* type = catalogue.valve(b.bottles[first.bottle].type);
        if (!type) continue;
        const double contactVolts = -gridVoltsTaking(type->section(first.section).law, audibleGridAmps);
        if (!(bias - crest < contactVolts) || !(first.plateAmps > 1e-5)) continue;
        const Valve& bottle = b.bottles[first.bottle];
        const auto at = std::find_if(stage.parts.begin(), stage.parts.end(), [](const StagePart& p) {
            return p.slot == "cathode" && std::holds_alternative<ResistorPart>(p.part);
        });
        const bool resistor = at != stage.parts.end();
        const std::string more = resistor ? fmt::format(" A larger {} gives more bias.", upper(idOf(at->part))) : "";
        Finding x = finding(
            "bias", "grid-current/" + bottle.id, Level::Warn, fmt::format("{}'s grid draws current", upper(bottle.id)),
            fmt::format(
                "It stands {} below its cathode{}; from {} on it takes a microampere and more, loads its source and "
                "distorts.{}",
                v(bias), crest > 0 ? fmt::format(", {} at the crest of the input for full power", v(bias - crest)) : "",
                v(contactVolts), more));
        if (resistor) {
            const double ohms = nextUp(
                mainValue(at->part) * std::max(1.15, (contactVolts + crest) / std::max(0.05, bias)), Series::E12);
            x.fix = setValue(
                fmt::format("use {}", formatExact(ohms, Unit::Ohm)),
                fmt::format("/channels/{}/stages/{}/parts/{}/resistance", k, first.stage, at - stage.parts.begin()),
                ohms);
        }
        out.push_back(std::move(x));
    }
}

} // namespace

void smallValveRules(const Build& b, const Catalogue& catalogue, const plan::Figures& f, std::vector<Finding>& out) {
    capacitorVoltsRule(b, catalogue, f, out);
    if (!f.high || !f.nominal) return;
    limitsRule(b, catalogue, f, out);
    bothPlatesRule(b, catalogue, f, out);
    gridCurrentRule(b, catalogue, f, out);
}

} // namespace ember::rules
