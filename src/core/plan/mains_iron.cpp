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

double coreShare(CoreSheet sheet) {
    return sheet == CoreSheet::GrainOriented ? 0.015 : 0.05;
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
    // Mean of the magnetising current, and of its square, with the flux shifted by `direct`.
    const auto magnetising = [&](double direct) {
        constexpr int instants = 180; // of half a period: the other half mirrors it
        std::pair<double, double> sums{0, 0};
        for (int k = 0; k < instants; ++k) {
            const double x = (k + 0.5) / instants * pi;
            const double flux = amplitude * (std::cos(x) + w.third / 3 * std::cos(3 * x)) + direct * core.ratedFlux;
            double amps = 0, slope = 0;
            const double percent = 100 * flux / core.ratedFlux;
            circuit::evaluate(circuit::CoreLaw{core.saturationAmps}, 1, &percent, &amps, &slope);
            const double i = flux / t.magnetisingInductance + amps;
            sums.first += i / instants, sums.second += i * i / instants;
        }
        return sums;
    };
    // The flux moves until the current's mean opposes what flows in the windings; it rises with the shift: bisection.
    if (const double wanted = std::isfinite(s.coreDc) ? std::abs(s.coreDc) : 0; wanted > 1e-6) {
        double low = 0, high = 3;
        for (int k = 0; k < 40; ++k) {
            const double middle = 0.5 * (low + high);
            (magnetising(middle).first < wanted ? low : high) = middle;
        }
        out.direct = 0.5 * (low + high);
    }
    out.coreWatts = coreShare(t.sheet) * ratedVoltAmperes(t, b.supply.connection) *
                    std::pow(b.mains.frequency / t.ratedHertz, 1.3) * out.flux * out.flux;
    const auto noLoad = [&](double direct) { // of its mean only the alternating part flows in the primary
        const auto [mean, square] = magnetising(direct);
        return std::hypot(std::sqrt(std::max(0.0, square - mean * mean)), out.coreWatts / s.conditions.mainsVolts);
    };
    out.noLoadAmps = noLoad(out.direct);
    out.withoutDirect = out.direct > 0 ? noLoad(0) : out.noLoadAmps;
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
