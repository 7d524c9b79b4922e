#include "named_figures.h"

#include "core/quantity/letters.h"

#include <fmt/format.h>

#include <cmath>

namespace ember::plan {

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
    ofPart = true;
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
    if (std::isfinite(s.biasRail)) add("bias.rail", "bias rail", Unit::Volt, s.biasRail);
    for (const HeaterFigures& h : s.heaters)
        add(h.winding + "." + h.valve + ".heater", h.valve + " heaters", Unit::Volt, h.volts);
    for (std::size_t k = 0; k < s.channels.size() && k < b.channels.size(); ++k) {
        const Channel& ch = b.channels[k];
        add(ch.pair.a.id + ".watts", upper(ch.pair.a.id) + " plate", Unit::Watt, s.channels[k].plateWattsA);
        add(ch.pair.b.id + ".watts", upper(ch.pair.b.id) + " plate", Unit::Watt, s.channels[k].plateWattsB);
    }
    return out;
}

} // namespace ember::plan
