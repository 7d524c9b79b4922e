#pragma once
// A channel for small signals: gain and impedance stage by stage, output impedance, and whether it rests.

#include "steady.h"

namespace ember::plan {

/// Of every stage of every channel; `power` for the volts at clipping, where it is known.
std::vector<std::vector<StageFigures>> stageFigures(const Build& build, const Catalogue& catalogue,
                                                    const Steady& steady, const std::vector<PowerFigures>& power);

/// The channel without its load.
HeldChannel withoutLoad(HeldChannel held, const Build& build, std::size_t channel);

/// Impedance at a channel's output without its load, and what its source sees [ohm], 1 kHz. NaN: not solved.
struct Ports {
    double outputOhms = unknown, inputOhms = unknown;
    double gain = unknown; ///< of the signal that enters
};
Ports portsOf(const Build& build, const Catalogue& catalogue, const Steady& steady, std::size_t channel);

/// The ends of a channel's response for small signals, the input driven by a source without impedance.
struct ResponseEnds {
    double gain = unknown;                ///< at 1 kHz
    double low = unknown, high = unknown; ///< [Hz] 3 dB below that; NaN: not between 0.1 Hz and 1 MHz
};
ResponseEnds responseEnds(const Build& build, const Catalogue& catalogue, const Steady& steady, std::size_t channel);

/// Channels whose small-signal poles lie in the right half plane: as built, without the load, and into 0.1 uF beside
/// the load, as a long cable or an electrostatic loudspeaker is.
std::vector<Oscillation> oscillationsOf(const Build& build, const Catalogue& catalogue, const Steady& steady);

/// Of every channel whose output transformer's leakage and winding capacitance are known and that has feedback:
/// 1 / (2 pi sqrt(L C)), and the gain with the feedback's resistors open against the gain as built.
std::vector<LeakageResonance> resonancesOf(const Build& build, const Catalogue& catalogue, const Steady& steady);

} // namespace ember::plan
