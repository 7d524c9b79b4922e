#include "sought_figures.h"

#include "discharge.h"
#include "solve.h"
#include "stage_figures.h"

#include "core/quantity/letters.h"

#include <fmt/format.h>

#include <cmath>

namespace ember::plan {

namespace {

class Adder {
  public:
    Adder(std::vector<SoughtFigure>& to, SoughtGroup of) : out(to), group(of) {}
    void operator()(std::string id, std::string label, Unit unit, double value) {
        out.push_back({{std::move(id), std::move(label), unit, value, true}, group});
    }

  private:
    std::vector<SoughtFigure>& out;
    SoughtGroup group;
};

void atRest(const Build& b, const Steady& s, std::vector<SoughtFigure>& out) {
    for (NamedFigure& f : namedFigures(b, s)) out.push_back({std::move(f), SoughtGroup::Rest});
    Adder add(out, SoughtGroup::Rest);
    for (const ChannelPoint& p : s.channels)
        for (const ValvePoint& v : p.valves) {
            const std::string& bottle = b.bottles[v.bottle].id;
            const bool several =
                v.section > 1 || std::any_of(p.valves.begin(), p.valves.end(), [&](const ValvePoint& x) {
                    return x.bottle == v.bottle && x.section != v.section;
                });
            const std::string id = fmt::format("{}.{}.", bottle, v.section),
                              label = several ? fmt::format("{} section {} ", upper(bottle), v.section)
                                              : upper(bottle) + " ";
            add(id + "plate", label + "plate", Unit::Volt, v.plate);
            add(id + "cathode", label + "cathode", Unit::Volt, v.cathode);
            add(id + "grid", label + "grid", Unit::Volt, v.grid);
            add(id + "bias", label + "grid to cathode", Unit::Volt, v.grid - v.cathode);
            if (std::isfinite(v.screen)) add(id + "screen", label + "screen", Unit::Volt, v.screen);
            add(id + "amps", label + "plate current", Unit::Ampere, v.plateAmps);
            if (v.duty != schematic::Duty::Output) // theirs are among namedFigures()
                add(id + "watts", label + "plate heat", Unit::Watt, v.plateWatts());
        }
}

/// With nullptr for the solved state: the names alone.
void signals(const Build& b, const Catalogue& catalogue, const Steady* s, std::vector<SoughtFigure>& out) {
    Adder add(out, SoughtGroup::Signals);
    std::vector<std::vector<StageFigures>> stages;
    if (s) stages = stageFigures(b, catalogue, *s, {});
    for (std::size_t k = 0; k < b.channels.size(); ++k) {
        const Channel& ch = b.channels[k];
        const Ports ports = s ? portsOf(b, catalogue, *s, k) : Ports{};
        const ResponseEnds ends = s ? responseEnds(b, catalogue, *s, k) : ResponseEnds{};
        add(ch.id + ".gain", ch.name + " gain", Unit::None, ends.gain);
        add(ch.id + ".low", ch.name + " -3 dB, low end", Unit::Hertz, ends.low);
        add(ch.id + ".high", ch.name + " -3 dB, high end", Unit::Hertz, ends.high);
        add(ch.id + ".input", ch.name + " input impedance", Unit::Ohm, ports.inputOhms);
        add(ch.id + ".output", ch.name + " output impedance", Unit::Ohm, ports.outputOhms);
        for (std::size_t n = 0; n < ch.stages.size(); ++n) {
            if (schematic::dutyOf(ch.stages[n]) == schematic::Duty::Feedback) continue;
            const StageFigures f = s ? stages[k][n] : StageFigures{};
            const std::string id = fmt::format("{}.{}.", ch.id, ch.stages[n].id),
                              label = fmt::format("{} {} ", ch.name, ch.stages[n].id);
            add(id + "gain", label + "gain", Unit::None, f.gain);
            add(id + "input", label + "input impedance", Unit::Ohm, f.inputOhms);
            add(id + "output", label + "output impedance", Unit::Ohm, f.outputOhms);
        }
    }
}

void power(const Build& b, const Catalogue& catalogue, const Steady* s, std::vector<SoughtFigure>& out,
           const std::stop_token& stop) {
    Adder add(out, SoughtGroup::Power);
    std::vector<PowerFigures> all(b.channels.size());
    if (s) all = channelPower(b, catalogue, *s, stop);
    for (std::size_t k = 0; k < b.channels.size(); ++k) {
        const Channel& ch = b.channels[k];
        add(ch.id + ".watts", ch.name + " power at 3 % THD", Unit::Watt, all[k].cleanWatts);
        add(ch.id + ".volts", ch.name + " output at 3 % THD", Unit::Volt, all[k].cleanOutput);
        add(ch.id + ".sensitivity", ch.name + " input for 3 % THD", Unit::Volt, all[k].cleanInput);
        add(ch.id + ".clipwatts", ch.name + " power at clipping", Unit::Watt, all[k].clipWatts);
        add(ch.id + ".clipvolts", ch.name + " output at clipping", Unit::Volt, all[k].clipOutput);
        add(ch.id + ".clipinput", ch.name + " input for clipping", Unit::Volt, all[k].clipInput);
        add(ch.id + ".thd", ch.name + " THD at 1 W (a line: 1 V)", Unit::Percent, all[k].thdAtReference);
    }
}

void discharge(const Discharge* d, std::vector<SoughtFigure>& out) {
    double slowest = unknown;
    if (const CapacitorDischarge* c = d ? d->slowest() : nullptr)
        slowest = std::isfinite(c->to50) ? c->to50 : dischargeFollowed;
    Adder(out, SoughtGroup::Discharge)("discharge.seconds", "every capacitor below 50 V, valves cold", Unit::Second,
                                       slowest);
}

} // namespace

Expected<std::vector<SoughtFigure>> soughtFigures(const Build& b, const Catalogue& catalogue, SoughtGroup group,
                                                  double mainsVolts, std::stop_token stop, WarmStart* warm) {
    Conditions c;
    c.mainsVolts = mainsVolts;
    if (group == SoughtGroup::Discharge) c.mainsVolts = b.mains.high, c.smallIn = c.outputsIn = false;
    const auto s = solveSteady(b, catalogue, c, {.tolerance = 1e-5, .stop = stop}, warm);
    if (!s) return s.problem();
    std::vector<SoughtFigure> out;
    switch (group) {
    case SoughtGroup::Rest: atRest(b, *s, out); break;
    case SoughtGroup::Signals: signals(b, catalogue, &*s, out); break;
    case SoughtGroup::Power: power(b, catalogue, &*s, out, stop); break;
    case SoughtGroup::Discharge: {
        const auto d = dischargeOf(b, *s, stop);
        if (!d) return d.problem();
        discharge(&*d, out);
        break;
    }
    }
    if (stop.stop_requested()) return Problem{"", "cancelled"};
    return out;
}

std::vector<SoughtFigure> soughtNames(const Build& b, const Catalogue& catalogue, const Steady& steady) {
    std::vector<SoughtFigure> out;
    atRest(b, steady, out);
    signals(b, catalogue, nullptr, out);
    power(b, catalogue, nullptr, out, {});
    discharge(nullptr, out);
    return out;
}

} // namespace ember::plan
