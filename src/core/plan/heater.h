#pragma once
// Heaters and what their temperature does to a cathode's emission.

#include "core/build/build.h"
#include "core/catalogue/catalogue.h"

namespace ember::plan {

inline constexpr double heaterHotKelvin = 1400; ///< gives a cold resistance 1/6.5 of the hot one, as heaters have

/// `count` heaters of a type in parallel as one tungsten conductor.
circuit::IncandescentLaw heaterLaw(const Heater& heater, int count);

/// The limiter's lamp, cold: the catalogue's nearest, at the build's volts and watts.
circuit::IncandescentLaw limiterLaw(const Build& build, const Catalogue& catalogue);

/// Share of full emission, 0 .. 1, at heater temperature `kelvin`: the Richardson-Dushman exponential (work
/// function 1.0 eV at a 1050 K oxide cathode) against a tenfold reserve at the rated point, saturating smoothly. The
/// cathode is taken to follow its heater in proportion.
double emissionAt(double kelvin);

/// Emission share at `seconds` after switching on at `share` of the rated heater volts, from cold. Integrates the
/// heater's energy balance; the thermal mass is such that half emission comes at heater.warmUp at rated volts.
class WarmUp {
  public:
    WarmUp(const Heater& heater, double share);
    [[nodiscard]] double emission(double seconds) const;
    /// After switching off from the end of that curve.
    [[nodiscard]] double emissionCooling(double seconds) const;

  private:
    std::vector<double> heating, cooling; ///< emission at equal steps
    double step = 0.1;                    ///< [s]
};

} // namespace ember::plan
