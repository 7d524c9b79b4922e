#pragma once
// Setting the output valves: from a reading in the cathode's lead to current, watts and what to turn or change.

#include "core/build/build.h"
#include "core/catalogue/catalogue.h"
#include "core/plan/figures.h"

namespace ember::procedure {

/// The share of the plate's limit to aim at: in class AB of either bias; in class A, single-ended, where a valve idles
/// at its full signal's watts.
inline constexpr double targetLow = 0.55, targetHigh = 0.70, classALow = 0.75, classAHigh = 0.95;

/// An output valve whose current can be read: across a sense resistor, or across the cathode resistor that biases it.
struct BiasPlace {
    std::size_t channel = 0;
    std::size_t valve = 0; ///< in ChannelPoint::valves
    std::string point;     ///< id of the test point: "sense-v3"
    std::string bottle, type, channelName;
    int section = 1;
    int adjuster = -1; ///< of adjustersOf(); -1: cathode bias
    double ohms = 10;  ///< across which it is read
    int sharing = 1;   ///< valves whose current flows there
    bool pushPull = true;
    char side = 'a';
};
std::vector<BiasPlace> biasPlaces(const Build& build, const Catalogue& catalogue);

/// What of the parts between a cathode and ground is at its limit first, at a valve's place in its stage: the bypass's
/// volts, or the resistor's watts [V, V = sqrt(W R)]. Infinite: none is there.
double cathodePartsVolts(const Stage& stage, const std::string& at);

struct BiasState {
    std::string valve;
    double cathodeAmps = plan::unknown, plateAmps = plan::unknown, screenAmps = plan::unknown; ///< of one valve
    double plateWatts = plan::unknown, screenWatts = plan::unknown;
    double plateLimit = 0, screenLimit = 0; ///< [W]; of a triode the second is 0
    double senseLow = 0, senseHigh = 0; ///< [V] to read for the target range; of cathode bias what the plan predicts
    double stopVolts = plan::unknown;   ///< [V] at which the plate or the cathode is at its published limit
    double turn = 0;    ///< change of the adjuster's position to the middle of the band; negative is hotter
    std::string advice; ///< in words
};

/// From `volts` read at a place. The screen's share of the cathode current is that of `steady` at this point, solved at
/// the mains as read; the plate's volts to ground are `plateRead` where a meter read them, else those of `steady`.
BiasState biasState(const Build& build, const Catalogue& catalogue, const plan::Steady& steady, const BiasPlace& place,
                    double volts, double plateRead = plan::unknown);

} // namespace ember::procedure
