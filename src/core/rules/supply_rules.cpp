#include "findings.h"

#include "remedies.h"

#include "core/build/build_json.h"
#include "core/plan/discharge.h"
#include "core/plan/supply_circuit.h"
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
        const double most = f.cold->nodes[static_cast<std::size_t>(nodeOfSection(b.supply, k) - 1)].most * s.volts /
                            plan::stringVolts(s);
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

} // namespace

void supplyRules(const Build& b, const Catalogue&, const plan::Figures& f, std::vector<Finding>& out) {
    capacitorVoltsRule(b, f, out);
    if (!f.high || !f.nominal) return;
    const plan::Steady& s = *f.high;
    const auto made = [](double carried) { return nextUp(carried / 0.9, Series::E12); };
    againstLimit(out, "winding-amps", "The plate winding's current", s.legRms, b.transformer.plateAmps, Unit::Ampere,
                 "RMS of one leg: charging pulses heat more than their mean says.",
                 setValue(fmt::format("a winding made for {}", format(made(s.legRms), Unit::Ampere)),
                          "/transformer/plateAmps", made(s.legRms)));
    for (std::size_t k = 0; k < b.supply.sections.size(); ++k) {
        const Section& part = b.supply.sections[k];
        const auto used = s.partWatts.find(part.id);
        if (part.kind == SectionKind::Resistor && used != s.partWatts.end())
            againstWatts(out, "resistor-watts/" + part.id, upper(part.id) + " runs", used->second, part.watts,
                         fmt::format("/supply/sections/{}/watts", k));
        if (part.kind != SectionKind::Choke) continue;
        const double direct = s.chokeAmps.at(part.id);
        againstLimit(out, "choke-amps/" + part.id, upper(part.id) + " direct current", direct, part.amps, Unit::Ampere,
                     fmt::format("Beyond it the core saturates: of its {} for ripple {} are left.",
                                 format(part.inductance, Unit::Henry),
                                 format(circuit::inductanceAt(plan::chokeOf(part), direct), Unit::Henry, 2)),
                     setValue(fmt::format("a choke made for {}", format(made(direct), Unit::Ampere)),
                              fmt::format("/supply/sections/{}/amps", k), made(direct)));
    }
    for (std::size_t k = 0; k < b.supply.bleeders.size(); ++k) {
        const ResistorPart& r = b.supply.bleeders[k].resistor;
        if (f.cold)
            againstWatts(out, "resistor-watts/" + r.id, upper(r.id) + " runs", f.cold->partWatts.at(r.id), r.watts,
                         fmt::format("/supply/bleeders/{}/resistor/watts", k));
    }
}

void dischargeRules(const Build& b, const Catalogue&, const plan::Figures& f, std::vector<Finding>& out) {
    const plan::CapacitorDischarge* c = f.discharge.slowest();
    if (!c || !f.cold || c->to50 <= plan::slowDischarge) return;
    const bool never = std::isnan(c->to50);
    // A capacitor that nothing takes down is lethal for hours: it stops the work, where one that is slow warns.
    Finding x = finding(
        "supply", "slow-discharge", never && c->start > plan::extraLowVolts ? Level::Stop : Level::Warn,
        fmt::format("{} {}", upper(c->id), never ? "has no path to discharge" : "is slow to discharge"),
        fmt::format("With the valves cold, or a fuse or switch open, {} holds {} and {}. Until a bleeder is in: {}",
                    upper(c->id), volts(c->start),
                    never ? "takes hours to fall" : "is below 50 V only after " + format(c->to50, Unit::Second),
                    plan::inWords(f.discharge.byHand)));
    if (c->node > 0) {
        double total = 0; // t = R C ln(V / 50), for 45 s with every capacitor seen at once
        for (const plan::CapacitorDischarge& all : f.discharge.capacitors)
            if (all.node > 0) total += all.farads;
        const double most = f.cold->nodes[static_cast<std::size_t>(c->node - 1)].most;
        x.fix = addBleeder(b, 45 / (total * std::log(std::max(60.0, most) / 50)), most, c->node);
    }
    out.push_back(std::move(x));
}

} // namespace ember::rules
