#include "band.h"

#include <fmt/format.h>

#include <cmath>

namespace ember::procedure {

using namespace plan;

std::vector<Spread> spreads(const Build& b, const Conditions& c) {
    std::vector<Spread> out;
    const auto add = [&](std::string part, std::function<void(Build&, Conditions&)> shift) {
        out.push_back({std::move(part), std::move(shift)});
    };
    add("mains as read", [](Build& x, Conditions& k) { k.mainsVolts *= 1 + 0.5 * x.meter.ac; });
    add("plate winding volts", [](Build& x, Conditions&) {
        x.transformer.plateVolts *= 1 + x.transformer.voltsTolerance;
        for (const std::size_t k : tapsOf(x.supply)) x.supply.sections[k].volts *= 1 + x.transformer.voltsTolerance;
    });
    add("copper", [](Build& x, Conditions&) {
        x.transformer.plateResistance *= 1 + x.transformer.resistanceTolerance;
        x.transformer.primaryResistance *= 1 + x.transformer.resistanceTolerance;
    });
    for (std::size_t k = 0; k < b.transformer.heaters.size(); ++k)
        add("heater winding",
            [k](Build& x, Conditions&) { x.transformer.heaters[k].volts *= 1 + x.transformer.voltsTolerance; });
    if (c.limiter) add("lamp", [](Build& x, Conditions&) { x.limiter.watts *= 1.08; });
    if (c.rectifierIn) {
        add("rectifier", [](Build& x, Conditions&) { x.supply.rectifier.emission *= 0.85; });
        for (std::size_t k = 0; k < b.supply.sections.size(); ++k)
            add(b.supply.sections[k].id, [k](Build& x, Conditions&) {
                Section& s = x.supply.sections[k];
                const double up = 1 + s.tolerance;
                if (s.kind == SectionKind::Capacitor)
                    s.capacitance *= up;
                else
                    s.resistance *= up;
            });
    }
    if (biasIsFed(b.bias, b.transformer)) {
        if (b.bias.from == BiasSource::Winding)
            add("bias winding", [](Build& x, Conditions&) { x.transformer.biasVolts *= 1.03; });
        else
            add("bias feed", [](Build& x, Conditions&) {
                x.bias.feed *= 1.05;
                x.bias.feedCapacitance *= 1.1;
            });
        add("bias series resistor",
            [](Build& x, Conditions&) { x.bias.series.resistance *= 1 + x.bias.series.tolerance; });
        add("bias adjusters", [](Build& x, Conditions&) { x.bias.adjuster *= 1.2; });
    }
    for (std::size_t k = 0; k < b.channels.size(); ++k) {
        if (c.smallIn) {
            add(b.channels[k].small.id,
                [k](Build& x, Conditions&) { x.channels[k].small.emission *= 1 + x.channels[k].small.tolerance; });
            add("plate resistor", [k](Build& x, Conditions&) {
                x.channels[k].voltageStage.plate.resistance *= 1 + x.channels[k].voltageStage.plate.tolerance;
            });
            add("cathode resistor", [k](Build& x, Conditions&) {
                x.channels[k].voltageStage.cathode.resistance *= 1 + x.channels[k].voltageStage.cathode.tolerance;
            });
        }
        if (c.outputsIn)
            for (const auto valve : {&OutputPair::a, &OutputPair::b})
                add("output valve", [k, valve](Build& x, Conditions&) {
                    (x.channels[k].pair.*valve).emission *= 1 + (x.channels[k].pair.*valve).tolerance;
                });
    }
    return out;
}

std::vector<Band> bands(const Build& b, const Catalogue& catalogue, const Conditions& conditions,
                        const std::vector<TestPoint>& points, const Steady& nominal, const WarmStart& warm,
                        std::stop_token stop) {
    std::vector<Band> out(points.size());
    std::vector<double> square(points.size(), 0);
    const std::vector<double> expected = readings(b, catalogue, nominal, points);
    for (std::size_t k = 0; k < points.size(); ++k) out[k].nominal = expected[k];
    for (const Spread& spread : spreads(b, conditions)) {
        if (stop.stop_requested()) return out;
        Build shifted = b;
        Conditions c = conditions;
        spread.shift(shifted, c);
        WarmStart start = warm;
        const auto s = solveSteady(shifted, catalogue, c, {false, 2e-4, stop}, &start);
        if (!s) continue;
        const std::vector<double> now = readings(shifted, catalogue, *s, points);
        for (std::size_t k = 0; k < points.size(); ++k) {
            const double change = now[k] - out[k].nominal;
            if (std::isfinite(change)) square[k] += change * change;
        }
    }
    for (std::size_t k = 0; k < points.size(); ++k) {
        const double reach = std::sqrt(square[k]) + meterShare(b, points[k].mode) * std::abs(out[k].nominal) +
                             (points[k].kind == PointKind::Node ? 1 : 0);
        out[k].low = out[k].nominal - reach;
        out[k].high = out[k].nominal + reach;
    }
    return out;
}

} // namespace ember::procedure
