#include "mains_iron.h"

#include "named_figures.h"
#include "supply_circuit.h"

#include <cmath>
#include <numbers>

namespace ember::plan {

using std::numbers::pi;

MainsCore mainsCore(const PowerTransformer& t) {
    const double flux = std::numbers::sqrt2 * t.primaryVolts / (2 * pi * t.ratedHertz);
    return {flux, flux / t.magnetisingInductance};
}

MainsIron mainsIron(const Build& b, const Steady& s) {
    MainsIron out;
    const PowerTransformer& t = b.transformer;
    const MainsCore core = mainsCore(t);
    const circuit::Waveform w = mainsWave(s.conditions.mainsVolts, b.mains.frequency,
                                          s.conditions.crest > 0 ? s.conditions.crest : b.mains.crest);
    // The integral of sin x + k sin 3x is -(cos x + k / 3 cos 3x).
    const double amplitude = w.amplitude / (2 * pi * w.frequency);
    out.flux = amplitude * (1 + w.third / 3) / core.ratedFlux;
    constexpr int instants = 90; // of a quarter period
    double squares = 0;
    for (int k = 0; k < instants; ++k) {
        const double x = (k + 0.5) / instants * pi / 2;
        const double flux = amplitude * (std::cos(x) + w.third / 3 * std::cos(3 * x));
        double amps = 0, slope = 0;
        const double percent = 100 * flux / core.ratedFlux;
        circuit::evaluate(circuit::CoreLaw{core.saturationAmps}, 1, &percent, &amps, &slope);
        squares += std::pow(flux / t.magnetisingInductance + amps, 2) / instants;
    }
    out.coreWatts = coreShare * ratedVoltAmperes(t, b.supply.connection) *
                    std::pow(b.mains.frequency / t.ratedHertz, 1.3) * out.flux * out.flux;
    out.noLoadAmps = std::hypot(std::sqrt(squares), out.coreWatts / s.conditions.mainsVolts);
    out.copperWatts = copperWatts(b, s);
    return out;
}

Build withWarmCopper(const Build& build, double kelvin) {
    Build b = build;
    const double factor = 1 + copperPerKelvin * (kelvin - ohmsTakenAt);
    for (double* ohms :
         {&b.transformer.primaryResistance, &b.transformer.plateResistance, &b.transformer.biasResistance})
        *ohms *= factor;
    for (HeaterWinding& w : b.transformer.heaters) w.resistance *= factor;
    for (Section& s : b.supply.sections)
        if (s.kind == SectionKind::Tap) s.resistance *= factor;
    return b;
}

} // namespace ember::plan
