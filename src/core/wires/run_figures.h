#pragma once
// What wires carry and bear, and what they have to be made of for it.

#include "harness.h"

#include <array>

namespace ember::wires {

/// Fills in what flows and what stands across, from the plan's figures.
void addFigures(Harness& harness, const Build& build, const plan::Figures& figures);

/// What a wire in a bundle inside a chassis may carry for long [A]: 10.3 A at 1 mm2, as the power 0.627 of its area;
/// IEC 60204-1:2016 table 6, method B1, 40 C, continued to thin wires by the same power.
double mostAmps(double area);
/// Conductors that are sold [m2]; the least of them that may carry so much.
inline constexpr std::array standardAreas{0.22e-6, 0.5e-6, 0.75e-6, 0.82e-6, 1e-6, 1.5e-6, 2.5e-6, 4e-6};
double leastArea(double amps);
/// The usual rating of insulation [V] that bears this with a fifth to spare: 300, 600, 1000 or 3000 V.
double insulationFor(double volts);

} // namespace ember::wires
