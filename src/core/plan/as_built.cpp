#include "as_built.h"

#include "mains_iron.h"

#include "core/base/overloaded.h"
#include "core/build/typical_iron.h"

#include <algorithm>
#include <random>

namespace ember::plan {

namespace {

class Chance {
  public:
    explicit Chance(std::uint64_t seed) : engine(seed) {}
    double within(double tolerance) { return 1 + tolerance * std::clamp(normal(engine), -1.0, 1.0); }
    double between(double a, double b) { return std::uniform_real_distribution<double>(a, b)(engine); }

  private:
    std::mt19937_64 engine;
    std::normal_distribution<double> normal{0, 0.5}; // the tolerance is two sigma
};

void draw(PartValue& part, Chance& c) {
    std::visit(Overloaded{[&](ResistorPart& p) { p.resistance *= c.within(p.tolerance); },
                          [&](CapacitorPart& p) { p.capacitance *= c.within(p.tolerance); },
                          [&](ChokePart& p) {
                              const double factor = c.within(p.tolerance);
                              p.inductance *= factor, p.idleInductance *= factor;
                              p.resistance *= c.within(0.1);
                          },
                          [&](PotentiometerPart& p) { p.resistance *= c.within(p.tolerance); },
                          [&](OutputTransformer& p) {
                              const IronSpread usual;
                              const bool typical = typicalOf(p).has_value();
                              const double copper = typical ? usual.copper : 0.1;
                              p.primaryInductance *= c.within(typical ? usual.inductance : 0.2);
                              p.primaryResistanceA *= c.within(copper);
                              p.primaryResistanceB *= c.within(copper);
                              p.secondaryResistance *= c.within(copper);
                          },
                          [&](CurrentSourcePart& p) { p.amps *= c.within(p.tolerance); },
                          [&](DiodePart& p) { p.drop *= c.within(0.05); },
                          [&](ZenerPart& p) { p.volts *= c.within(p.tolerance); }, [](AdjusterPart&) {}},
               part);
}

void draw(Build& b, const Build& plan, Chance& c) {
    const auto resistor = [&](ResistorPart& r) { r.resistance *= c.within(r.tolerance); };
    const auto capacitor = [&](CapacitorPart& p) { p.capacitance *= c.within(p.tolerance); };
    b.transformer.plateVolts *= c.within(plan.transformer.voltsTolerance);
    b.transformer.plateResistance *= c.within(plan.transformer.resistanceTolerance);
    b.transformer.primaryResistance *= c.within(plan.transformer.resistanceTolerance);
    b.transformer.biasVolts *= c.within(0.03);
    b.bias.feed *= c.within(0.05);
    b.bias.feedCapacitance *= c.within(0.1);
    for (HeaterWinding& h : b.transformer.heaters) h.volts *= c.within(plan.transformer.voltsTolerance);
    b.supply.rectifier.emission *= c.within(0.15);
    b.limiter.watts *= c.within(0.08);
    for (Section& s : b.supply.sections) {
        const double factor = c.within(s.tolerance);
        if (s.kind == SectionKind::Capacitor)
            s.capacitance *= factor;
        else if (s.kind == SectionKind::Resistor)
            s.resistance *= factor;
        else if (s.kind == SectionKind::Tap) // of the same iron and wire
            s.volts *= b.transformer.plateVolts / plan.transformer.plateVolts,
                s.resistance *= b.transformer.plateResistance / std::max(1e-3, plan.transformer.plateResistance);
        else
            s.inductance *= factor, s.idleInductance *= factor, s.resistance *= c.within(0.1);
    }
    for (Bleeder& x : b.supply.bleeders) resistor(x.resistor);
    resistor(b.bias.series);
    capacitor(b.bias.reservoir);
    capacitor(b.bias.second);
    b.bias.adjuster *= c.within(0.2);
    for (Valve& v : b.bottles) {
        v.emission *= c.within(v.tolerance);
        v.mu *= c.within(v.muTolerance);
        v.cutoff *= c.within(v.cutoffTolerance);
        v.screen *= c.within(v.screenTolerance);
    }
    for (Channel& ch : b.channels)
        for (Stage& s : ch.stages)
            for (StagePart& p : s.parts)
                if (p.slot != "load") draw(p.part, c);
    for (LoosePart& p : b.loose) draw(p.part, c);
    b.supply.rectifier.legResistance *= c.within(0.05);
    for (HeaterWinding& h : b.transformer.heaters) h.referenceOhms *= c.within(0.05);
    for (HeaterWinding& h : b.transformer.heaters) { // nothing is drawn for what is not there: seeds stay what they are
        if (h.legResistance > 0) h.legResistance *= c.within(0.05);
        if (h.referenceNode > 0) h.lift.top *= c.within(0.05), h.lift.bottom *= c.within(0.05);
        if (!h.rectified()) continue;
        h.dc.reservoir *= c.within(0.2);
        if (h.dc.regulator == HeaterRegulator::Linear || h.dc.regulator == HeaterRegulator::LowDropout)
            h.dc.volts *= c.within(0.04);
        if (h.dc.regulator == HeaterRegulator::CurrentSource) h.dc.amps *= c.within(0.05);
    }
    for (std::size_t k = 0; k < plan.channels.size(); ++k)
        for (std::size_t s = 0; s < plan.channels[k].stages.size(); ++s)
            for (std::size_t p = 0; p < plan.channels[k].stages[s].parts.size(); ++p)
                if (const auto* t = std::get_if<OutputTransformer>(&plan.channels[k].stages[s].parts[p].part);
                    t && typicalOf(*t)) {
                    auto& iron = std::get<OutputTransformer>(b.channels[k].stages[s].parts[p].part);
                    iron.leakageInductance *= c.within(IronSpread{}.leakage);
                    iron.windingCapacitance *= c.within(IronSpread{}.capacitance);
                }
    for (Valve& v : b.bottles)
        v.gas += c.between(0, v.gasTolerance); // never below what was tested: a perfect vacuum has none
}

} // namespace

Build asBuilt(const Build& build, std::uint64_t seed) {
    Build b = build;
    if (seed == 0) return b;
    Chance c(seed);
    draw(b, build, c);
    return b;
}

Build asBuiltOnRealMains(const Build& build, std::uint64_t seed) {
    Build b = build;
    if (seed == 0) return b;
    Chance c(seed);
    draw(b, build, c);
    b.mains.crest = c.between(std::min({1.36, b.mains.crest, b.mains.flattest}), std::numbers::sqrt2);
    const double warm = 1 + copperPerKelvin * c.between(0, 40);
    b.transformer.plateResistance *= warm;
    b.transformer.primaryResistance *= warm;
    for (Section& s : b.supply.sections) {
        if (s.kind == SectionKind::Tap || s.kind == SectionKind::Choke) s.resistance *= warm;
    }
    return b;
}

} // namespace ember::plan
