#include "typical_iron.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember {

namespace {

struct TypicalClass {
    double reactance, gapped; ///< of the primary over its impedance, at the lowest frequency
    double leakageHertz;      ///< where leakage and load are alike
    double farads;            ///< of 10 W
    double loss;              ///< share of the watts
};
constexpr std::array<TypicalClass, ironClassNames.size()> typicalClasses{
    {{1, 0.6, 25e3, 100e-12, 0.05}, {1.3, 0.7, 55e3, 140e-12, 0.03}, {2, 1, 110e3, 250e-12, 0.02}}};
constexpr double usualLowest = 40; // [Hz]

bool sameValue(double a, double b) {
    return std::abs(a - b) <= 1e-6 * std::abs(b);
}

} // namespace

OutputTransformer typicalIron(OutputTransformer t, IronClass of) {
    const TypicalClass& c = typicalClasses[static_cast<std::size_t>(of)];
    if (!(t.lowestHertz > 0)) t.lowestHertz = usualLowest;
    const double omega = 2 * std::numbers::pi * t.lowestHertz;
    t.primaryInductance = (t.dcAmps > 0 ? c.gapped : c.reactance) * t.primaryImpedance / omega;
    t.leakageInductance = t.primaryImpedance / (2 * std::numbers::pi * c.leakageHertz);
    t.windingCapacitance = c.farads * std::cbrt(t.watts / 10);
    const double copper = std::clamp(0.09 * std::pow(t.watts / 15, -0.25), 0.04, 0.15);
    t.primaryResistanceA = 0.48 * copper / 2 * t.primaryImpedance;
    t.primaryResistanceB = 0.52 * copper / 2 * t.primaryImpedance;
    t.secondaryResistance = copper / 2 * t.loadImpedance;
    t.coreLoss = c.loss;
    return t;
}

std::optional<IronClass> typicalOf(const OutputTransformer& t) {
    for (std::size_t k = 0; k < typicalClasses.size(); ++k) {
        const OutputTransformer x = typicalIron(t, static_cast<IronClass>(k));
        if (sameValue(x.primaryInductance, t.primaryInductance) &&
            sameValue(x.leakageInductance, t.leakageInductance) &&
            sameValue(x.windingCapacitance, t.windingCapacitance) &&
            sameValue(x.primaryResistanceA, t.primaryResistanceA) &&
            sameValue(x.primaryResistanceB, t.primaryResistanceB) &&
            sameValue(x.secondaryResistance, t.secondaryResistance))
            return static_cast<IronClass>(k);
    }
    return std::nullopt;
}

Section typicalChoke() {
    Section s;
    s.kind = SectionKind::Choke;
    s.resistance = 15 * s.inductance;
    s.tolerance = 0.1;
    return s;
}

bool isTypical(const Section& s) {
    const Section usual = typicalChoke();
    return s.kind == SectionKind::Choke && sameValue(s.inductance, usual.inductance) && sameValue(s.amps, usual.amps) &&
           sameValue(s.resistance, usual.resistance);
}

bool isTypical(const PowerTransformer& t) {
    const PowerTransformer usual;
    return sameValue(t.primaryResistance, usual.primaryResistance) &&
           sameValue(t.plateResistance, usual.plateResistance) &&
           sameValue(t.magnetisingInductance, usual.magnetisingInductance);
}

} // namespace ember
