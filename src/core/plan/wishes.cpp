#include "wishes.h"

#include "core/build/build_json.h"
#include "core/quantity/letters.h"
#include "core/quantity/quantity.h"

#include <fmt/format.h>

#include <cmath>
#include <functional>

namespace ember::plan {

namespace {

/// A build with the part at a value, and the figure that it then has.
using Set = std::function<void(Build&, double)>;
using Read = std::function<Expected<double>(const Build&)>;

/// Where a monotone figure meets `wanted`, between `low` and `high`, by the Illinois method on the logarithm of the
/// value; a Problem says which way it cannot be met.
Expected<double> meet(const Build& b, const Set& set, const Read& read, double wanted, double low, double high,
                      const std::string& what, Unit unit) {
    const auto off = [&](double value) -> Expected<double> {
        Build x = b;
        set(x, value);
        const auto f = read(x);
        if (!f) return f.problem();
        return *f - wanted;
    };
    double a = std::log(low), z = std::log(high);
    const auto first = off(low), last = off(high);
    if (!first) return first.problem();
    if (!last) return last.problem();
    double fa = *first, fz = *last;
    if (fa * fz > 0)
        return Problem{what, fmt::format("no value gives {}: from {} to {} is what this part can do",
                                         format(wanted, unit), format(fa + wanted, unit), format(fz + wanted, unit))};
    int side = 0;
    for (int k = 0; k < 60; ++k) {
        const double x = (fa * z - fz * a) / (fa - fz);
        const auto f = off(std::exp(x));
        if (!f) return f.problem();
        if (std::abs(*f) < 1e-4 * std::abs(wanted) || z - a < 1e-6) return std::exp(x);
        if ((*f > 0) == (fz > 0)) {
            z = x, fz = *f;
            if (side == -1) fa /= 2;
            side = -1;
        } else {
            a = x, fa = *f;
            if (side == 1) fz /= 2;
            side = 1;
        }
    }
    return std::exp((a + z) / 2);
}

struct Ask {
    std::string part, pointer;
    Unit valueUnit, figureUnit;
    Series series;
    double low, high, wanted;
    Set set;
    Read read;
    std::function<double(const Build&)> watts = {};
};

Expected<Wish> answer(const Build& b, const Ask& ask) {
    const auto exact = meet(b, ask.set, ask.read, ask.wanted, ask.low, ask.high, ask.part, ask.figureUnit);
    if (!exact) return exact.problem();
    Wish w;
    w.part = ask.part;
    w.exact = *exact;
    const auto step = [&](double value) {
        WishStep s;
        s.value = value;
        Build x = b;
        ask.set(x, value);
        if (const auto f = ask.read(x)) s.figure = *f;
        if (ask.watts) s.watts = ask.watts(x);
        s.edit =
            setValue(fmt::format("{} to {}", upper(ask.part), formatExact(value, ask.valueUnit)), ask.pointer, value);
        return s;
    };
    w.below = step(nextDown(*exact, ask.series));
    w.above = step(nextUp(*exact, ask.series));
    return w;
}

Expected<Steady> steadyAt(const Build& b, const Catalogue& catalogue, double mains, std::stop_token stop) {
    Conditions c;
    c.mainsVolts = mains;
    return solveSteady(b, catalogue, c, {.tolerance = 1e-5, .stop = stop});
}

Expected<Done> sectionIs(const Build& b, std::size_t section, SectionKind kind, const char* word) {
    if (section < b.supply.sections.size() && b.supply.sections[section].kind == kind) return Done{};
    return Problem{fmt::format("/supply/sections/{}", section),
                   fmt::format("a {} is asked about, and there is none", word)};
}

Expected<Done> nodeIs(const Build& b, int node) {
    if (node >= 1 && node <= supplyNodes(b.supply)) return Done{};
    return Problem{"/supply", fmt::format("there is no node B+{}", node)};
}

} // namespace

Expected<Wish> resistorForVolts(const Build& b, const Catalogue& catalogue, std::size_t section, int node, double volts,
                                std::stop_token stop) {
    if (auto ok = sectionIs(b, section, SectionKind::Resistor, "resistor"); !ok) return ok.problem();
    if (auto ok = nodeIs(b, node); !ok) return ok.problem();
    const std::string id = b.supply.sections[section].id;
    const auto steady = [&](const Build& x) { return steadyAt(x, catalogue, x.mains.volts, stop); };
    Ask ask{id,
            fmt::format("/supply/sections/{}/resistance", section),
            Unit::Ohm,
            Unit::Volt,
            Series::E12,
            1,
            3e5,
            volts,
            [section](Build& x, double v) { x.supply.sections[section].resistance = v; },
            [&](const Build& x) -> Expected<double> {
                const auto s = steady(x);
                return s ? Expected<double>(s->nodes[static_cast<std::size_t>(node - 1)].mean) : s.problem();
            }};
    ask.watts = [&](const Build& x) {
        const auto s = steady(x);
        return s ? s->partWatts.at(id) : unknown;
    };
    return answer(b, ask);
}

Expected<Wish> capacitanceForRipple(const Build& b, const Catalogue& catalogue, std::size_t section, int node,
                                    double ripple, std::stop_token stop) {
    if (auto ok = sectionIs(b, section, SectionKind::Capacitor, "capacitor"); !ok) return ok.problem();
    if (auto ok = nodeIs(b, node); !ok) return ok.problem();
    return answer(b, {b.supply.sections[section].id, fmt::format("/supply/sections/{}/capacitance", section),
                      Unit::Farad, Unit::Volt, Series::E6, 2e-7, 5e-3, ripple,
                      [section](Build& x, double v) { x.supply.sections[section].capacitance = v; },
                      [&](const Build& x) -> Expected<double> {
                          const auto s = steadyAt(x, catalogue, x.mains.volts, stop);
                          return s ? Expected<double>(s->nodes[static_cast<std::size_t>(node - 1)].rippleRms)
                                   : s.problem();
                      }});
}

Expected<Wish> firstCapacitorForPeak(const Build& b, const Catalogue& catalogue, double amps, std::stop_token stop) {
    if (auto ok = sectionIs(b, 0, SectionKind::Capacitor, "first capacitor"); !ok) return ok.problem();
    return answer(b, {b.supply.sections[0].id, "/supply/sections/0/capacitance", Unit::Farad, Unit::Ampere, Series::E6,
                      2e-7, 1e-3, amps, [](Build& x, double v) { x.supply.sections[0].capacitance = v; },
                      [&](const Build& x) -> Expected<double> {
                          const auto s = steadyAt(x, catalogue, x.mains.high, stop);
                          return s ? Expected<double>(s->rectifierPeak) : s.problem();
                      }});
}

Expected<Wish> bleederForTime(const Build& b, const Catalogue& catalogue, double seconds, std::stop_token stop) {
    Build with = b;
    const bool had = !b.supply.bleeders.empty();
    if (!had) with.supply.bleeders.push_back({{}, 1, {{}, "rb1", 1e5, 5, 0.05}});
    Conditions cold;
    cold.mainsVolts = b.mains.high;
    cold.smallIn = cold.outputsIn = false;
    const auto fall = [&](const Build& x) -> Expected<double> {
        const auto s = solveSteady(x, catalogue, cold, {.tolerance = 1e-5, .stop = stop});
        if (!s) return s.problem();
        const auto curve = switchOff(x, catalogue, *s, false, 40 * seconds, stop);
        if (!curve) return curve.problem();
        double slowest = 0;
        for (std::size_t n = 0; n < curve->nodes.size(); ++n) {
            const double t = curve->below(n, 50);
            slowest = std::max(slowest, std::isnan(t) ? 40 * seconds : t);
        }
        return slowest;
    };
    Ask ask{with.supply.bleeders[0].resistor.id,
            "/supply/bleeders/0/resistor/resistance",
            Unit::Ohm,
            Unit::Second,
            Series::E12,
            5e3,
            5e6,
            seconds,
            [](Build& x, double v) { x.supply.bleeders[0].resistor.resistance = v; },
            fall};
    ask.watts = [&](const Build& x) {
        const auto s = solveSteady(x, catalogue, cold, {.tolerance = 1e-5, .stop = stop});
        return s ? s->partWatts.at(x.supply.bleeders[0].resistor.id) : unknown;
    };
    auto w = answer(with, ask);
    if (!w || had) return w;
    for (WishStep* s : {&w->below, &w->above}) { // there is none to change yet: it is added
        Bleeder bleeder = with.supply.bleeders[0];
        bleeder.resistor.resistance = s->value;
        const double wanted = 2 * s->watts;
        bleeder.resistor.watts = wanted < 1 ? 1 : wanted < 2 ? 2 : wanted < 5 ? 5 : wanted < 10 ? 10 : 25;
        s->edit = insertAt(fmt::format("add a bleeder of {}", formatExact(s->value, Unit::Ohm)), "/supply/bleeders/-",
                           bleeder);
    }
    return w;
}

} // namespace ember::plan
