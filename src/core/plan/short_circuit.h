#pragma once
// The supply shorted: what flows when the first node of the high voltage touches the chassis.

#include "steady.h"

namespace ember::plan {

struct ShortCircuit {
    double amps = unknown;        ///< mean of what flows into the short [A]
    double rms = unknown;         ///< and its RMS [A]
    double primaryAmps = unknown; ///< RMS in the mains lead [A]
};

/// The supply's own circuit in its steady state with `ohms` from the rectifier's output to ground, everything warm, the
/// stages drawing nothing. A rectifier valve is taken as good until its law ends; a real one may arc over.
Expected<ShortCircuit> shortedRail(const Build& build, const Catalogue& catalogue, double mainsVolts, double ohms);

} // namespace ember::plan
