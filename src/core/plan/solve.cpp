#include "solve.h"

#include "core/chassis/layout_figures.h"

namespace ember::plan {

Figures solveFigures(const Build& b, const Catalogue& catalogue, std::stop_token stop, WarmStart* warm) {
    Figures f;
    WarmStart own;
    WarmStart& start = warm ? *warm : own;
    const auto at = [&](double volts, bool valves, bool cycle, WarmStart& w) -> std::optional<Steady> {
        Conditions c;
        c.mainsVolts = volts;
        c.smallIn = c.outputsIn = valves;
        auto s = solveSteady(b, catalogue, c, {cycle, 2e-5, stop}, &w);
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
    if (f.cold) keep(switchOff(b, catalogue, *f.cold, false, 600, stop), f.switchOffCold);
    f.power = channelPower(b, catalogue, *f.nominal, stop);
    f.complete = !stop.stop_requested();
}

} // namespace ember::plan
