// Every resistor, control and bypass of a signal path against its own rating, at the worst that the supply brings.
#include "findings.h"

#include "remedies.h"

#include "core/build/path.h"
#include "core/plan/pin_figures.h"
#include "core/quantity/letters.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember::rules {

namespace {

std::string inVolts(double volts) {
    return format(volts, Unit::Volt);
}

/// The next rating that a bypass is sold with.
std::optional<double> bypassVolts(double most) {
    for (const double rating : {16.0, 25.0, 35.0, 50.0, 63.0, 100.0, 160.0, 250.0})
        if (rating >= most / 0.9) return rating;
    return std::nullopt;
}

struct Worst {
    const plan::SchematicFigures &hot, &cold; ///< mains high: valves drawing, and none drawing yet
    /// The figures of a part where it is worse; nullptr: in no circuit.
    [[nodiscard]] const plan::PartFigure* of(const std::string& id) const {
        const plan::PartFigure* out = nullptr;
        for (const auto* at : {&hot, &cold})
            for (const plan::PartFigure& p : at->parts)
                if (p.part == id && (!out || std::abs(p.volts) > std::abs(out->volts))) out = &p;
        return out;
    }
};

void resistorRule(const ResistorPart& r, const plan::PartFigure& at, const std::string& pointer,
                  std::vector<Finding>& out) {
    const double volts = std::abs(at.volts), watts = volts * volts / r.resistance;
    againstWatts(out, "resistor-watts/" + r.id, upper(r.id) + " runs", watts, r.watts, pointer + "/watts");
    const double most = limitingVolts(r.watts);
    if (!(volts > most)) return;
    Finding x =
        finding("bias", "resistor-volts/" + r.id, volts > 1.2 * most ? Level::Stop : Level::Warn,
                fmt::format("{} is above its voltage rating", upper(r.id)),
                fmt::format("{} across one body of {} with mains at its high end; bodies of this size withstand {}.",
                            inVolts(volts), format(r.watts, Unit::Watt), inVolts(most)));
    if (volts <= limitingVolts(1)) x.fix = setValue("use one of 1 W", pointer + "/watts", std::max(1.0, r.watts));
    out.push_back(std::move(x));
}

void bypassRule(const CapacitorPart& c, const plan::PartFigure& at, const std::string& pointer,
                std::vector<Finding>& out) {
    const double volts = std::abs(at.volts);
    if (!(volts > 0.9 * c.volts)) return;
    Finding x =
        finding("bias", "capacitor-volts/" + c.id, volts > c.volts ? Level::Stop : Level::Warn,
                fmt::format("{} is {} its rating", upper(c.id), volts > c.volts ? "over" : "near"),
                fmt::format("{} across it with mains at its high end; rated {} ({:.0f} %). A bypass past its volts "
                            "heats and bursts.",
                            inVolts(volts), inVolts(c.volts), 100 * volts / c.volts));
    if (const auto better = bypassVolts(volts))
        x.fix = setValue(fmt::format("use {}", inVolts(*better)), pointer + "/volts", *better);
    out.push_back(std::move(x));
}

/// Direct current through a control heats its track, and is heard as scratching long before.
void trackRule(const PotentiometerPart& track, const plan::PartFigure& at, const std::string& pointer,
               std::vector<Finding>& out) {
    againstWatts(out, "potentiometer-watts/" + track.id, upper(track.id) + "'s track runs", at.watts, track.watts,
                 pointer + "/watts");
}

/// Grid stopper and screen resistor: without them an output valve may oscillate far above hearing, seen by no meter.
void stopperRule(const Build& b, const Catalogue& catalogue, std::vector<Finding>& out) {
    for (const Channel& ch : b.channels)
        for (const Stage& s : ch.stages) {
            if (!schematic::isOutput(s)) continue;
            for (const StageValve& valve : s.valves) {
                const std::string side = valve.at.substr(0, 1);
                const bool stopper = s.part("stopper", valve.at) || s.part("stopper", side) || s.part("stopper");
                if (!stopper)
                    out.push_back(
                        finding("bias", "no-stopper/" + valve.bottle, Level::Note,
                                fmt::format("{} has no grid stopper", upper(valve.bottle)),
                                "Without 1 kΩ to 10 kΩ at its grid pin it may oscillate far above hearing and "
                                "overheat, and a meter shows nothing of it."));
                const Valve* bottle = bottleOf(b, valve.bottle);
                const ValveType* type = bottle ? catalogue.valve(bottle->type) : nullptr;
                const bool screen =
                    s.part("screen", valve.at) || s.part("screen", side) || s.part("screen") || s.part("screen drop");
                if (type && type->section(valve.section).pentode && s.option("screens", "node") != "plate" && !screen)
                    out.push_back(
                        finding("bias", "no-screen-resistor/" + valve.bottle, Level::Note,
                                fmt::format("{} has no screen resistor", upper(valve.bottle)),
                                "100 Ω to 1 kΩ at its screen pin keeps it from oscillating, and holds the screen's "
                                "watts down where the plate swings below it."));
            }
        }
}

} // namespace

void pathPartRules(const Build& b, const Catalogue& catalogue, const plan::Figures& f, std::vector<Finding>& out) {
    stopperRule(b, catalogue, out);
    const auto coldest = plan::coldestMoment(b, f);
    if (!f.high || !coldest) return;
    const auto hot = plan::schematicFigures(b, catalogue, *f.high),
               cold = plan::schematicFigures(b, catalogue, *coldest);
    if (!hot || !cold) return;
    const Worst worst{*hot, *cold};
    for (std::size_t k = 0; k < b.channels.size(); ++k)
        for (std::size_t s = 0; s < b.channels[k].stages.size(); ++s) {
            const Stage& stage = b.channels[k].stages[s];
            for (std::size_t p = 0; p < stage.parts.size(); ++p) {
                const StagePart& part = stage.parts[p];
                if (part.slot == "load") continue; // outside, judged by its power
                const plan::PartFigure* at = worst.of(idOf(part.part));
                const std::string pointer = fmt::format("/channels/{}/stages/{}/parts/{}", k, s, p);
                if (const auto* track = std::get_if<PotentiometerPart>(&part.part); at && track)
                    trackRule(*track, *at, pointer, out);
                if (!at || !at->twoEnded) continue;
                if (const auto* r = std::get_if<ResistorPart>(&part.part)) resistorRule(*r, *at, pointer, out);
                if (const auto* c = std::get_if<CapacitorPart>(&part.part); c && part.slot == "bypass")
                    bypassRule(*c, *at, pointer, out);
            }
        }
}

void biasPartRules(const Build& b, const Catalogue&, const plan::Figures& f, std::vector<Finding>& out) {
    if (!f.cold || !biasIsFed(b.bias, b.transformer) || !std::isfinite(f.cold->biasReservoir)) return;
    const double reservoir = std::abs(f.cold->biasReservoir), rail = std::abs(f.cold->biasRail);
    const ResistorPart& series = b.bias.series;
    againstWatts(out, "resistor-watts/" + series.id, upper(series.id) + " runs",
                 std::pow(reservoir - rail, 2) / series.resistance, series.watts, "/bias/series/watts");
    if (b.bias.from == BiasSource::Winding) return;
    // The feed stands between the HV winding's end and the reservoir: its crest and what the reservoir holds.
    const double crest = std::numbers::sqrt2 * f.cold->legVolts, across = crest + reservoir;
    // Of the half wave that charges through it: the RMS volts over it are at most those of half a sine of its crest.
    if (b.bias.from == BiasSource::PlateResistor)
        againstWatts(out, "resistor-watts/bias-feed", "The bias feed resistor runs",
                     std::pow(across / 2, 2) / b.bias.feed, b.bias.feedWatts, "/bias/feedWatts");
    const double most = limitingVolts(b.bias.feedWatts);
    if (b.bias.from == BiasSource::PlateResistor && across > most)
        out.push_back(finding("bias", "resistor-volts/bias-feed", across > 1.2 * most ? Level::Stop : Level::Warn,
                              "The bias feed resistor is above its voltage rating",
                              fmt::format("{} at the peak across one body of {}; bodies of this size withstand {}. "
                                          "Several in series share it.",
                                          inVolts(across), format(b.bias.feedWatts, Unit::Watt), inVolts(most))));
}

} // namespace ember::rules
