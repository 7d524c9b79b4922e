#pragma once
// What holds the parts down: screws with nuts in metal, wood screws through spacers on a bench board.

#include "core/build/chassis.h"

#include <string>
#include <vector>

namespace ember::chassis {

struct Fixing {
    std::string words;              ///< "screw M4 with nut and washers"; a line of the parts list
    std::vector<std::string> parts; ///< ids of what it holds
    int count = 0;
};

/// One for each hole that a bolt goes through, by the thread that the hole is made for (ISO 273, the next below). On a
/// bench board a wood screw for it, long enough for 14 mm in the wood, and where the part is raised a spacer.
std::vector<Fixing> fixingsOf(const Chassis& chassis);

/// The wood screw that passes a hole of so many metres: its thread [mm].
double woodScrewFor(double hole);

} // namespace ember::chassis
