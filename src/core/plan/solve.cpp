#include "solve.h"

#include "discharge.h"
#include "disturbance.h"
#include "impedance.h"
#include "source_model.h"
#include "stage_figures.h"

#include "core/build/build_json.h"

#include "core/chassis/layout_figures.h"

#include <algorithm>

namespace ember::plan {

Figures solveFigures(const Build& b, const Catalogue& catalogue, std::stop_token stop, WarmStart* warm) {
    Figures f;
    WarmStart own;
    WarmStart& start = warm ? *warm : own;
    const auto at = [&](double volts, bool valves, bool cycle, WarmStart& w) -> std::optional<Steady> {
        Conditions c;
        c.mainsVolts = volts;
        c.smallIn = c.outputsIn = valves;
        auto s = solveSteady(b, catalogue, c, {.cycle = cycle, .stop = stop}, &w);
        if (s) return *s;
        f.failures.push_back(s.problem().text());
        return std::nullopt;
    };
    f.nominal = at(b.mains.volts, true, true, start);
    WarmStart low = start, high = start, cold;
    f.low = at(b.mains.low, true, true, low);
    f.high = at(b.mains.high, true, true, high);
    f.cold = at(b.mains.high, false, false, cold);
    chassis::LayoutSolver layout;
    f.layout = std::make_shared<const chassis::LayoutFigures>(layout.solve(b, catalogue, f));
    return f;
}

void completeFigures(const Build& b, const Catalogue& catalogue, Figures& f, std::stop_token stop) {
    if (!f.nominal) return;
    const auto keep = [&](Expected<Curve> curve, Curve& to) {
        if (curve)
            to = std::move(*curve);
        else if (!stop.stop_requested())
            f.failures.push_back(curve.problem().text());
    };
    keep(switchOn(b, catalogue, *f.nominal, 30, stop), f.switchOn);
    keep(switchOff(b, catalogue, *f.nominal, true, 240, stop), f.switchOff);
    if (f.cold) {
        keep(switchOff(b, catalogue, *f.cold, false, 600, stop), f.switchOffCold);
        if (auto held = dischargeOf(b, *f.cold, stop))
            f.discharge = std::move(*held);
        else if (!stop.stop_requested())
            f.failures.push_back(held.problem().text());
    }
    f.power = channelPower(b, catalogue, *f.nominal, stop);
    f.stages = stageFigures(b, catalogue, *f.nominal, f.power);
    f.oscillations = oscillationsOf(b, catalogue, *f.nominal);
    const Disturbance note{fullPower(f.power)};
    f.burstAmps = 0;
    for (const Draw& draw : note.draws) f.burstAmps += draw.amps;
    keep(disturbed(b, catalogue, *f.nominal, note, 1.5, stop), f.burst);
    const Build resistors = withoutChokes(b);
    const bool choke = std::any_of(b.supply.sections.begin(), b.supply.sections.end(),
                                   [](const Section& s) { return s.kind == SectionKind::Choke; });
    if (choke) keep(disturbed(resistors, catalogue, *f.nominal, note, 1.5, stop), f.burstResistor);
    keep(disturbed(b, catalogue, *f.nominal, {{}, 0.85}, 1.5, stop), f.dip);
    if (auto rush = inrushOf(b, catalogue, b.mains.high, stop)) f.inrush = *rush;
    if (auto z = supplyImpedance(b, catalogue, *f.nominal, 120, stop))
        f.impedance = std::move(*z);
    else if (!stop.stop_requested())
        f.failures.push_back(z.problem().text());
    if (auto open = sourceUncertainty(b, catalogue, *f.nominal, stop)) f.within = std::move(*open);
    f.complete = !stop.stop_requested();
}

} // namespace ember::plan
