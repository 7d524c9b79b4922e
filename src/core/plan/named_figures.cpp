#include "named_figures.h"

#include "bias_range.h"
#include "mains_iron.h"
#include "steady.h"
#include "supply_circuit.h"

#include "core/quantity/letters.h"

#include <fmt/format.h>

#include <cmath>

namespace ember::plan {

double copperWatts(const Build& b, const Steady& s) {
    const PowerTransformer t = asComputed(b.transformer);
    const double legs = b.supply.connection == Connection::CentreTapped ? 2 : 1;
    double watts = s.primaryRms * s.primaryRms * t.primaryResistance + legs * s.legRms * s.legRms * t.plateResistance;
    watts += heaterCopperWatts(t, s);
    if (legs == 1)
        for (const Section& tap : b.supply.sections)
            if (const auto f = s.taps.find(tap.id); tap.kind == SectionKind::Tap && f != s.taps.end())
                watts += f->second.rms * f->second.rms * asComputed(tap).resistance;
    return watts;
}

std::vector<NamedFigure> namedFigures(const Build& b, const Steady& s) {
    std::vector<NamedFigure> out;
    bool ofPart = false;
    const auto add = [&](std::string id, std::string label, Unit unit, double value) {
        out.push_back({std::move(id), std::move(label), unit, value, ofPart});
    };
    for (std::size_t n = 0; n < s.nodes.size(); ++n)
        add(fmt::format("b{}.mean", n + 1), fmt::format("B+{}", n + 1), Unit::Volt, s.nodes[n].mean);
    for (std::size_t n = 0; n < s.nodes.size(); ++n)
        add(fmt::format("b{}.ripple", n + 1), fmt::format("B+{} ripple, RMS", n + 1), Unit::Volt, s.nodes[n].rippleRms);
    add("rectifier.peak", upper(b.supply.rectifier.id) + " peak", Unit::Ampere, s.rectifierPeak);
    add("rectifier.mean", upper(b.supply.rectifier.id) + " output", Unit::Ampere, s.rectifierMean);
    add("rectifier.inverse", upper(b.supply.rectifier.id) + " inverse volts", Unit::Volt, s.inverseVolts);
    add("winding.rms", "plate winding, RMS", Unit::Ampere, s.legRms);
    add("mains.rms", "mains current", Unit::Ampere, s.primaryRms);
    add("mains.watts", "mains power", Unit::Watt, s.mainsWatts);
    add("mains.factor", "power factor", Unit::None, s.mainsWatts / (s.conditions.mainsVolts * s.primaryRms));
    const MainsIron iron = mainsIron(b, s);
    add("transformer.noload", upper(b.transformer.id) + " no-load current", Unit::Ampere, iron.noLoadAmps);
    add("transformer.flux", upper(b.transformer.id) + " flux over rated", Unit::None, iron.flux);
    add("transformer.core", upper(b.transformer.id) + " core heat", Unit::Watt, iron.coreWatts);
    add("transformer.copper", upper(b.transformer.id) + " copper heat", Unit::Watt, iron.copperWatts);
    ofPart = true;
    if (b.supply.rectifier.legResistance > 0)
        add("rectifier.leg", upper(b.supply.rectifier.id) + " leg resistor's heat", Unit::Watt, s.legResistorWatts);
    for (const auto& [id, watts] : s.partWatts) add(id + ".watts", upper(id) + " heat", Unit::Watt, watts);
    for (const auto& [id, amps] : s.capacitorRipple)
        add(id + ".ripple", upper(id) + " ripple current", Unit::Ampere, amps);
    for (const auto& [id, tap] : s.taps) {
        add(id + ".peak", upper(id) + " diodes' peak", Unit::Ampere, tap.peak);
        add(id + ".mean", upper(id) + " output", Unit::Ampere, tap.mean);
        add(id + ".rms", upper(id) + " winding, RMS", Unit::Ampere, tap.rms);
        add(id + ".inverse", upper(id) + " diodes' inverse volts", Unit::Volt, tap.inverseVolts);
    }
    for (const auto& [id, amps] : s.chokeAmps) add(id + ".amps", upper(id) + " direct current", Unit::Ampere, amps);
    if (std::isfinite(s.biasRail)) {
        const BiasRange range = biasRange(b.bias, s);
        add("bias.rail", "bias rail", Unit::Volt, s.biasRail);
        add("bias.coldest", "bias, coldest", Unit::Volt, range.coldest);
        add("bias.hottest", "bias, hottest", Unit::Volt, range.hottest);
    }
    for (const HeaterFigures& h : s.heaters)
        add(h.winding + "." + h.valve + ".heater", h.valve + " heaters", Unit::Volt, h.volts);
    for (const ChannelPoint& p : s.channels)
        for (const ValvePoint& v : p.valves)
            if (const Valve& bottle = b.bottles[v.bottle]; v.duty == schematic::Duty::Output)
                add(bottle.id + ".watts", upper(bottle.id) + " plate", Unit::Watt, v.plateWatts());
    return out;
}

} // namespace ember::plan
