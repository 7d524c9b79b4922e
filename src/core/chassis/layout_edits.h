#pragma once
// Edits that a layout calls for: a part moved just far enough, turned to a null, sunk until its valve can be drawn.

#include "exposure.h"
#include "fit.h"
#include "stray_field.h"

#include "core/build/edit.h"

#include <optional>

namespace ember::chassis {

/// Moves of parts `which` by (dx, dy) [m] as one edit; locked ones stay.
Edit moveParts(const Chassis& chassis, const std::vector<std::size_t>& which, double dx, double dy);
Edit turnParts(const Chassis& chassis, const std::vector<std::size_t>& which, double degrees);

/// Everything from the lower chassis of a tower to the same place on the upper one, locked parts too. Parts may meet
/// that stood over each other.
Edit toOneChassis(const Chassis& chassis);

/// The chassis in another form; between metal and a bench board its sheet's thickness follows, 2 mm and 18 mm. A plate
/// alone and a bench board have no second chassis below.
Edit inForm(const Chassis& chassis, ChassisForm form);

/// What would mend a problem of fit, checked by placing it: nothing when no small move does.
std::optional<Edit> mend(const Chassis& chassis, const FitProblem& problem, double volts);

/// The height of a tower's storey at which what `victim` picks up is within what is allowed; nothing where 150 mm more
/// are not enough.
std::optional<Edit> quieterStorey(const Chassis& chassis, const Hum& hum, std::size_t victim);

/// Puts a part that is not on the chassis yet at the free place of its face nearest to the middle, in steps of 10 mm.
/// False where there is none: it comes to the middle then. `volts`: what stands between live parts and the rest [V].
bool standFree(const Chassis& chassis, PlacedPart& part, double volts);

/// "move C1 6.0 mm right" for a move.
std::string moveWords(const PlacedPart& part, double dx, double dy);
/// What a part is called on the drawing: its electrical id, else its own.
std::string tagOf(const PlacedPart& part);

} // namespace ember::chassis
