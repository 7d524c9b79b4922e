// The readings at which a stage ends. None is above a rating of what hangs there, whatever the band says.
#include "first_power.h"

#include "core/build/build_json.h"
#include "core/build/own_types.h"
#include "core/plan/bias_range.h"
#include "core/plan/supply_circuit.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>

namespace ember::procedure {

using namespace plan;

namespace {

// IEC 60065:2014, 10.4.2: insulation resistance at least 2 Mohm between the mains and accessible metal behind basic
// insulation, 4 Mohm where only reinforced insulation stands between.
constexpr double basicInsulation = 2e6, reinforcedInsulation = 4e6;
// IEC 62368-1:2018, 5.6.6: protective bonding of at most 0.1 ohm. Above 1 ohm there is no earth to speak of: leads and
// plug make up for less.
constexpr double earthOhms = 0.1, noEarthOhms = 1;
// IEC 61140:2016: 60 V DC is where extra-low voltage ends; a capacitor that holds more has not been discharged.
constexpr double extraLowVolts = 60;
// The published range of heater volts is 10 % either way for indirectly heated types.
constexpr double heaterGrace = 1.1;

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
    case PointKind::RailOhms: {
        // Better capacitors leak less: up to what the guaranteed paths alone leave, or without end where there are
        // none.
        Build sure = b;
        sure.supply = guaranteedPaths(b.supply);
        const double most = coldReading(sure, catalogueOf(sure), e.point);
        e.band.low = 0.5 * nominal;
        e.band.high = most < 1e8 ? most * (1 + share) : INFINITY;
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
    case PointKind::Node:
        e.band = {0, -1, dischargedVolts};
        e.stopAbove = extraLowVolts;
        e.stopBelow = -extraLowVolts;
        e.ifStopped = "The plan says unplugged: look at the plug, then discharge it and read again.";
        break;
    default: break;
    }
}

/// The lowest rating of what hangs on a supply node: its capacitors, each string at the share of its weakest.
double nodeRating(const Build& b, std::size_t node) {
    double rating = INFINITY;
    for (std::size_t k = 0; k < b.supply.sections.size(); ++k) {
        const Section& s = b.supply.sections[k];
        if (s.kind == SectionKind::Capacitor && nodeOfSection(b.supply, k) == static_cast<int>(node))
            rating = std::min(rating, stringVolts(s));
    }
    return rating;
}

const ValvePoint* valveAt(const Steady& s, const TestPoint& point) {
    for (const ChannelPoint& c : s.channels)
        for (const ValvePoint& v : c.valves)
            if (v.bottle == point.index && v.section == point.section) return &v;
    return nullptr;
}

/// `in`: what the plates and screens stand at with the output valves in.
void outputLimits(const Build& b, const Catalogue& catalogue, const Steady& s, const Steady& in, Expectation& e) {
    const ValvePoint *now = valveAt(s, e.point), *there = valveAt(in, e.point);
    if (!now || !there || now->duty != schematic::Duty::Output) return;
    const TypeSection& type = catalogue.valve(b.bottles[now->bottle].type)->section(now->section);
    // Plate watts and cathode current as published for the type, whichever comes first at these volts. The screen's
    // share of the current is left to the plate: on the safe side.
    const auto mostAmps = [&](double plate) {
        return std::min(type.limits.plateWatts > 0 ? type.limits.plateWatts / std::max(50.0, plate) : INFINITY,
                        type.limits.cathodeAmps > 0 ? type.limits.cathodeAmps : INFINITY);
    };
    const auto stopAt = [&](double amps, double ohms) {
        if (std::isfinite(amps)) e.stopAbove = amps * ohms; // else neither is published
    };
    if (e.point.kind == PointKind::Sense && now->senseOhms > 0) stopAt(mostAmps(now->plate), now->senseOhms);
    if (e.point.kind == PointKind::Cathode && now->selfBiasOhms > 0)
        stopAt(mostAmps(now->plate - now->cathode), now->selfBiasOhms * now->sharing);
    if (e.point.kind == PointKind::Grid && there->adjuster >= 0 && type.limits.plateWatts > 0) {
        // Less negative than this, and the plate is at its published watts once the valve is in and warm.
        const double hottest = gridForWatts(type, there->plate, there->screen, type.limits.plateWatts);
        if (std::isfinite(hottest)) e.stopAbove = hottest;
    }
}

void heaterLimit(const Build& b, const PowerStage& stage, Expectation& e) {
    // A winding without a heater on it harms nothing; with one, the heater's own limit.
    std::map<std::string, double> strings; // in series their volts add
    for (const HeaterFigures& h : stage.steady->heaters) {
        if (h.winding != b.transformer.heaters[e.point.index].id) continue;
        const double rated = h.string.empty() ? h.ratedVolts : strings[h.string] += h.ratedVolts;
        if (h.string.empty()) e.stopAbove = std::min(e.stopAbove.value_or(INFINITY), heaterGrace * rated);
    }
    for (const auto& [string, rated] : strings)
        e.stopAbove = std::min(e.stopAbove.value_or(INFINITY), heaterGrace * rated);
}

} // namespace

void setStopLimits(const Build& b, const Catalogue& catalogue, PowerStage& stage) {
    // Before the output valves go in, what they will meet: full mains, adjusters cold.
    std::optional<Steady> in = stage.steady;
    if (stage.powered && !stage.conditions.outputsIn)
        if (auto later = solveSteady(b, catalogue, stageConditions(b, 5, stage.conditions.mainsVolts))) in = *later;
    for (Expectation& e : stage.expectations) {
        if (!stage.powered) {
            coldLimits(b, e);
            continue;
        }
        e.ifStopped = switchOff;
        switch (e.point.kind) {
        case PointKind::Node:
            if (const double rating = nodeRating(b, e.point.index); std::isfinite(rating)) e.stopAbove = rating;
            break;
        case PointKind::Grid:
        case PointKind::Cathode:
        case PointKind::Sense: outputLimits(b, catalogue, *stage.steady, *in, e); break;
        case PointKind::HeaterVolts: heaterLimit(b, stage, e); break;
        default: break;
        }
    }
}

} // namespace ember::procedure
