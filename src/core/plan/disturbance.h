#pragma once
// What a bass note and a dip of the mains do to the supply.

#include "solve.h"

namespace ember::plan {

/// From the steady state on: `amps` more drawn from `node` between `from` and `until`, the mains at `mainsShare` of its
/// volts between the same instants.
struct Disturbance {
    int node = 1;
    double amps = 0;
    double mainsShare = 1;
    double from = 0.2, until = 0.7; ///< [s]
};

/// The nodes' volts, ripple and all, `seconds` long.
Expected<Curve> disturbed(const Build& build, const Catalogue& catalogue, const Steady& steady,
                          const Disturbance& disturbance, double seconds, std::stop_token stop = {});

/// What full power draws beyond rest, all channels [A]: 2/pi of the crest that gives `clipWatts` into the plates' load,
/// as in class B, less what the plates draw at rest.
double burstAmps(const Build& build, const Figures& figures);

/// The same build with every choke replaced by a resistor of its copper's resistance: what the choke is worth.
Build withoutChokes(const Build& build);

} // namespace ember::plan
