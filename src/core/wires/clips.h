#pragma once
// On a bench board leads end in clips, so that a part is exchanged without an iron.

#include "harness.h"

namespace ember::wires {

/// Mains and earth never hang on clips, nor does what joins the ground to the chassis.
bool endsInClips(const Chassis& chassis, const Run& run);

struct Clips {
    int count = 0;    ///< two to a lead
    double volts = 0; ///< crest to ground at the worst moment, of the lead that has the most
    double rated = 0; ///< [V] of their sleeves, as of a wire's insulation: insulationFor()
};
Clips clipsOf(const Chassis& chassis, const Harness& harness);

} // namespace ember::wires
