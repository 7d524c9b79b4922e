#include "findings.h"

#include "remedies.h"

#include "core/build/build_json.h"
#include "core/quantity/letters.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace ember::rules {

namespace {

std::string volts(double v) {
    return format(v, Unit::Volt);
}
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
        if (const auto better = nextVolts(most))
            x.fix =
                setValue(fmt::format("use {}", volts(*better)), fmt::format("/supply/sections/{}/volts", k), *better);
        out.push_back(std::move(x));
    }
}

std::string amps(double a) {
    return format(a, Unit::Ampere);
}

} // namespace

void supplyRules(const Build& b, const Catalogue& catalogue, const plan::Figures& f, std::vector<Finding>& out) {
    capacitorVoltsRule(b, f, out);
    if (!f.high || !f.nominal) return;
    const plan::Steady& s = *f.high;
    const auto made = [](double carried) { return nextUp(carried / 0.9, Series::E12); };
    againstLimit(
        out, "winding-amps", "The plate winding's current", s.legRms, b.transformer.plateAmps, Unit::Ampere,
        "RMS of one leg: charging pulses heat more than their mean says.",
        setValue(fmt::format("a winding made for {}", amps(made(s.legRms))), "/transformer/plateAmps", made(s.legRms)));
    for (std::size_t k = 0; k < b.supply.sections.size(); ++k) {
        const Section& part = b.supply.sections[k];
        const auto used = s.partWatts.find(part.id);
        if (part.kind == SectionKind::Resistor && used != s.partWatts.end())
            againstWatts(out, "resistor-watts/" + part.id, upper(part.id) + " runs", used->second, part.watts,
                         fmt::format("/supply/sections/{}/watts", k));
        if (part.kind != SectionKind::Choke) continue;
        const double direct = s.chokeAmps.at(part.id);
        againstLimit(out, "choke-amps/" + part.id, upper(part.id) + " direct current", direct, part.amps, Unit::Ampere,
                     "Beyond it the core saturates and the ripple rises.",
                     setValue(fmt::format("a choke made for {}", amps(made(direct))),
                              fmt::format("/supply/sections/{}/amps", k), made(direct)));
    }
    for (std::size_t k = 0; k < b.supply.bleeders.size(); ++k) {
        const ResistorPart& r = b.supply.bleeders[k].resistor;
        if (f.cold)
            againstWatts(out, "resistor-watts/" + r.id, upper(r.id) + " runs", f.cold->partWatts.at(r.id), r.watts,
                         fmt::format("/supply/bleeders/{}/resistor/watts", k));
    }
    for (const plan::HeaterFigures& h : s.heaters) {
        const ValveType* valve = catalogue.valve(h.valve);
        const double rated = valve ? valve->heater.volts : catalogue.rectifier(h.valve)->heater.volts;
        const double off = f.nominal->heaters[static_cast<std::size_t>(&h - s.heaters.data())].volts / rated - 1;
        if (std::abs(off) < 0.05) continue;
        Finding x;
        x.id = "heater-volts/" + h.winding + "/" + h.valve;
        x.station = "supply";
        x.level = std::abs(off) > 0.1 ? Level::Stop : Level::Warn;
        x.title = fmt::format("{} heaters run {:.0f} % {}", h.valve, 100 * std::abs(off), off > 0 ? "high" : "low");
        x.text = fmt::format("{} at nominal mains, {} at the high end; rated {}.", volts(rated * (1 + off)),
                             volts(h.volts), volts(rated));
        for (std::size_t k = 0; k < b.transformer.heaters.size(); ++k) {
            if (b.transformer.heaters[k].id != h.winding) continue;
            const double better = std::round(20 * b.transformer.heaters[k].volts / (1 + off)) / 20;
            x.fix = setValue(fmt::format("a winding of {} without load", volts(better)),
                             fmt::format("/transformer/heaters/{}/volts", k), better);
        }
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
    x.fix = addBleeder(b, 45 / (total * std::log(f.cold->nodes[0].most / 50)), f.cold->nodes[0].most);
    out.push_back(std::move(x));
}

} // namespace ember::rules
