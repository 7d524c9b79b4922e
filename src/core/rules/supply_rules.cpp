#include "findings.h"

#include "core/build/build_json.h"
#include "core/quantity/letters.h"
#include "core/quantity/quantity.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

namespace ember::rules {

namespace {

std::string volts(double v) {
    return format(v, Unit::Volt);
}
template <std::size_t N>
std::optional<double> nextOf(const std::array<double, N>& standard, double least) {
    for (const double v : standard)
        if (v >= least) return v;
    return std::nullopt;
}
constexpr std::array<double, 12> capacitorVolts{16, 25, 50, 63, 100, 160, 250, 350, 400, 450, 500, 600};
constexpr std::array<double, 10> resistorWatts{0.25, 0.5, 1, 2, 3, 5, 7, 10, 17, 25};

void capacitorVoltsRule(const Build& b, const plan::Figures& f, std::vector<Finding>& out) {
    if (!f.cold) return;
    for (std::size_t k = 0; k < b.supply.sections.size(); ++k) {
        const Section& s = b.supply.sections[k];
        if (s.kind != SectionKind::Capacitor) continue;
        // Of a string the one with the least capacitance takes the most, unless resistors share the volts out.
        const double uneven = s.inSeries > 1 ? 1 + (s.balancing > 0 ? 0.05 : s.tolerance) : 1;
        const double most =
            f.cold->nodes[static_cast<std::size_t>(nodeOfSection(b.supply, k) - 1)].most / s.inSeries * uneven;
        const double share = most / s.volts;
        if (!(share > 0.9)) continue;
        Finding x;
        x.id = "capacitor-volts/" + s.id;
        x.station = "supply";
        x.level = share > 1 ? Level::Stop : Level::Warn;
        x.title = fmt::format("{} is {} its rating when cold", upper(s.id), share > 1 ? "over" : "near");
        x.text = fmt::format("{} with mains at {} and no valve drawing yet; rated {} ({:.0f} %). It stands there at "
                             "every switch-on until the valves warm.",
                             volts(most), volts(b.mains.high), volts(s.volts), 100 * share);
        if (const auto better = nextOf(capacitorVolts, most / 0.9))
            x.fix =
                setValue(fmt::format("use {}", volts(*better)), fmt::format("/supply/sections/{}/volts", k), *better);
        out.push_back(std::move(x));
    }
}

void limit(std::vector<Finding>& out, const std::string& id, const std::string& what, double value, double most,
           Unit unit, const std::string& why) {
    if (!(most > 0) || !(value > 0.9 * most)) return;
    Finding x;
    x.id = id;
    x.station = "supply";
    x.level = value > most ? Level::Stop : Level::Warn;
    x.title = fmt::format("{} {}", what, value > most ? "is past its limit" : "is close to its limit");
    x.text = fmt::format("{} of {} ({:.0f} %). {}", format(value, unit), format(most, unit), 100 * value / most, why);
    out.push_back(std::move(x));
}

void watts(std::vector<Finding>& out, const std::string& id, double used, double rated, const std::string& pointer) {
    if (!(used > 0.5 * rated)) return;
    Finding x;
    x.id = "resistor-watts/" + id;
    x.station = "supply";
    x.level = used > rated ? Level::Stop : Level::Warn;
    x.title = fmt::format("{} runs {}", upper(id), used > rated ? "beyond its watts" : "hot");
    x.text = fmt::format(
        "{} in a {} part ({:.0f} %) with mains at its high end; half its rating is the usual ceiling inside a chassis.",
        format(used, Unit::Watt), format(rated, Unit::Watt), 100 * used / rated);
    if (const auto better = nextOf(resistorWatts, 2 * used))
        x.fix = setValue(fmt::format("use {}", format(*better, Unit::Watt)), pointer, *better);
    out.push_back(std::move(x));
}

/// A string of diodes is trusted with four fifths of what its diodes bear one by one: they do not share evenly.
double inverseLimit(const RectifierType& type, int inSeries) {
    return type.inverseVolts * inSeries * (inSeries > 1 ? 0.8 : 1);
}

void tapRule(const Section& tap, const plan::Steady& s, const plan::Steady& cold, const RectifierType& silicon,
             std::vector<Finding>& out) {
    const plan::TapFigures &f = s.taps.at(tap.id), &unloaded = cold.taps.at(tap.id);
    const std::string name = upper(tap.id);
    limit(out, "tap-amps/" + tap.id, name + "'s winding current", f.rms, tap.amps, Unit::Ampere,
          "RMS: charging pulses heat more than their mean says.");
    limit(out, "tap-mean/" + tap.id, name + "'s diodes", f.mean, silicon.dcAmps, Unit::Ampere,
          "Mains at its high end, all valves drawing.");
    limit(out, "tap-inverse/" + tap.id, name + "'s inverse volts", unloaded.inverseVolts,
          inverseLimit(silicon, tap.inSeries), Unit::Volt, "More diodes in series share it.");
}

} // namespace

void supplyRules(const Build& b, const Catalogue& catalogue, const plan::Figures& f, std::vector<Finding>& out) {
    capacitorVoltsRule(b, f, out);
    if (!f.high || !f.nominal) return;
    const plan::Steady& s = *f.high;
    const RectifierType& type = *catalogue.rectifier(b.supply.rectifier.type);
    const std::string v = upper(b.supply.rectifier.id);
    limit(out, "rectifier-peak", v + " peak current", s.rectifierPeak, type.peakAmps, Unit::Ampere,
          "A smaller first capacitor or more resistance in each leg lowers it.");
    limit(out, "rectifier-mean", v + " DC output", s.rectifierMean, type.dcAmps, Unit::Ampere,
          "Mains at its high end, all valves drawing.");
    limit(out, "rectifier-inverse", v + " inverse volts", f.cold ? f.cold->inverseVolts : s.inverseVolts,
          inverseLimit(type, b.supply.rectifier.inSeries), Unit::Volt,
          "Between plate and cathode while the other leg conducts.");
    limit(out, "winding-amps", "The plate winding's current", s.legRms, b.transformer.plateAmps, Unit::Ampere,
          "RMS of one leg: charging pulses heat more than their mean says.");
    if (!b.supply.sections.empty() && b.supply.sections[0].kind == SectionKind::Capacitor && type.firstCapacitor > 0 &&
        b.supply.sections[0].capacitance / b.supply.sections[0].inSeries > type.firstCapacitor * 1.0001) {
        Finding x;
        x.id = "first-capacitor";
        x.station = "supply";
        x.title = fmt::format("{} is large for {}", upper(b.supply.sections[0].id), v);
        x.text = fmt::format(
            "{} after a {}; published up to {}. Each switch-on with a warm rectifier draws a heavier surge.",
            format(b.supply.sections[0].capacitance, Unit::Farad), type.type, format(type.firstCapacitor, Unit::Farad));
        x.fix = setValue(fmt::format("use {}", formatExact(type.firstCapacitor, Unit::Farad)),
                         "/supply/sections/0/capacitance", type.firstCapacitor);
        out.push_back(std::move(x));
    }
    for (std::size_t k = 0; k < b.supply.sections.size(); ++k) {
        const Section& part = b.supply.sections[k];
        const auto used = s.partWatts.find(part.id);
        if (part.kind == SectionKind::Resistor && used != s.partWatts.end())
            watts(out, part.id, used->second, part.watts, fmt::format("/supply/sections/{}/watts", k));
        if (part.kind == SectionKind::Tap) tapRule(part, s, f.cold ? *f.cold : s, *catalogue.rectifier("silicon"), out);
        if (part.kind == SectionKind::Choke)
            limit(out, "choke-amps/" + part.id, upper(part.id) + " direct current", s.chokeAmps.at(part.id), part.amps,
                  Unit::Ampere, "Beyond it the core saturates and the ripple rises.");
    }
    for (std::size_t k = 0; k < b.supply.bleeders.size(); ++k) {
        const ResistorPart& r = b.supply.bleeders[k].resistor;
        if (f.cold)
            watts(out, r.id, f.cold->partWatts.at(r.id), r.watts, fmt::format("/supply/bleeders/{}/resistor/watts", k));
    }
    for (const plan::HeaterFigures& h : s.heaters) {
        const ValveType* valve = catalogue.valve(h.valve);
        const double rated = valve ? valve->heater.volts : type.heater.volts;
        const double off = f.nominal->heaters[static_cast<std::size_t>(&h - s.heaters.data())].volts / rated - 1;
        if (std::abs(off) < 0.05) continue;
        Finding x;
        x.id = "heater-volts/" + h.winding + "/" + h.valve;
        x.station = "supply";
        x.level = std::abs(off) > 0.1 ? Level::Stop : Level::Warn;
        x.title = fmt::format("{} heaters run {:.0f} % {}", h.valve, 100 * std::abs(off), off > 0 ? "high" : "low");
        x.text = fmt::format("{} at nominal mains, {} at the high end; rated {}.", volts(rated * (1 + off)),
                             volts(h.volts), volts(rated));
        out.push_back(std::move(x));
    }
}

void dischargeRules(const Build& b, const Catalogue&, const plan::Figures& f, std::vector<Finding>& out) {
    if (f.switchOffCold.seconds.empty() || !f.cold) return;
    double slowest = 0;
    for (std::size_t n = 0; n < f.switchOffCold.nodes.size(); ++n) {
        const double t = f.switchOffCold.below(n, 50);
        slowest = std::isnan(t) ? INFINITY : std::max(slowest, t);
    }
    if (slowest <= 60) return;
    double total = 0;
    for (const Section& s : b.supply.sections)
        if (s.kind == SectionKind::Capacitor) total += s.capacitance / s.inSeries;
    Finding x;
    x.id = "slow-discharge";
    x.station = "supply";
    x.title = "Slow to discharge";
    x.text = fmt::format("With the valves cold or pulled the first capacitor falls from {} to 50 V only after {}: "
                         "nothing but its own leakage drains it.",
                         volts(f.cold->nodes[0].mean),
                         std::isinf(slowest) ? "10 minutes and more" : format(slowest, Unit::Second));
    // t = R C ln(V / 50), for 45 s with every capacitor seen at once.
    const double v = f.cold->nodes[0].most;
    const double ohms = nextDown(45 / (total * std::log(v / 50)), Series::E12);
    const double rating = nextOf(resistorWatts, 2 * v * v / ohms).value_or(25);
    const std::string id = fmt::format("rb{}", b.supply.bleeders.size() + 1);
    const Bleeder bleeder{{}, 1, {{}, id, ohms, rating, 0.05}};
    x.fix = insertAt(fmt::format("add a bleeder of {}, {}", formatExact(ohms, Unit::Ohm), format(rating, Unit::Watt)),
                     "/supply/bleeders/-", bleeder);
    out.push_back(std::move(x));
}

} // namespace ember::rules
