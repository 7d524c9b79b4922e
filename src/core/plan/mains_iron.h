#pragma once
// The power transformer's core on the mains that it gets: flux, no-load current, losses.

#include "steady.h"

namespace ember::plan {

/// The core by its nameplate, as circuit::Transformer takes it. At the rated volts and frequency the iron draws at the
/// crest as much beyond its inductance as through it: typical of mains iron, which is wound up to the knee.
struct MainsCore {
    double ratedFlux = 0;      ///< crest, at the primary [V s]
    double saturationAmps = 0; ///< [A]
};
MainsCore mainsCore(const PowerTransformer& transformer);

/// Of the rated flux, what may stay in stacked laminations when the mains leave at the wrong instant.
inline constexpr double remanence = 0.6;
/// Lost in the core at the rated volts and frequency, of the rated volt-amperes. Common sheet of 0.5 mm loses 8 W/kg at
/// 1.5 T and 50 Hz (EN 10106, M800-50A), grain-oriented 1.2 W/kg (EN 10107, at 1.5 T and thicknesses of 0.35 mm); a
/// core of 100 to 200 VA weighs some 6 to 7 g a VA, and what is cut and stacked loses a tenth to a half more.
double coreShare(CoreSheet sheet);
/// The hottest spot lies so far above the windings' mean [K]: the usual allowance for small ones.
inline constexpr double hotSpot = 10;

/// Copper's resistance rises by so much of it a kelvin, from where its ohms were taken [1/K, K].
inline constexpr double copperPerKelvin = 0.00393, ohmsTakenAt = 293;
/// The build with its power transformer's windings at this temperature [K].
Build withWarmCopper(const Build& build, double kelvin);

struct MainsIron {
    double flux = unknown;          ///< crest, over the rated one
    double noLoadAmps = unknown;    ///< RMS, to magnetise and for the core's loss
    double direct = 0;              ///< what a direct current in the windings shifts the flux by, over the rated crest
    double withoutDirect = unknown; ///< no-load current if there were none [A RMS]
    double coreWatts = unknown;     ///< with frequency^1.3 flux^2 (Steinmetz 1892; exponents usual for silicon steel)
    double copperWatts = unknown;   ///< as cold as its resistances were taken
};
/// On the mains of `steady`; the drop in the primary's copper is left out of the flux, which it makes a little less.
MainsIron mainsIron(const Build& build, const Steady& steady);

} // namespace ember::plan
