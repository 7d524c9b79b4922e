#pragma once
// Parts of the circuit that have no place on the chassis yet, each with a body of the tray; and all of them placed.

#include "core/build/edit.h"
#include "core/catalogue/catalogue.h"
#include "core/plan/figures.h"

#include <stop_token>
#include <string>
#include <vector>

namespace ember::chassis {

struct Missing {
    std::vector<PlacedPart> parts;    ///< with ids that the build does not use, on the face where they usually stand
    std::vector<std::string> unknown; ///< parts for which the tray has no body, as "V3 (UX4)"
};

/// Iron, sockets, capacitors of the supply, power resistors, controls, inputs and outputs of the circuit, and what
/// every chassis needs: inlet, fuse, switch, lamp, safety earth, a tag strip for each channel. Sizes are typical ones
/// to begin with: a power transformer by the volt-amperes of its windings, output iron by four times its watts, chokes
/// by 2 pi f L I^2 at their rated current, capacitors by the energy they store.
Missing missingParts(const Build& build, const Catalogue& catalogue);

/// One edit that places what is missing. On an empty top all is laid out in the best arrangement, on the smallest usual
/// plate that takes it where this one does not. Where parts stand already they stay, and each missing one comes to the
/// free place nearest to the middle of its face. A Problem where nothing is missing, or when stopped.
Expected<Edit> placeAll(const Build& build, const Catalogue& catalogue, const plan::Figures& figures,
                        std::stop_token stop = {});

} // namespace ember::chassis
