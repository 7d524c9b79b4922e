// The rectifier and the taps' diodes against their published limits.
#include "findings.h"

#include "remedies.h"

#include "core/build/build_json.h"
#include "core/plan/supply_circuit.h"
#include "core/quantity/letters.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember::rules {

namespace {

/// A silicon diode is trusted with 60 % of its inverse rating: the mains carries impulses of 1.5 to 2.5 kV (IEC
/// 60664-1, overvoltage category II), of which the winding passes on its share; in a string the same margin covers that
/// the diodes do not share evenly. A valve's published limit is its own.
double inverseLimit(const RectifierType& type, int inSeries) {
    return type.inverseVolts * inSeries * (type.vacuum ? 1 : 0.6);
}
int inSeriesFor(const RectifierType& type, double inverse) {
    int n = 1;
    while (n < 20 && inverse > 0.9 * inverseLimit(type, n)) ++n;
    return n;
}

/// The smallest of the catalogue that bears both, heated from the winding that is there; else a silicon string.
std::optional<Edit> anotherRectifier(const Build& b, const Catalogue& catalogue, double mean, double inverse) {
    const RectifierType& now = *catalogue.rectifier(b.supply.rectifier.type);
    const RectifierType* best = nullptr;
    for (const RectifierType& r : catalogue.rectifiers) {
        const bool heated = std::any_of(b.transformer.heaters.begin(), b.transformer.heaters.end(), [&](const auto& w) {
            return w.feeds == "rectifier" && std::abs(now.heater.volts - r.heater.volts) < 0.1 &&
                   r.heater.amps <= w.amps;
        });
        if (!r.vacuum || !now.vacuum || !heated || r.dcAmps < mean / 0.9 || r.inverseVolts < inverse / 0.9) continue;
        if (!best || r.dcAmps < best->dcAmps) best = &r;
    }
    if (best) return setText("use a " + best->type, "/supply/rectifier/type", best->type);
    const RectifierType& silicon = *catalogue.rectifier("silicon");
    const int n = inSeriesFor(silicon, inverse);
    if (silicon.dcAmps < mean / 0.9 || n >= 20) return std::nullopt;
    return together(n == 1 ? "use silicon" : fmt::format("use silicon, {} in series", n),
                    {setText("", "/supply/rectifier/type", "silicon"), setWhole("", "/supply/rectifier/inSeries", n)});
}

/// What stands in each leg before the rectifier: copper of both windings and the resistor of the lead [ohm].
double legOhms(const Build& b) {
    const PowerTransformer t = plan::asComputed(b.transformer);
    const double ratio = t.plateVolts / t.primaryVolts;
    return t.plateResistance + t.primaryResistance * ratio * ratio + b.supply.rectifier.legResistance;
}

Edit moreInEachLeg(const Build& b, double added) {
    const double ohms = nextUp(b.supply.rectifier.legResistance + added, Series::E12);
    return setValue(fmt::format("{} in each leg", format(ohms, Unit::Ohm)), "/supply/rectifier/legResistance", ohms);
}

void firstCapacitorRule(const Build& b, const RectifierType& type, const std::string& name, std::vector<Finding>& out) {
    const Section& first = b.supply.sections[0];
    if (!(type.firstCapacitor > 0) || !(first.capacitance / first.inSeries > type.firstCapacitor * 1.0001)) return;
    Finding x =
        finding("supply", "first-capacitor", Level::Warn, fmt::format("{} is large for {}", upper(first.id), name),
                fmt::format("{} after a {}; published up to {}. Each switch-on with a warm rectifier draws a "
                            "heavier surge.",
                            format(first.capacitance / first.inSeries, Unit::Farad), type.type,
                            format(type.firstCapacitor, Unit::Farad)));
    const double each = type.firstCapacitor * first.inSeries;
    x.fix = setValue(fmt::format("use {}", formatExact(each, Unit::Farad)), "/supply/sections/0/capacitance", each);
    out.push_back(std::move(x));
}

/// Published beside the largest first capacitor: with less in each leg, the surge into it is too much for the cathode.
void sourceOhmsRule(const Build& b, const RectifierType& type, const std::string& name, std::vector<Finding>& out) {
    const double ohms = legOhms(b), least = type.leastSourceOhms(b.transformer.plateVolts);
    if (ohms >= least) return;
    Finding x =
        finding("supply", "source-ohms", Level::Warn, fmt::format("{} has too little source resistance", name),
                fmt::format("{} in each leg, copper and all; a {} wants {} at least before a first capacitor at "
                            "{} per plate. A resistor in each leg makes up for it.",
                            format(ohms, Unit::Ohm), type.type, format(least, Unit::Ohm),
                            format(b.transformer.plateVolts, Unit::Volt)));
    x.fix = moreInEachLeg(b, least - ohms);
    out.push_back(std::move(x));
}

void tapRule(const Build& b, std::size_t k, const plan::Steady& s, const plan::Steady& cold, const Catalogue& catalogue,
             std::vector<Finding>& out) {
    const Section& tap = b.supply.sections[k];
    const RectifierType& type = *catalogue.rectifier(tap.type);
    const plan::TapFigures &f = s.taps.at(tap.id), &unloaded = cold.taps.at(tap.id);
    const std::string name = upper(tap.id), at = fmt::format("/supply/sections/{}", k);
    const double made = nextUp(f.rms / 0.9, Series::E12);
    againstLimit(out, "tap-amps/" + tap.id, name + "'s winding current", f.rms, tap.amps, Unit::Ampere,
                 "RMS: charging pulses heat more than their mean says.",
                 setValue(fmt::format("a tap made for {}", format(made, Unit::Ampere)), at + "/amps", made));
    const RectifierType& silicon = *catalogue.rectifier("silicon");
    const int n = inSeriesFor(silicon, unloaded.inverseVolts);
    const Edit toSilicon = together(fmt::format("use {} silicon diodes in series", n),
                                    {setText("", at + "/type", "silicon"), setWhole("", at + "/inSeries", n)});
    const auto fix = [&](bool helps) { return helps ? std::optional(toSilicon) : std::nullopt; };
    againstLimit(out, "tap-peak/" + tap.id, name + "'s rectifier peak current", f.peak, type.peakAmps, Unit::Ampere,
                 "A smaller capacitor behind it lowers it.", fix(type.vacuum));
    againstLimit(out, "tap-mean/" + tap.id, name + "'s rectifier", f.mean, type.dcAmps, Unit::Ampere,
                 "Mains at its high end, all valves drawing. Feed some of it from another node.", fix(type.vacuum));
    againstLimit(out, "tap-inverse/" + tap.id, name + "'s inverse volts", unloaded.inverseVolts,
                 inverseLimit(type, tap.inSeries), Unit::Volt, "More diodes in series share it.", toSilicon);
}

} // namespace

void rectifierRules(const Build& b, const Catalogue& catalogue, const plan::Figures& f, std::vector<Finding>& out) {
    if (!f.high || !f.nominal) return;
    const plan::Steady& s = *f.high;
    const RectifierType& type = *catalogue.rectifier(b.supply.rectifier.type);
    const std::string v = upper(b.supply.rectifier.id);
    const double inverse = f.cold ? f.cold->inverseVolts : s.inverseVolts;
    // Pulses of the same mean are the lower the wider: the peak goes with the resistance's power of about -0.4.
    const double wanted = legOhms(b) * (std::pow(s.rectifierPeak / (0.85 * type.peakAmps), 2.5) - 1);
    againstLimit(out, "rectifier-peak", v + " peak current", s.rectifierPeak, type.peakAmps, Unit::Ampere,
                 "A smaller first capacitor or more resistance in each leg lowers it.",
                 wanted > 0 ? std::optional(moreInEachLeg(b, wanted)) : std::nullopt);
    againstLimit(out, "rectifier-mean", v + " DC output", s.rectifierMean, type.dcAmps, Unit::Ampere,
                 "Mains at its high end, all valves drawing.",
                 anotherRectifier(b, catalogue, s.rectifierMean, inverse));
    againstLimit(out, "rectifier-inverse", v + " inverse volts", inverse,
                 inverseLimit(type, b.supply.rectifier.inSeries), Unit::Volt,
                 type.vacuum ? "Between plate and cathode while the other leg conducts."
                             : "While the other leg conducts. Of a silicon diode's rating only so much is counted: "
                               "transients of the mains come on top.",
                 anotherRectifier(b, catalogue, s.rectifierMean, inverse));
    if (b.supply.sections.empty()) return;
    if (b.supply.sections[0].kind == SectionKind::Capacitor) {
        firstCapacitorRule(b, type, v, out);
        sourceOhmsRule(b, type, v, out);
    }
    if (b.supply.rectifier.legResistance > 0)
        againstWatts(out, "leg-watts", v + "'s leg resistors run", s.legResistorWatts, b.supply.rectifier.legWatts,
                     "/supply/rectifier/legWatts");
    for (std::size_t k = 0; k < b.supply.sections.size(); ++k)
        if (b.supply.sections[k].kind == SectionKind::Tap) tapRule(b, k, s, f.cold ? *f.cold : s, catalogue, out);
}

} // namespace ember::rules
