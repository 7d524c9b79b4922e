#pragma once
// The ways of joining the returns, each tried on this layout.

#include "hum.h"

namespace ember::wires {

struct School {
    GroundScheme scheme = GroundScheme::LocalStars;
    /// Of the worst channel [V RMS] at the output, input shorted: everything, and what the returns make of it.
    double rms = plan::unknown, returns = plan::unknown;
    double belowRatedDb = plan::unknown; ///< of that channel
    std::size_t loops = 0;
    double wire = 0; ///< length of all ground wires [m]
};
/// In the order of GroundScheme; the builder's own ground wires stay in each. Of returns by the chassis no volts are
/// given: the network takes the sheet for one point, so that its resistance, and the field's EMF along it, are missing.
std::vector<School> compareSchools(const Build& build, const Catalogue& catalogue, const plan::Figures& figures);

} // namespace ember::wires
