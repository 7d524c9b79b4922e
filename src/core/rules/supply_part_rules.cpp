// Findings about single parts of the chain and what they do to the stages.
#include "findings.h"

#include "core/build/build_json.h"
#include "core/quantity/letters.h"
#include "core/quantity/quantity.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember::rules {

namespace {

Finding start(std::string id, Level level, std::string title, std::string text) {
    return finding("supply", std::move(id), level, std::move(title), std::move(text));
}

/// Balancing resistors carry ten times half of what two electrolytics' leakages may differ by, 0.01 C V each (the bound
/// that makers publish): R = 1e7 / C with C in microfarads.
void balancingRule(const Build& b, std::vector<Finding>& out) {
    for (std::size_t k = 0; k < b.supply.sections.size(); ++k) {
        const Section& s = b.supply.sections[k];
        if (s.kind != SectionKind::Capacitor || s.inSeries < 2 || s.balancing > 0) continue;
        const double ohms = nextDown(1e7 / (s.capacitance * 1e6), Series::E12);
        Finding f =
            start("balancing/" + s.id, Level::Warn, fmt::format("{} has nothing to share its volts out", upper(s.id)),
                  fmt::format("{} capacitors in series divide the volts as their leakages do, and these differ by "
                              "any factor. {} across each carries ten times that difference.",
                              s.inSeries, format(ohms, Unit::Ohm)));
        f.fix = setValue(fmt::format("{} across each of {}", format(ohms, Unit::Ohm), upper(s.id)),
                         fmt::format("/supply/sections/{}/balancing", k), ohms);
        out.push_back(std::move(f));
    }
}

/// What a resistor's body bears whatever its watts: the usual published limits of film resistors by their size.
double limitingVolts(double watts) {
    return watts < 0.4 ? 250 : watts < 0.9 ? 350 : 500;
}

void resistorVoltsRule(const Build& b, const plan::Figures& f, std::vector<Finding>& out) {
    if (!f.cold) return;
    for (const Bleeder& x : b.supply.bleeders) {
        const double volts = f.cold->nodes[static_cast<std::size_t>(x.node - 1)].most,
                     most = limitingVolts(x.resistor.watts);
        if (volts <= most) continue;
        out.push_back(start(
            "resistor-volts/" + x.resistor.id, volts > 1.2 * most ? Level::Stop : Level::Warn,
            fmt::format("{} stands above its volts", upper(x.resistor.id)),
            fmt::format("{} across one resistor of {}; bodies of this size are made for {}. Two in series "
                        "of half the value share it.",
                        format(volts, Unit::Volt), format(x.resistor.watts, Unit::Watt), format(most, Unit::Volt))));
    }
}

/// Below R / (6 pi f) a choke that comes first lets its current stop, and the volts soar towards the crest.
void criticalChokeRule(const Build& b, const plan::Figures& f, std::vector<Finding>& out) {
    if (!f.nominal || b.supply.sections.empty() || b.supply.sections[0].kind != SectionKind::Choke) return;
    const Section& s = b.supply.sections[0];
    const double amps = f.nominal->rectifierMean;
    if (!(amps > 0)) return;
    const double ohms = f.nominal->nodes[0].mean / amps, least = ohms / (6 * std::numbers::pi * b.mains.frequency);
    if (s.inductance >= least) return;
    Finding x =
        start("critical-choke/" + s.id, Level::Warn, fmt::format("{} is below the critical inductance", upper(s.id)),
              fmt::format("{} where {} of load want {}: its current stops in each half period, and the volts rise "
                          "towards the crest as the load falls.",
                          format(s.inductance, Unit::Henry), format(ohms, Unit::Ohm), format(least, Unit::Henry)));
    x.fix = setValue(fmt::format("use {}", format(nextUp(least, Series::E6), Unit::Henry)),
                     "/supply/sections/0/inductance", nextUp(least, Series::E6));
    out.push_back(std::move(x));
}

/// Ripple on the first stage's supply, through its plate resistor against the valve, as volts at the grid; 75 dB below
/// the input for full power is heard as silence in a room.
void humBudgetRule(const Build& b, const Catalogue& catalogue, const plan::Figures& f, std::vector<Finding>& out) {
    if (!f.nominal) return;
    constexpr double budget = -75;
    for (std::size_t k = 0; k < b.channels.size() && k < f.power.size(); ++k) {
        const Channel& ch = b.channels[k];
        const ValveType* type = catalogue.valve(ch.small.type);
        const double input = f.power[k].clipInput;
        if (!type || !std::isfinite(input)) continue;
        const plan::ChannelPoint& p = f.nominal->channels[k];
        const ValveFigures v = figuresAt(type->law, p.plate1 - p.cathode1, -p.cathode1, 0);
        const double load = ch.voltageStage.plate.resistance;
        const double ripple = f.nominal->nodes[static_cast<std::size_t>(ch.smallNode - 1)].rippleRms;
        const double atGrid = ripple * v.rp / (v.rp + load) / (v.mu * load / (v.rp + load));
        const double db = 20 * std::log10(std::max(1e-12, atGrid / input));
        if (!(db > budget)) continue;
        out.push_back(
            start("hum-budget/" + ch.id, Level::Warn, fmt::format("{}'s supply hums", upper(ch.small.id)),
                  fmt::format("{} RMS of ripple at B+{} is {} at its grid, {:.0f} dB against the input for full "
                              "power; {:.0f} dB is silence. More capacitance or another section before it.",
                              format(ripple, Unit::Volt, 2), ch.smallNode, format(atGrid, Unit::Volt, 2), db, budget)));
    }
}

} // namespace

void supplyPartRules(const Build& b, const Catalogue& catalogue, const plan::Figures& f, std::vector<Finding>& out) {
    balancingRule(b, out);
    resistorVoltsRule(b, f, out);
    criticalChokeRule(b, f, out);
    humBudgetRule(b, catalogue, f, out);
}

/// The mains side: what the switch opens, where the fuse stands, what the transformer is for.
void mainsRules(const Build& b, const Catalogue& catalogue, const plan::Figures&, std::vector<Finding>& out) {
    if (b.mainsSwitch.breaks == Breaks::Neutral) {
        Finding x =
            start("switch-neutral", Level::Stop, "The mains switch opens the neutral alone",
                  fmt::format("Switched off, the primary stays at {} to earth. It opens the live conductor, or both; "
                              "the electrical code of your place says which.",
                              format(b.mains.volts, Unit::Volt)));
        x.fix = setText("the switch opens both", "/mainsSwitch/breaks", "both");
        out.push_back(std::move(x));
    }
    if (!b.mainsSwitch.fuseFirst) {
        Finding x =
            start("fuse-behind-switch", Level::Warn, "The fuse stands behind the switch",
                  "A fault in the switch or its leads is then not fused. The live conductor goes to the fuse first, "
                  "to its far terminal.");
        x.fix = setFlag("the fuse before the switch", "/mainsSwitch/fuseFirst", true);
        out.push_back(std::move(x));
    }
    const double off = b.mains.volts / b.transformer.primaryVolts - 1;
    if (std::abs(off) > 0.06)
        out.push_back(start(
            "other-mains", std::abs(off) > 0.12 ? Level::Stop : Level::Warn,
            fmt::format("{} is wound for {}", upper(b.transformer.id), format(b.transformer.primaryVolts, Unit::Volt)),
            fmt::format("On {} every winding gives {:.0f} % {}{}.", format(b.mains.volts, Unit::Volt),
                        100 * std::abs(off), off > 0 ? "more" : "less",
                        off > 0 ? ", and its core is driven towards saturation" : "")));
    const RectifierType* type = catalogue.rectifier(b.supply.rectifier.type);
    const bool own = std::any_of(b.transformer.heaters.begin(), b.transformer.heaters.end(),
                                 [](const HeaterWinding& h) { return h.feeds == "rectifier"; });
    if (type && type->vacuum && !own) {
        Finding x =
            start("rectifier-winding", Level::Stop,
                  fmt::format("{} has no heater winding of its own", upper(b.supply.rectifier.id)),
                  fmt::format("Its cathode stands at the full high voltage: a {} winding of its own, {}, shared with "
                              "nothing.",
                              format(type->heater.volts, Unit::Volt), format(type->heater.amps, Unit::Ampere)));
        x.fix = insertAt(fmt::format("add a winding of {}", format(type->heater.volts, Unit::Volt)),
                         "/transformer/heaters/-",
                         HeaterWinding{{},
                                       "h-rectifier",
                                       type->heater.volts * 1.04,
                                       0.02 * type->heater.volts,
                                       type->heater.amps * 1.2,
                                       "rectifier"});
        out.push_back(std::move(x));
    }
}

} // namespace ember::rules
