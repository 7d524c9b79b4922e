#pragma once
// What limits a channel at a tone's level: which valve, on which side, or which iron.

#include "tone.h"

namespace ember::plan {

/// One valve over a period of the tone, volts to its cathode.
struct ValveSwing {
    std::string valve; ///< "V3", with its half where it has several: "V1.2"
    std::string side;  ///< of a stage with two: "a", "b"
    schematic::Duty duty = schematic::Duty::Gain;
    double gridCrest = unknown, gridLeast = unknown;  ///< [V]
    double plateLeast = unknown, plateMean = unknown; ///< [V]
    double cutShare = 0; ///< of the period in which less than 2 % of its greatest current flows
    double gridAmps = 0; ///< at the grid's crest
};
struct Clipping {
    double inputRms = 0, hertz = 0;
    std::vector<ValveSwing> valves; ///< in the path's order
    double fluxShare = unknown;     ///< crest of the output core's flux over its rated one; unknown: the rating is not
    std::string words;              ///< one sentence
};
/// Solved at the tone with the supply's sag, every channel driven where `every`.
Expected<Clipping> clippingAt(const Build& build, const Catalogue& catalogue, const Steady& steady, std::size_t channel,
                              bool every, const Tone& tone);

} // namespace ember::plan
