// The readings at which a stage ends. None is above a rating of what hangs there, whatever the band says.
#include "bias.h"
#include "first_power.h"

#include "core/build/build_json.h"
#include "core/build/own_types.h"
#include "core/plan/bias_range.h"
#include "core/plan/supply_circuit.h"
#include "core/quantity/letters.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

namespace ember::procedure {

using namespace plan;

namespace {

// IEC 60065:2014, 10.4.2: insulation resistance at least 2 Mohm between the mains and accessible metal behind basic
// insulation, 4 Mohm where only reinforced insulation stands between.
constexpr double basicInsulation = 2e6, reinforcedInsulation = 4e6;
// IEC 62368-1:2018, 5.6.6: protective bonding of at most 0.1 ohm. Above 1 ohm there is no earth to speak of: leads and
// plug make up for less.
constexpr double earthOhms = 0.1, noEarthOhms = 1;
// The published range of heater volts is 10 % either way for indirectly heated types.
constexpr double heaterGrace = 1.1;

// An ohmmeter that reads ten times what the parts add up to reads an open circuit; a tenth, a short beside them.
constexpr double openTimes = 10, shortedShare = 0.1;
constexpr double leadOhms = 0.5;   // of a meter's leads and clips
constexpr double positiveGrid = 1; // [V] a grid that stands higher is fed by a leaky coupling or by grid current
constexpr double gridReach = 0.05; // [V] what a grid that should stand at 0 V may show

const char* const switchOff = "Switch off at the wall, unplug, wait, measure.";
const char* const beforeMains = "Find out why before mains comes near.";

void coldLimits(const Build& b, Expectation& e) {
    const double share = meterShare(b, e.point.mode), nominal = e.band.nominal;
    e.ifStopped = beforeMains;
    e.band.low = nominal * (0.85 - share);
    e.band.high = nominal * (1.15 + share);
    const auto insulated = [&](double least) {
        e.band.low = least;
        e.band.high = INFINITY;
        e.stopBelow = least;
    };
    switch (e.point.kind) {
    case PointKind::Earth:
        e.band.low = 0, e.band.high = earthOhms;
        e.stopAbove = noEarthOhms;
        break;
    case PointKind::LineChassis:
    case PointKind::NeutralChassis: insulated(basicInsulation); break;
    case PointKind::PrimarySecondary: insulated(reinforcedInsulation); break;
    case PointKind::WindingChassis:
        if (nominal > basicInsulation)
            insulated(basicInsulation);
        else if (nominal > 5e3) // through the diodes and what loads the supply
            e.band.low = 0.5 * nominal, e.band.high = INFINITY;
        break;
    case PointKind::PrimaryOhms:
    case PointKind::LegOhms: // open, or shorted: a switch, a fuse, a winding's end, a short to the core
        e.stopAbove = openTimes * nominal;
        e.stopBelow = shortedShare * nominal;
        break;
    case PointKind::LoadOhms:
        e.stopAbove = 3 * nominal;
        e.stopBelow = 0.3 * nominal;
        e.ifStopped = "Without its load an output stage arcs, and into a short it burns: mend it before power.";
        break;
    case PointKind::GridOhms: // an open leak or bias feed lets the valve run away; a short leaves it without bias
        e.stopAbove = 3 * nominal;
        if (nominal > 1) e.stopBelow = 0.2 * nominal;
        e.ifStopped = "With it the valve has no bias and destroys itself: mend it before a valve goes in.";
        break;
    case PointKind::CathodeOhms:
        e.band.high += leadOhms;
        e.stopAbove = 3 * nominal + leadOhms;
        if (nominal > 1) e.stopBelow = 0.5 * nominal;
        e.ifStopped = "The valve's current is set by it: mend it before a valve goes in.";
        break;
    case PointKind::RailOhms: {
        // Better capacitors leak less: up to what the guaranteed paths alone leave, or without end where there are
        // none.
        Build sure = b;
        sure.supply = guaranteedPaths(b.supply);
        const double most = coldReading(sure, catalogueOf(sure), e.point);
        e.band.low = 0.5 * nominal;
        e.band.high = most < 1e8 ? most * (1 + share) : INFINITY;
        e.stopBelow = shortedShare * nominal;
        e.ifStopped =
            "Something bridges B+ to the chassis: a capacitor, a probe, a wire. Find it before mains comes near.";
        break;
    }
    case PointKind::HeaterChassis:
        if (nominal > basicInsulation)
            insulated(basicInsulation);
        else if (nominal > 5e3) // of a rectifier: what the supply reads
            e.band.low = 0.5 * nominal, e.band.high = INFINITY;
        else if (nominal < 2) // a centre tap: no more than the leads and a joint
            e.band.low = 0, e.band.high = 2;
        break;
    default: break;
    }
}

/// A capacitor with the plug out: of any step, as it is read before power comes.
void heldLimits(Expectation& e) {
    e.band = {0, -1, dischargedVolts};
    e.stopAbove = extraLowVolts;
    e.stopBelow = -extraLowVolts;
    e.ifStopped = "Look at the plug, then discharge it and read again.";
}

/// The valve of a point, and its channel; nullptr where it is not solved.
std::pair<const ValvePoint*, std::size_t> valveAt(const Steady& s, const TestPoint& point) {
    for (std::size_t k = 0; k < s.channels.size(); ++k)
        for (const ValvePoint& v : s.channels[k].valves)
            if (v.bottle == point.index && v.section == point.section) return {&v, k};
    return {nullptr, 0};
}

/// `in`: what the plates and screens stand at with the output valves in.
void valveLimits(const Build& b, const Catalogue& catalogue, const Steady& s, const Steady& in, Expectation& e) {
    const auto [now, channel] = valveAt(s, e.point);
    const ValvePoint* there = valveAt(in, e.point).first;
    if (!now || !there) return;
    if (e.point.kind == PointKind::Cathode || e.point.kind == PointKind::Sense)
        if (const double parts = cathodePartsVolts(b.channels[channel].stages[now->stage], now->at);
            std::isfinite(parts))
            e.stopAbove = parts;
    if (now->duty != schematic::Duty::Output) return;
    const TypeSection& type = catalogue.valve(b.bottles[now->bottle].type)->section(now->section);
    // Plate watts and cathode current as published for the type, whichever comes first at these volts. The screen's
    // share of the current is left to the plate: on the safe side.
    const auto mostAmps = [&](double plate) {
        return std::min(type.limits.plateWatts > 0 ? type.limits.plateWatts / std::max(50.0, plate) : INFINITY,
                        type.limits.cathodeAmps > 0 ? type.limits.cathodeAmps : INFINITY);
    };
    const auto stopAt = [&](double volts) {
        if (std::isfinite(volts))
            e.stopAbove = std::min(e.stopAbove.value_or(INFINITY), volts); // else none is published
    };
    if (e.point.kind == PointKind::Sense && now->senseOhms > 0) stopAt(mostAmps(now->plate) * now->senseOhms);
    if (e.point.kind == PointKind::Cathode && now->selfBiasOhms > 0)
        stopAt(mostAmps(now->plate - now->cathode) * now->selfBiasOhms * now->sharing);
    if (e.point.kind != PointKind::Grid) return;
    if (e.band.known()) { // a meter's zero, and a valve's own grid current, are not a fault
        e.band.low = std::min(e.band.low, e.band.nominal - gridReach);
        e.band.high = std::max(e.band.high, e.band.nominal + gridReach);
    }
    // A grid that is meant to stand above ground is driven there by the plan; any other is not.
    if (!(now->grid > positiveGrid)) stopAt(positiveGrid);
    if (there->adjuster >= 0 && type.limits.plateWatts > 0) // less negative, and the plate is at its published watts
        stopAt(gridForWatts(type, there->plate, there->screen, type.limits.plateWatts));
}

void heaterLimit(const Build& b, const Steady& steady, Expectation& e) {
    // A winding without a heater on it harms nothing; with one, the heater's own limit.
    std::map<std::string, double> strings; // in series their volts add
    for (const HeaterFigures& h : steady.heaters) {
        if (h.winding != b.transformer.heaters[e.point.index].id) continue;
        const double rated = h.string.empty() ? h.ratedVolts : strings[h.string] += h.ratedVolts;
        if (h.string.empty()) e.stopAbove = std::min(e.stopAbove.value_or(INFINITY), heaterGrace * rated);
    }
    for (const auto& [string, rated] : strings)
        e.stopAbove = std::min(e.stopAbove.value_or(INFINITY), heaterGrace * rated);
}

/// "C1 is rated 350 V".
std::string ratedWords(const NodeRating& r) {
    return fmt::format("{} is rated {}", upper(r.capacitor), format(r.volts, Unit::Volt));
}

} // namespace

NodeRating nodeRating(const Build& b, int node) {
    NodeRating out;
    for (std::size_t k = 0; k < b.supply.sections.size(); ++k) {
        const Section& s = b.supply.sections[k];
        if (s.kind != SectionKind::Capacitor || nodeOfSection(b.supply, k) != node) continue;
        if (const double volts = stringVolts(s); volts < out.volts) out = {volts, s.id};
    }
    return out;
}

void setStopLimits(const Build& b, const Catalogue& catalogue, PowerStage& stage) {
    // Before the output valves go in, what they will meet: full mains, adjusters cold.
    std::optional<Steady> in = stage.steady;
    if (stage.steady && !stage.conditions.outputsIn)
        if (auto later = solveSteady(b, catalogue, stageConditions(b, 5, stage.conditions.mainsVolts))) in = *later;
    for (Expectation& e : stage.expectations) {
        if (e.point.kind == PointKind::Held) {
            heldLimits(e);
            continue;
        }
        if (!stage.powered) {
            coldLimits(b, e);
            continue;
        }
        e.ifStopped = switchOff;
        switch (e.point.kind) {
        case PointKind::Node:
            if (const NodeRating r = nodeRating(b, static_cast<int>(e.point.index)); std::isfinite(r.volts))
                e.stopAbove = r.volts;
            break;
        case PointKind::StringVolts: e.stopAbove = b.supply.sections[e.point.index].volts; break;
        case PointKind::Grid:
        case PointKind::Cathode:
        case PointKind::Sense:
            if (stage.steady) valveLimits(b, catalogue, *stage.steady, *in, e);
            break;
        case PointKind::HeaterVolts:
            if (stage.steady) heaterLimit(b, *stage.steady, e);
            break;
        default: break;
        }
    }
}

std::vector<std::string> refusalsOf(const Build& b, const PowerStage& stage) {
    std::vector<std::string> out;
    if (!stage.powered) return out;
    const auto volts = [](double v) { return format(v, Unit::Volt); };
    std::set<std::size_t> said;
    const auto node = [&](std::size_t k, double most, const char* when) {
        const NodeRating r = nodeRating(b, static_cast<int>(k));
        if (most > r.volts && said.insert(k).second)
            out.push_back(
                fmt::format("Do not switch on: B+{} will stand at {}{}, {}. Exchange it, or lower the volts, first.", k,
                            volts(most), when, ratedWords(r)));
    };
    // The highest it stands at: before the valves draw, where the rectifier is in; then what this step's meter reads.
    if (stage.cold)
        for (std::size_t k = 0; k < stage.cold->nodes.size(); ++k)
            node(k + 1, stage.cold->nodes[k].most, " until the valves are warm");
    for (const Expectation& e : stage.expectations) {
        if (!e.stopAbove || !e.band.known()) continue;
        if (e.point.kind == PointKind::Node)
            node(e.point.index, e.band.high, "");
        else if (e.band.nominal > *e.stopAbove)
            out.push_back(fmt::format(
                "Do not switch on: {} will read {}, and the step ends above {}. Change the plan, and the "
                "amplifier, first.",
                e.point.label, format(e.band.nominal, e.point.unit()), format(*e.stopAbove, e.point.unit())));
    }
    return out;
}

} // namespace ember::procedure
