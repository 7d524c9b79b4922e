#pragma once
// What a power transformer's plate winding is, from what one has: its nameplate, a meter, or a test under load.

#include "steady.h"

#include "core/base/result.h"
#include "core/build/edit.h"
#include "core/catalogue/catalogue.h"

namespace ember::plan {

/// Of a leg: EMF at the primary's rated volts, and all the resistance that stands before the rectifier.
struct SourceModel {
    double volts = 0, resistance = 0;           ///< [V RMS, ohm]
    double voltsError = 0, resistanceError = 0; ///< what is not known, as shares
    std::string how;                            ///< a sentence: what it rests on
};

/// Regulation by volt-amperes as a share: 10 VA 0.20, 30 VA 0.14, 60 VA 0.10, 120 VA 0.08, 250 VA 0.055, 500 VA 0.04,
/// between them straight over the logarithm. Transformers of one size differ by a third either way.
double regulationOf(double voltAmperes);

/// `volts` a leg at `amps` as printed on it. A Problem where the figures make no sense.
Expected<SourceModel> fromNameplate(double volts, double amps, double voltAmperes);

struct WindingReadings {
    double noLoadVolts = 0;              ///< of a leg [V RMS]
    double mainsVolts = 0;               ///< at the primary then [V RMS]
    double legOhms = 0, primaryOhms = 0; ///< [ohm]
};
/// Readings with the errors of the build's meter.
Expected<SourceModel> fromWindings(const Build& build, const WindingReadings& readings);

struct LoadedTest {
    double noLoadVolts = 0; ///< of a leg [V RMS]
    double mainsVolts = 0;  ///< at the primary, in both readings [V RMS]
    double ohms = 0;        ///< the load, its value known to the meter's accuracy
    double dcVolts = 0;     ///< across it, behind the build's rectifier and first capacitor
};
/// The resistance that explains the fall, solved backwards through the rectifier and the first capacitor of the build.
Expected<SourceModel> fromLoadedTest(const Build& build, const Catalogue& catalogue, const LoadedTest& test);

/// Puts a model into the build: volts, copper of a leg (what the primary contributes taken off), and their tolerances.
Edit useSource(const Build& build, const SourceModel& model);

/// How far each named figure of `nominal` moves, by id, where the plate winding's volts and the copper are off by their
/// tolerances, as the root of squares.
Expected<std::map<std::string, double>> sourceUncertainty(const Build& build, const Catalogue& catalogue,
                                                          const Steady& nominal, std::stop_token stop = {});

} // namespace ember::plan
