#pragma once
// What the chassis itself is made of and dressed with: sheet, frame, paint, rings, cage. Typical masses.

#include "assembly.h"

#include <string>

namespace ember::chassis {

struct FinishPart {
    std::string words; ///< "aluminium sheet 2 mm, 360 x 230 mm"; a line of the parts list
    int count = 1;
    double mass = 0;   ///< of all of them [kg]
    double height = 0; ///< of their centre over the top [m]
};

/// Sheet or plywood with what stands along its edges; a frame's wood (700 kg/m3); two coats of paint (0.12 kg/m2 dry)
/// where a finish asks for them; bright rings of brass, 4 x 1 mm around each socket; the cage; a tower's second sheet
/// and pillars.
std::vector<FinishPart> finishesOf(const Chassis& chassis, const Assembly& assembly);

inline constexpr double frameBoard = 12e-3;  ///< thickness of a frame's wood [m]
inline constexpr double stripSheet = 1.5e-3; ///< of the strips along a bench board's edges [m]
/// Faces of a bench board where a strip stands: those that carry parts.
std::vector<Face> stripsOf(const Chassis& chassis);

} // namespace ember::chassis
