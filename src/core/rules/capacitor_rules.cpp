// Ripple current through the supply's capacitors, and the volts of those that feed and filter the bias.
#include "findings.h"

#include "remedies.h"

#include "core/build/path.h"
#include "core/plan/bias_range.h"
#include "core/quantity/letters.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

namespace ember::rules {

namespace {

/// What general-purpose electrolytics of 350 to 450 V are made for at 100 Hz and 85 degrees [A RMS]: 25 mA at 1 uF, and
/// with the 0.68th power of the capacitance, along the lower edge of published series (10 uF 0.12 A, 47 uF 0.34 A,
/// 220 uF 1 A). IEC 60384-4 has each maker state it.
double usualRippleAmps(double farads) {
    return 0.025 * std::pow(farads * 1e6, 0.68);
}

void rippleRule(const Build& b, const plan::Figures& f, std::vector<Finding>& out) {
    for (const Section& s : b.supply.sections) {
        const auto flows = f.high->capacitorRipple.find(s.id);
        if (s.kind != SectionKind::Capacitor || flows == f.high->capacitorRipple.end()) continue;
        const std::string id = "ripple-amps/" + s.id;
        if (s.rippleAmps > 0) {
            againstLimit(out, id, upper(s.id) + "'s ripple current", flows->second, s.rippleAmps, Unit::Ampere,
                         "With mains at the high end; beyond it a capacitor cooks. One made for more, two side by side "
                         "in place of it, or more resistance before it.");
            continue;
        }
        const double usual = usualRippleAmps(s.capacitance);
        if (!(flows->second > usual)) continue;
        out.push_back(finding(
            "supply", id, flows->second > 1.5 * usual ? Level::Warn : Level::Note,
            fmt::format("{} carries {} of ripple", upper(s.id), format(flows->second, Unit::Ampere)),
            fmt::format("With mains at the high end; electrolytics of {} are commonly made for {}. Buy one whose maker "
                        "states more, and enter it (Edit, Every value: \"rippleAmps\").",
                        format(s.capacitance, Unit::Farad), format(usual, Unit::Ampere))));
    }
}

struct BiasCapacitor {
    const CapacitorPart& part;
    double plan::Steady::*stands;
    const char* key;
};

void biasVoltsRule(const Build& b, const plan::Figures& f, std::vector<Finding>& out) {
    for (const BiasCapacitor& c : {BiasCapacitor{b.bias.reservoir, &plan::Steady::biasReservoir, "reservoir"},
                                   BiasCapacitor{b.bias.second, &plan::Steady::biasRail, "second"}}) {
        double most = 0;
        for (const auto* s : {&f.cold, &f.high})
            if (*s && std::isfinite((**s).*c.stands)) most = std::max(most, std::abs((**s).*c.stands));
        if (!(most > 0.9 * c.part.volts)) continue;
        Finding x =
            finding("bias", "capacitor-volts/" + c.part.id, most > c.part.volts ? Level::Stop : Level::Warn,
                    upper(c.part.id) + (most > c.part.volts ? " is over its rating" : " is near its rating"),
                    fmt::format("{} of {} with mains at the high end. If it fails, the output valves lose their "
                                "bias.",
                                format(most, Unit::Volt), format(c.part.volts, Unit::Volt)));
        if (const auto better = nextVolts(most))
            x.fix = setValue(fmt::format("use {}", format(*better, Unit::Volt)), fmt::format("/bias/{}/volts", c.key),
                             *better);
        out.push_back(std::move(x));
    }
}

/// The capacitor from the plate winding charges to the winding's crest, and the winding swings as far again.
void feedCapacitorRule(const Build& b, const plan::Figures& f, std::vector<Finding>& out) {
    if (b.bias.from != BiasSource::PlateCapacitor || !f.cold) return;
    const double crest = std::sqrt(2.0) * f.cold->legVolts, most = crest + std::abs(f.cold->biasReservoir);
    if (!(most > 0.9 * b.bias.feedVolts)) return;
    Finding x = finding(
        "bias", "capacitor-volts/bias-feed", most > b.bias.feedVolts ? Level::Stop : Level::Warn,
        fmt::format("The capacitor that feeds the bias is {} its rating", most > b.bias.feedVolts ? "over" : "near"),
        fmt::format("Up to {} across it with mains at the high end, rated {}. Shorted, it lays the "
                    "HV winding on the bias supply.",
                    format(most, Unit::Volt), format(b.bias.feedVolts, Unit::Volt)));
    for (const double rating : {400.0, 630.0, 1000.0, 1600.0, 2000.0})
        if (!x.fix && rating >= most / 0.9)
            x.fix = setValue(fmt::format("use {}", format(rating, Unit::Volt)), "/bias/feedVolts", rating);
    out.push_back(std::move(x));
}

/// The track of a bias pot carries the rail's current all day.
void adjusterRule(const Build& b, const plan::Figures& f, std::vector<Finding>& out) {
    constexpr double carbon = 0.1, cermet = 0.5; // [W] that small trimmers are commonly made for
    if (adjustersOf(b).empty() || !f.cold || !std::isfinite(f.cold->biasRail)) return;
    const double amps = std::abs(f.cold->biasRail) / (b.bias.adjuster + b.bias.floor),
                 watts = amps * amps * b.bias.adjuster;
    if (!(watts > carbon)) return;
    out.push_back(finding("bias", "adjuster-watts", watts > cermet ? Level::Warn : Level::Note,
                          "The bias pots' tracks run warm",
                          fmt::format("{} in each track of {}; small carbon trimmers are made for {}, cermet ones for "
                                      "{}. A larger track or a larger resistor at its end draws less.",
                                      format(watts, Unit::Watt), format(b.bias.adjuster, Unit::Ohm),
                                      format(carbon, Unit::Watt), format(cermet, Unit::Watt))));
}

} // namespace

void capacitorRules(const Build& b, const Catalogue&, const plan::Figures& f, std::vector<Finding>& out) {
    if (!f.high) return;
    rippleRule(b, f, out);
    if (!biasIsFed(b.bias, b.transformer) || adjustersOf(b).empty()) return;
    biasVoltsRule(b, f, out);
    feedCapacitorRule(b, f, out);
    adjusterRule(b, f, out);
}

} // namespace ember::rules
