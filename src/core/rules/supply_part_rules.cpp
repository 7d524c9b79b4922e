// Findings about single parts of the chain and what they do to the stages.
#include "findings.h"

#include "remedies.h"

#include "core/build/build_json.h"
#include "core/build/chain_edits.h"
#include "core/plan/heater_groups.h"
#include "core/quantity/letters.h"
#include "core/quantity/quantity.h"
#include "core/schematic/channel_parts.h"
#include "core/wires/hum.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember::rules {

namespace {

Finding start(std::string id, Level level, std::string title, std::string text) {
    return finding("supply", std::move(id), level, std::move(title), std::move(text));
}

/// Balancing resistors carry ten times what two electrolytics' leakages may differ by: 0.01 C V in microamperes, C in
/// microfarads, the bound that makers publish, where one leaks as much and the other nothing. R = 1e7 / C.
void balancingRule(const Build& b, std::vector<Finding>& out) {
    for (std::size_t k = 0; k < b.supply.sections.size(); ++k) {
        const Section& s = b.supply.sections[k];
        if (s.kind != SectionKind::Capacitor || s.inSeries < 2 || s.balancing > 0) continue;
        const double ohms = nextDown(1e7 / (s.capacitance * 1e6), Series::E12);
        Finding f =
            start("balancing/" + s.id, Level::Warn, fmt::format("{} has no balancing resistors", upper(s.id)),
                  fmt::format("{} capacitors in series divide the volts as their leakages do, and these differ by "
                              "any factor. {} across each carries ten times that difference.",
                              s.inSeries, format(ohms, Unit::Ohm)));
        f.fix = setValue(fmt::format("{} across each of {}", format(ohms, Unit::Ohm), upper(s.id)),
                         fmt::format("/supply/sections/{}/balancing", k), ohms);
        out.push_back(std::move(f));
    }
}

/// Each balancing resistor stands at its share of the string's volts all day; the parts list has them at 2 W.
void balancingPartsRule(const Build& b, const plan::Figures& f, std::vector<Finding>& out) {
    constexpr double rated = 2; // [W]
    if (!f.cold) return;
    for (std::size_t k = 0; k < b.supply.sections.size(); ++k) {
        const Section& s = b.supply.sections[k];
        if (s.kind != SectionKind::Capacitor || s.inSeries < 2 || !(s.balancing > 0)) continue;
        const double volts = f.cold->nodes[static_cast<std::size_t>(nodeOfSection(b.supply, k) - 1)].most / s.inSeries,
                     watts = volts * volts / s.balancing, most = limitingVolts(rated);
        if (!(watts > 0.5 * rated) && !(volts > most)) continue;
        const bool past = watts > rated || volts > 1.2 * most;
        Finding x =
            start("balancing-watts/" + s.id, past ? Level::Stop : Level::Warn,
                  fmt::format("{}'s balancing resistors run {}", upper(s.id), past ? "beyond their ratings" : "hot"),
                  fmt::format("{} and {} in each, mains high and valves cold; bodies of {} withstand {}. Larger ones "
                              "draw less; two in series in place of each share the volts.",
                              format(volts, Unit::Volt), format(watts, Unit::Watt), format(rated, Unit::Watt),
                              format(most, Unit::Volt)));
        const double least = volts * volts / (0.45 * rated), enough = nextUp(least, Series::E12);
        if (volts <= most &&
            enough <= 1e7 / (s.capacitance * 1e6)) // they still carry ten times the leakages' difference
            x.fix = setValue(fmt::format("{} across each", format(enough, Unit::Ohm)),
                             fmt::format("/supply/sections/{}/balancing", k), enough);
        out.push_back(std::move(x));
    }
}

Finding aboveItsVolts(const std::string& id, double volts, double watts, const char* when) {
    const double most = limitingVolts(watts);
    return start("resistor-volts/" + id, volts > 1.2 * most ? Level::Stop : Level::Warn,
                 fmt::format("{} is above its voltage rating", upper(id)),
                 fmt::format("{} across one resistor of {}{}; bodies of this size are made for {}. A larger body, or "
                             "several in series that share it.",
                             format(volts, Unit::Volt), format(watts, Unit::Watt), when, format(most, Unit::Volt)));
}

void resistorVoltsRule(const Build& b, const plan::Figures& f, std::vector<Finding>& out) {
    if (!f.cold) return;
    for (std::size_t k = 0; k < b.supply.bleeders.size(); ++k) {
        const Bleeder& x = b.supply.bleeders[k];
        const ResistorPart& r = x.resistor;
        const double volts = f.cold->nodes[static_cast<std::size_t>(x.node - 1)].most, each = volts / x.inSeries;
        if (each <= limitingVolts(r.watts)) continue;
        Finding found = aboveItsVolts(r.id, each, r.watts, "");
        const std::string at = fmt::format("/supply/bleeders/{}/", k);
        const int n = std::clamp(static_cast<int>(std::ceil(volts / limitingVolts(1))), 1, 8);
        const double ohms = nearest(r.resistance * x.inSeries / n, Series::E12);
        if (n <= x.inSeries)
            found.fix = setValue("use one of 1 W", at + "resistor/watts", 1);
        else
            found.fix = together(fmt::format("{} of {} in series, 1 W", n, format(ohms, Unit::Ohm)),
                                 {setWhole("", at + "inSeries", n), setValue("", at + "resistor/resistance", ohms),
                                  setValue("", at + "resistor/watts", std::max(1.0, r.watts))});
        out.push_back(std::move(found));
    }
}

/// A resistor of the chain stands at its highest while a switch-on fills what is behind it.
void chainResistorVoltsRule(const Build& b, const plan::Figures& f, std::vector<Finding>& out) {
    for (std::size_t k = 0; k < b.supply.sections.size(); ++k) {
        const Section& s = b.supply.sections[k];
        const auto node = static_cast<std::size_t>(nodeOfSection(b.supply, k));
        if (s.kind != SectionKind::Resistor || f.switchOn.nodes.size() <= node) continue;
        const auto &before = f.switchOn.nodes[node - 1], &behind = f.switchOn.nodes[node];
        double volts = 0;
        for (std::size_t t = 0; t < before.size(); ++t) volts = std::max(volts, before[t] - behind[t]);
        if (volts <= limitingVolts(s.watts)) continue;
        Finding x = aboveItsVolts(s.id, volts, s.watts, " while a switch-on fills what is behind it");
        if (volts <= limitingVolts(1)) {
            x.fix = setValue("use one of 1 W", fmt::format("/supply/sections/{}/watts", k), std::max(1.0, s.watts));
        } else { // two of half the value share it
            const double half = nearest(s.resistance / 2, Series::E12);
            std::vector<Edit> steps{insertSection(b, k, SectionKind::Resistor)};
            for (const std::size_t at : {k, k + 1}) {
                steps.push_back(setValue("", fmt::format("/supply/sections/{}/resistance", at), half));
                steps.push_back(setValue("", fmt::format("/supply/sections/{}/watts", at), std::max(1.0, s.watts)));
            }
            x.fix = together(fmt::format("two of {} in series", format(half, Unit::Ohm)), steps);
        }
        out.push_back(std::move(x));
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

/// The ripple at `node` lower by `factor`: that much more in the last capacitor up to there, or a section more.
std::optional<Edit> lessRipple(const Build& b, int node, double factor) {
    const auto& sections = b.supply.sections;
    for (std::size_t k = sections.size(); k-- > 0;) {
        if (sections[k].kind != SectionKind::Capacitor || nodeOfSection(b.supply, k) != node) continue;
        const double farads = nextUp(1.05 * factor * sections[k].capacitance, Series::E6);
        if (farads > 220e-6) break;
        return setValue(fmt::format("{} of {}", upper(sections[k].id), format(farads, Unit::Farad)),
                        fmt::format("/supply/sections/{}/capacitance", k), farads);
    }
    for (std::size_t k = 0; k < sections.size(); ++k) // before the part that leads to the node
        if (sections[k].kind != SectionKind::Capacitor && nodeOfSection(b.supply, k) == node - 1)
            return insertSection(b, k, SectionKind::Resistor);
    return std::nullopt;
}

/// Ripple as it reaches the load through every stage, from every node and the bias; 75 dB below the rated output is
/// heard as silence in a room.
void humBudgetRule(const Build& b, const plan::Figures& f, std::vector<Finding>& out) {
    if (!f.nominal || !f.wires) return;
    constexpr double budget = -75;
    for (const wires::ChannelHum& c : f.wires->hum.channels) {
        const double ripple = c.by[static_cast<std::size_t>(wires::HumSource::Ripple)],
                     db = 20 * std::log10(std::max(1e-12, ripple / c.rated));
        const Stage* stage = schematic::firstGain(b.channels[c.channel]);
        if (!(db > budget) || !stage) continue;
        Finding x = start(
            "hum-budget/" + b.channels[c.channel].id, Level::Warn,
            fmt::format("{}: the supply's ripple is heard", b.channels[c.channel].name),
            fmt::format(
                "It makes {} at the load, {:.0f} dB below the rated output; {:.0f} dB is silence. More capacitance or "
                "another section before B+{}.",
                format(ripple, Unit::Volt, 2), -db, -budget, stage->node));
        x.fix = lessRipple(b, stage->node, std::pow(10, (db - budget) / 20));
        out.push_back(std::move(x));
    }
}

} // namespace

void supplyPartRules(const Build& b, const Catalogue&, const plan::Figures& f, std::vector<Finding>& out) {
    balancingRule(b, out);
    balancingPartsRule(b, f, out);
    resistorVoltsRule(b, f, out);
    chainResistorVoltsRule(b, f, out);
    criticalChokeRule(b, f, out);
    humBudgetRule(b, f, out);
}

namespace {

/// A valve rectifier's cathode stands at its node's volts, `most` at the crest. One whose cathode is joined to its
/// heater shares its winding with nothing; one with a cathode of its own may share that of the others, as far as its
/// published heater to cathode volts reach.
void heatedRule(const Build& b, const Catalogue& catalogue, const std::string& feeds, const std::string& type,
                const std::string& id, double most, std::vector<Finding>& out) {
    const RectifierType* found = catalogue.rectifier(type);
    if (!found || !found->vacuum) return;
    for (const HeaterWinding& h : b.transformer.heaters)
        if (h.feeds == feeds) return;
    const Heater& heater = found->heater;
    std::string why =
        fmt::format("Its cathode stands at the full high voltage: a {} winding of its own, {}, shared with "
                    "nothing.",
                    format(heater.volts, Unit::Volt), format(heater.amps, Unit::Ampere));
    if (plan::sharedWindingOf(b.transformer, *found)) {
        if (!(found->heaterCathodeVolts > 0) || !(most > 0.9 * found->heaterCathodeVolts)) return;
        if (most <= found->heaterCathodeVolts) {
            out.push_back(start("rectifier-heater/" + id, Level::Warn,
                                fmt::format("{}'s cathode is close to its limit above its heater", upper(id)),
                                fmt::format("{} at the peak; {} is published between heater and cathode.",
                                            format(most, Unit::Volt), format(found->heaterCathodeVolts, Unit::Volt))));
            return;
        }
        why =
            fmt::format("{} at the peak between cathode and heater, where {} is published: give it a {} winding of its "
                        "own, {}.",
                        format(most, Unit::Volt), format(found->heaterCathodeVolts, Unit::Volt),
                        format(heater.volts, Unit::Volt), format(heater.amps, Unit::Ampere));
    }
    Finding x = start(feeds == "rectifier" ? "rectifier-winding" : "rectifier-winding/" + id, Level::Stop,
                      fmt::format("{} has no heater winding of its own", upper(id)), why);
    HeaterWinding own;
    own.id = "h-" + feeds;
    own.volts = heater.volts * 1.04;
    own.resistance = 0.01 * heater.volts / heater.amps;
    own.amps = heater.amps * 1.2;
    own.feeds = feeds;
    x.fix =
        insertAt(fmt::format("add a winding of {}", format(heater.volts, Unit::Volt)), "/transformer/heaters/-", own);
    out.push_back(std::move(x));
}

/// A lamp of far more watts than the transformer is rated for lets a fault burn it; one of far fewer starves the
/// heaters.
void limiterRule(const Build& b, std::vector<Finding>& out) {
    const double rated = ratedVoltAmperes(b.transformer, b.supply.connection), watts = b.limiter.watts;
    if (!(rated > 0) || !(watts > 2.5 * rated)) return;
    Finding x = start(
        "limiter-large", Level::Warn, "The limiter's lamp is large for this amplifier",
        fmt::format("Into a fault it lets {}, and {} is rated {:.0f} VA. A lamp of about that glows bright and holds "
                    "the fault back.",
                    format(watts / b.limiter.volts, Unit::Ampere), upper(b.transformer.id), rated));
    for (const double lamp : {300.0, 200.0, 150.0, 100.0, 60.0, 40.0, 25.0, 15.0})
        if (!x.fix && lamp <= 1.5 * rated)
            x.fix = setValue(fmt::format("use a lamp of {}", format(lamp, Unit::Watt)), "/limiter/watts", lamp);
    out.push_back(std::move(x));
}

} // namespace

/// The mains side: what the switch opens, where the fuse stands, what the transformer is for.
void mainsRules(const Build& b, const Catalogue& catalogue, const plan::Figures& f, std::vector<Finding>& out) {
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
    limiterRule(b, out);
    const double off = b.mains.volts / b.transformer.primaryVolts - 1;
    if (std::abs(off) > 0.06) {
        Finding x = start(
            "other-mains", std::abs(off) > 0.12 ? Level::Stop : Level::Warn,
            fmt::format("{} is wound for {}", upper(b.transformer.id), format(b.transformer.primaryVolts, Unit::Volt)),
            fmt::format("On {} every winding gives {:.0f} % {}{}.", format(b.mains.volts, Unit::Volt),
                        100 * std::abs(off), off > 0 ? "more" : "less",
                        off > 0 ? ", and its core is driven towards saturation" : ""));
        x.fix = setValue(fmt::format("one wound for {}", format(b.mains.volts, Unit::Volt)),
                         "/transformer/primaryVolts", b.mains.volts);
        out.push_back(std::move(x));
    }
    const auto most = [&](std::size_t node) { // of a build that has no solution: nothing is taken for safe
        return f.cold && node < f.cold->nodes.size() ? f.cold->nodes[node].most : INFINITY;
    };
    heatedRule(b, catalogue, "rectifier", b.supply.rectifier.type, b.supply.rectifier.id, most(0), out);
    for (std::size_t k = 0; k < b.supply.sections.size(); ++k)
        if (const Section& tap = b.supply.sections[k]; tap.kind == SectionKind::Tap)
            heatedRule(b, catalogue, tap.id, tap.type, tap.id,
                       most(static_cast<std::size_t>(nodeOfSection(b.supply, k))), out);
}

} // namespace ember::rules
