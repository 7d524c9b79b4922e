#pragma once
// What stands on which chassis of a tower.

#include "core/build/build.h"

namespace ember::chassis::arrange {

/// The supply below: power transformers, chokes, rectifiers, capacitors and boards of the supply on the lower plate,
/// inlet, fuses, switches, lamp and earth bolt on its walls, and what else stood below before; all else above. Each
/// keeps its place on its face, locked parts their face too. The storey is at least what the parts below need.
Chassis asTower(const Build& build);

/// Everything on the upper chassis, but locked parts.
Chassis asOne(const Chassis& chassis);

} // namespace ember::chassis::arrange
