#pragma once
// An output transformer from what was read on the bench: ratio, resistances, inductance at two levels, leakage,
// resonance.

#include "core/base/result.h"
#include "core/build/edit.h"
#include "core/build/typical_iron.h"

#include <string>
#include <vector>

namespace ember::plan {

/// What was read; 0: not. AC is RMS. The whole primary, from plate to plate or from plate to supply.
struct IronReadings {
    double hertz = 50;                           ///< of the open readings
    double primaryVolts = 0, secondaryVolts = 0; ///< together, nothing connected: the ratio
    double tapVolts = 0;                         ///< from the primary's supply end to the screen's tap then
    double ohmsA = 0, ohmsB = 0, secondaryOhms = 0;
    double openVolts[2] = {0, 0}, openAmps[2] = {0, 0};      ///< into the primary, secondary open, at two levels
    double shortVolts = 0, shortAmps = 0, shortHertz = 1000; ///< into the primary, secondary shorted
    double resonanceHertz = 0;                               ///< where the shorted primary's impedance has its crest
};

/// One value of the transformer as the readings have it.
struct IronValue {
    std::string key; ///< of OutputTransformer in the file
    double value = 0;
    double error = 0; ///< share of it, from the meter's accuracy
    std::string how;  ///< a sentence
};
struct MeasuredIron {
    std::vector<IronValue> values;
    std::vector<std::string> notes; ///< what could not be said, and what would tell
};
/// `now`: the load, watts and gap as the build has them. Ratio: Z = load (Vp / Vs)^2. Inductance: X = sqrt((V/I)^2 -
/// R^2) over 2 pi f at the lower level. Lowest frequency: the higher level's current against that inductance, solved
/// for the flux at which circuit::CoreLaw draws the rest. Leakage: X of the shorted primary. Capacitance: its resonance
/// with that leakage. A Problem names readings that cannot be.
Expected<MeasuredIron> ironFrom(const OutputTransformer& now, bool pushPull, const Meter& meter,
                                const IronReadings& readings);
/// From the nameplate alone: what stands on it, and what is typical of iron of that class with how far real iron is
/// from it. A Problem names what is missing.
Expected<MeasuredIron> ironFromNameplate(const OutputTransformer& nameplate, IronClass of);
/// The values at a transformer's pointer, as one edit.
Edit useIron(const std::string& pointer, const std::string& id, const MeasuredIron& iron);

/// What a load on a winding looks like from the whole primary, for loads of 2, 4, 8 and 16 ohm; and the usual primary
/// impedances within a tenth of it: which pairs an unknown transformer may have been made for.
struct ReflectedLoad {
    double load = 0, primary = 0; ///< [ohm]
    double usual = 0;             ///< [ohm]; 0: none is near
};
std::vector<ReflectedLoad> reflectedLoads(double primaryVolts, double secondaryVolts);

} // namespace ember::plan
