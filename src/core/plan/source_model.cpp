#include "source_model.h"

#include "named_figures.h"

#include "supply_case.h"

#include "core/quantity/quantity.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

namespace ember::plan {

namespace {

double reflected(const Build& b) {
    const double ratio = b.transformer.plateVolts / b.transformer.primaryVolts;
    return b.transformer.primaryResistance * ratio * ratio;
}

} // namespace

double regulationOf(double va) {
    static constexpr std::array<std::pair<double, double>, 6> known{
        {{10, 0.20}, {30, 0.14}, {60, 0.10}, {120, 0.08}, {250, 0.055}, {500, 0.04}}};
    if (va <= known.front().first) return known.front().second;
    for (std::size_t k = 1; k < known.size(); ++k)
        if (va <= known[k].first) {
            const auto [a, ra] = known[k - 1];
            const auto [z, rz] = known[k];
            return ra + (rz - ra) * std::log(va / a) / std::log(z / a);
        }
    return known.back().second;
}

Expected<SourceModel> fromNameplate(double volts, double amps, double va) {
    if (!(volts > 0) || !(amps > 0) || !(va > 0))
        return Problem{"source",
                       "volts, amps and volt-amperes above nothing are expected, as printed on the transformer"};
    const double r = regulationOf(va);
    SourceModel m;
    m.volts = volts * (1 + r);
    m.resistance = volts * r / amps;
    m.voltsError = r / 3 / (1 + r);
    m.resistanceError = 1.0 / 3;
    m.how = fmt::format("{} at {} and {:.0f} % of regulation, as transformers of {:g} VA have",
                        format(volts, Unit::Volt), format(amps, Unit::Ampere), 100 * r, va);
    return m;
}

Expected<SourceModel> fromWindings(const Build& b, const WindingReadings& x) {
    if (!(x.noLoadVolts > 0) || !(x.mainsVolts > 0) || !(x.legOhms > 0) || !(x.primaryOhms >= 0))
        return Problem{"source",
                       "no-load volts, mains volts and the winding's resistance are needed, each above nothing"};
    SourceModel m;
    m.volts = x.noLoadVolts * b.transformer.primaryVolts / x.mainsVolts;
    const double ratio = x.noLoadVolts / x.mainsVolts, from = x.primaryOhms * ratio * ratio;
    m.resistance = x.legOhms + from;
    m.voltsError = std::hypot(b.meter.ac, b.meter.ac);
    m.resistanceError =
        std::hypot(b.meter.ohms * x.legOhms, std::hypot(b.meter.ohms, 2 * m.voltsError) * from) / m.resistance;
    m.how = fmt::format("{} without load at {} of mains; {} of copper and {} from the primary",
                        format(x.noLoadVolts, Unit::Volt), format(x.mainsVolts, Unit::Volt),
                        format(x.legOhms, Unit::Ohm), format(from, Unit::Ohm));
    return m;
}

namespace {

/// The source resistance with which the build's rectifier and first capacitor give `dc` across `ohms`.
Expected<double> resistanceFor(const Build& b, const Catalogue& catalogue, double emf, double ohms, double dc) {
    const RectifierType* type = catalogue.rectifier(b.supply.rectifier.type);
    SupplyCase c;
    c.frequency = b.mains.frequency;
    c.emf = emf;
    c.rectifier = *type;
    c.silicon = *catalogue.rectifier("silicon");
    c.supply.connection = b.supply.connection;
    c.supply.rectifier = b.supply.rectifier;
    Section first;
    first.id.assign(1, 'c');
    first.capacitance = 47e-6;
    if (!b.supply.sections.empty() && b.supply.sections[0].kind == SectionKind::Capacitor) first = b.supply.sections[0];
    c.supply.sections = {first};
    c.loads = {{1, ohms, 0}};
    const auto volts = [&](double source) -> Expected<double> {
        c.sourceOhms = source;
        const auto f = solveCase(c);
        return f ? Expected<double>(f->nodes[0].mean) : f.problem();
    };
    double low = 0.5, high = 20e3;
    const auto most = volts(low), least = volts(high);
    if (!most) return most.problem();
    if (!least) return least.problem();
    if (dc > *most || dc < *least)
        return Problem{"source",
                       fmt::format("{} across {} cannot be: without resistance it would be {}", format(dc, Unit::Volt),
                                   format(ohms, Unit::Ohm), format(*most, Unit::Volt))};
    for (int k = 0; k < 60 && high / low > 1 + 1e-5; ++k) { // volts fall with resistance
        const double middle = std::sqrt(low * high);
        const auto v = volts(middle);
        if (!v) return v.problem();
        (*v > dc ? low : high) = middle;
    }
    return std::sqrt(low * high);
}

} // namespace

Expected<SourceModel> fromLoadedTest(const Build& b, const Catalogue& catalogue, const LoadedTest& x) {
    if (!(x.noLoadVolts > 0) || !(x.mainsVolts > 0) || !(x.ohms > 0) || !(x.dcVolts > 0))
        return Problem{"source",
                       "no-load volts, mains volts, the load and the volts across it are needed, each above nothing"};
    const auto r = resistanceFor(b, catalogue, x.noLoadVolts, x.ohms, x.dcVolts);
    if (!r) return r.problem();
    SourceModel m;
    m.volts = x.noLoadVolts * b.transformer.primaryVolts / x.mainsVolts;
    m.resistance = *r;
    m.voltsError = std::hypot(b.meter.ac, b.meter.ac);
    // Each reading at the edge of its accuracy, solved again.
    double square = 0;
    const auto moved = [&](double emf, double ohms, double dc) {
        const auto other = resistanceFor(b, catalogue, emf, ohms, dc);
        square += other ? std::pow(*other / *r - 1, 2) : 1; // beyond what can be: as uncertain as it is large
    };
    moved(x.noLoadVolts * (1 + b.meter.ac), x.ohms, x.dcVolts);
    moved(x.noLoadVolts, x.ohms * (1 + b.meter.ohms), x.dcVolts);
    moved(x.noLoadVolts, x.ohms, x.dcVolts * (1 - b.meter.dc));
    m.resistanceError = std::min(1.0, std::sqrt(square));
    m.how = fmt::format("{} without load and {} across {}, solved back through {}", format(x.noLoadVolts, Unit::Volt),
                        format(x.dcVolts, Unit::Volt), format(x.ohms, Unit::Ohm), b.supply.rectifier.type);
    return m;
}

Edit useSource(const Build& b, const SourceModel& m) {
    Build with = b;
    with.transformer.plateVolts = m.volts;
    const double copper = std::max(0.01, m.resistance - reflected(with));
    return together(fmt::format("a leg of {} and {}", format(m.volts, Unit::Volt), format(m.resistance, Unit::Ohm)),
                    {setValue("", "/transformer/plateVolts", m.volts),
                     setValue("", "/transformer/plateResistance", copper),
                     setValue("", "/transformer/voltsTolerance", std::clamp(m.voltsError, 0.0, 0.5)),
                     setValue("", "/transformer/resistanceTolerance", std::clamp(m.resistanceError, 0.0, 1.0))});
}

Expected<std::map<std::string, double>> sourceUncertainty(const Build& b, const Catalogue& catalogue,
                                                          const Steady& nominal, std::stop_token stop) {
    std::map<std::string, double> square;
    const auto was = namedFigures(b, nominal);
    const PowerTransformer& t = b.transformer;
    Build volts = b, copper = b;
    volts.transformer.plateVolts *= 1 + t.voltsTolerance;
    for (const std::size_t k : tapsOf(b.supply)) {
        volts.supply.sections[k].volts *= 1 + t.voltsTolerance;
        copper.supply.sections[k].resistance *= 1 + t.resistanceTolerance;
    }
    copper.transformer.plateResistance *= 1 + t.resistanceTolerance;
    copper.transformer.primaryResistance *= 1 + t.resistanceTolerance;
    WarmStart warm = nominal.end ? *nominal.end : WarmStart{};
    for (const Build* x : {&volts, &copper}) {
        const auto s = solveSteady(*x, catalogue, nominal.conditions, {.tolerance = 1e-5, .stop = stop}, &warm);
        if (!s) return s.problem();
        const auto is = namedFigures(*x, *s);
        for (std::size_t k = 0; k < std::min(was.size(), is.size()); ++k)
            square[was[k].id] += std::pow(is[k].value - was[k].value, 2);
    }
    for (auto& [id, value] : square) value = std::sqrt(value);
    return square;
}

} // namespace ember::plan
