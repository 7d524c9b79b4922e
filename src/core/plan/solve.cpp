#include "solve.h"

#include "short_circuit.h"

#include "discharge.h"
#include "disturbance.h"
#include "impedance.h"
#include "mains_iron.h"
#include "source_model.h"
#include "stage_figures.h"
#include "supply_feedback.h"

#include "core/build/build_json.h"

#include "core/chassis/layout_figures.h"

#include <algorithm>
#include <future>

namespace ember::plan {

Figures solveFigures(const Build& b, const Catalogue& catalogue, std::stop_token stop, WarmStart* warm) {
    Figures f;
    const auto at = [&](double volts, bool valves, WarmStart start) {
        Conditions c;
        c.mainsVolts = volts;
        if (volts != b.mains.volts) // the range's ends, in the mains' shape too
            c.crest = volts > b.mains.volts ? std::numbers::sqrt2 : std::min(b.mains.crest, b.mains.flattest);
        c.smallIn = c.outputsIn = valves;
        auto s = solveSteady(b, catalogue, c, {.cycle = valves, .stop = stop}, &start);
        return std::pair(std::move(s), std::move(start));
    };
    const auto keep = [&](Expected<Steady>&& s, std::optional<Steady>& to) {
        if (s)
            to = std::move(*s);
        else
            f.failures.push_back(s.problem().text());
    };
    // On two processors: the supply without valves beside the nominal mains, then low beside high.
    auto cold =
        std::async(std::launch::async, at, b.mains.high, false, warm && warm->unloaded ? *warm->unloaded : WarmStart{});
    auto [nominal, start] = at(b.mains.volts, true, warm ? *warm : WarmStart{});
    auto high = std::async(std::launch::async, at, b.mains.high, true, start);
    keep(std::move(nominal), f.nominal);
    keep(at(b.mains.low, true, start).first, f.low);
    keep(high.get().first, f.high);
    keep(cold.get().first, f.cold);
    if (f.cold) start.unloaded = f.cold->end;
    if (warm) *warm = std::move(start);
    chassis::LayoutSolver layout;
    f.layout = std::make_shared<const chassis::LayoutFigures>(layout.solve(b, catalogue, f));
    return f;
}

namespace {

/// What can be solved beside the channels' power; sentences of what could not.
std::vector<std::string> curvesOf(const Build& b, const Catalogue& catalogue, Figures& f, const std::stop_token& stop) {
    std::vector<std::string> failures;
    const auto keep = [&](auto solved, auto& to) {
        if (solved)
            to = std::move(*solved);
        else if (!stop.stop_requested())
            failures.push_back(solved.problem().text());
    };
    keep(switchOn(b, catalogue, *f.nominal, 30, stop), f.switchOn);
    keep(switchOff(b, catalogue, *f.nominal, true, 240, stop), f.switchOff);
    if (f.cold) {
        keep(switchOff(b, catalogue, *f.cold, false, 600, stop), f.switchOffCold);
        keep(dischargeOf(b, *f.cold, stop), f.discharge);
    }
    keep(disturbed(b, catalogue, *f.nominal, {{}, 0.85}, 1.5, stop), f.dip);
    addWarm(b, catalogue, f, stop);
    if (auto rush = inrushOf(b, catalogue, b.mains.high, stop)) f.inrush = *rush;
    if (auto fault = shortedRail(b, catalogue, b.mains.volts, shortOhms)) f.shorted = *fault;
    keep(supplyImpedance(b, catalogue, *f.nominal, 120, stop), f.impedance);
    if (auto open = sourceUncertainty(b, catalogue, *f.nominal, stop)) f.within = std::move(*open);
    return failures;
}

} // namespace

void addWarm(const Build& b, const Catalogue& catalogue, Figures& f, std::stop_token stop) {
    f.warm.reset();
    if (!f.nominal || !f.layout || !f.layout->mainsIron) return;
    WarmStart start = f.nominal->end ? *f.nominal->end : WarmStart{};
    if (auto warm = solveSteady(withWarmCopper(b, f.layout->mainsIron->kelvin), catalogue, {b.mains.volts},
                                {.stop = std::move(stop)}, &start))
        f.warm = std::move(*warm);
}

void completeFigures(const Build& b, const Catalogue& catalogue, Figures& f, std::stop_token stop) {
    if (!f.nominal) return;
    auto curves = std::async(std::launch::async, [&] { return curvesOf(b, catalogue, f, stop); });
    f.power = channelPower(b, catalogue, *f.nominal, stop);
    f.stages = stageFigures(b, catalogue, *f.nominal, f.power);
    f.oscillations = oscillationsOf(b, catalogue, *f.nominal);
    f.resonances = resonancesOf(b, catalogue, *f.nominal);
    const Disturbance note{fullPower(f.power)};
    f.burstAmps = 0;
    for (const Draw& draw : note.draws) f.burstAmps += draw.amps;
    std::vector<std::string> failures;
    const auto keep = [&](Expected<Curve> curve, Curve& to) {
        if (curve)
            to = std::move(*curve);
        else if (!stop.stop_requested())
            failures.push_back(curve.problem().text());
    };
    keep(disturbed(b, catalogue, *f.nominal, note, 1.5, stop), f.burst);
    const bool choke = std::any_of(b.supply.sections.begin(), b.supply.sections.end(),
                                   [](const Section& s) { return s.kind == SectionKind::Choke; });
    if (choke) keep(disturbed(withoutChokes(b), catalogue, *f.nominal, note, 1.5, stop), f.burstResistor);
    const auto curveFailures = curves.get();
    for (const Oscillation& o : supplyOscillations(b, catalogue, *f.nominal, f.impedance.sourceOhms))
        if (std::none_of(f.oscillations.begin(), f.oscillations.end(), // by itself is the worse
                         [&](const Oscillation& own) { return own.channel == o.channel; }))
            f.oscillations.push_back(o);
    for (const auto& some : {curveFailures, failures}) f.failures.insert(f.failures.end(), some.begin(), some.end());
    f.complete = !stop.stop_requested();
}

} // namespace ember::plan
