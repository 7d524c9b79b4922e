#pragma once
// What a fault would do: the live conductor on the chassis, the high voltage on the chassis; whether the fuse clears.

#include "ground_network.h"

namespace ember::wires {

struct EarthFaults {
    /// The live conductor touches the chassis: mains volts over the mains' own loop and the wires of this side [A].
    double liveAmps = plan::unknown;
    double liveSeconds = plan::unknown; ///< at most, until the mains fuse has cleared it; infinite: not sure to clear
    double earthVolts = plan::unknown;  ///< from the chassis to the inlet's earth pin meanwhile [V]
    /// From the chassis to true earth meanwhile, half of the mains' loop taken to lie in its earth conductor [V].
    double touchVolts = plan::unknown;
    /// B+1 touches the chassis: RMS there, mains fuse, and signal ground to chassis meanwhile [A, s, V].
    double railAmps = plan::unknown, railSeconds = plan::unknown, groundVolts = plan::unknown;
};

/// The safety earth's wires in series and parallel as they are; a fuse before the fault. Without a safety earth the
/// first four are of a fault that nothing clears: 0 A, infinite, the mains' volts.
/// What flows from B+1 is the plan's (Figures::shorted), unknown until that is computed.
EarthFaults earthFaults(const Build& build, const Harness& harness, const GroundNetwork& network,
                        const plan::Figures& figures);

/// Volts of a lifted bond's two diodes in opposite directions when they carry a fault's current: about 1 V.
inline constexpr double bondDiodeVolts = 1;

} // namespace ember::wires
