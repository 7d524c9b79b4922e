#pragma once
// Heater windings in the whole amplifier: coils, reference, what makes direct current, and every bottle's heater pins.

#include "whole.h"

#include <functional>

namespace ember::schematic {

/// Takes a part and what it serves into the whole amplifier.
using PutPart = std::function<PartId(Serves, Part)>;

/// The power transformer's heater coils onto `iron`, and the parts between them and the heaters: the winding in series,
/// resistors in the leads, rectifier, reservoir, filter, regulator, reference with its divider. Heaters hang between
/// the nets heaterNet(id, 'a') and heaterNet(id, 'b'); of direct current 'a' is plus.
void addHeaterWindings(Schematic& schematic, const Build& build, const Catalogue& catalogue, Part& iron,
                       const PutPart& put);

/// Names of the nets that a bottle's heater lies between; of a string the joints between its heaters.
std::pair<std::string, std::string> heaterNetsOf(const Build& build, const Valve& bottle, std::size_t winding);

/// Every bottle's heater pins onto its winding's nets; heaters of a string one behind the other.
void addHeaterPins(Schematic& schematic, const Build& build, const Catalogue& catalogue);

} // namespace ember::schematic
