#pragma once
// What of the plan can be seen on the finished amplifier; and its proportions in numbers.

#include "scene.h"

#include "core/build/build.h"
#include "core/chassis/layout_figures.h"
#include "core/plan/figures.h"

namespace ember::chassis::look {

/// Heaters at their volts on nominal mains, the panel meter at its current, the lamp on. Without a plan all is cold.
Operating operatingOf(const Build& build, const plan::Figures& figures);

/// What builders argue about, as numbers.
struct Proportions {
    double underIron = 0;        ///< share of the plate that iron stands on
    double tallest = 0;          ///< [m] over the plate
    double overMean = 0;         ///< the tallest over the mean height of what stands on the plate
    double massX = 0, massY = 0; ///< centre of mass from the plate's middle, to the right and to the back [m]
};
Proportions proportionsOf(const Chassis& chassis, const LayoutFigures& layout);

} // namespace ember::chassis::look
