#pragma once
// What a bass note and a dip of the mains do to the supply.

#include "solve.h"

namespace ember::plan {

/// What is drawn from a node beyond what the steady state has, at that state's volts [A].
struct Draw {
    int node = 1;
    double amps = 0;
};

/// From the steady state on: `draws` more between `from` and `until`, the mains at `mainsShare` of its volts between
/// the same instants.
struct Disturbance {
    std::vector<Draw> draws;
    double mainsShare = 1;
    double from = 0.2, until = 0.7; ///< [s]
};

/// The nodes' volts, ripple and all, `seconds` long.
Expected<Curve> disturbed(const Build& build, const Catalogue& catalogue, const Steady& steady,
                          const Disturbance& disturbance, double seconds, std::stop_token stop = {});

/// What full power of all channels draws beyond rest, from the nodes that feed plates, screens and small valves: as the
/// solved tone at clipping draws it.
std::vector<Draw> fullPower(const std::vector<PowerFigures>& power);

/// The same build with every choke replaced by a resistor of its copper's resistance: what the choke is worth.
Build withoutChokes(const Build& build);

} // namespace ember::plan
