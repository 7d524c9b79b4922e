#pragma once
// Setting the output valves: from a sense reading to current, watts and what to turn.

#include "core/build/build.h"
#include "core/catalogue/catalogue.h"
#include "core/plan/figures.h"

namespace ember::procedure {

/// Push-pull, fixed bias: the share of the plate's limit to aim at.
inline constexpr double targetLow = 0.55, targetHigh = 0.70;

struct BiasState {
    std::string valve;
    double cathodeAmps = plan::unknown, plateAmps = plan::unknown, screenAmps = plan::unknown;
    double plateWatts = plan::unknown, screenWatts = plan::unknown;
    double plateLimit = 0, screenLimit = 0; ///< [W]
    double senseLow = 0, senseHigh = 0;     ///< [V] across the sense resistor for the target band
    double turn = 0;    ///< change of the adjuster's position to the middle of the band; negative is hotter
    std::string advice; ///< in words
};

/// From `senseVolts` read across the sense resistor of output valve `side` (0: a, 1: b) of a channel. The screen's
/// share of the cathode current is the plan's for this point; `platePoint` are the plan's volts at nominal mains.
BiasState biasState(const Build& build, const Catalogue& catalogue, const plan::Steady& steady, std::size_t channel,
                    int side, double senseVolts);

} // namespace ember::procedure
