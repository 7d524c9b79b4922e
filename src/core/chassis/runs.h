#pragma once
// The wires that a layout calls for, and how long each one is.

#include "assembly.h"

#include "core/build/build.h"

#include <string>

namespace ember::chassis {

enum class RunKind { Mains, Winding, HighVoltage, Heater, Signal, Speaker };

struct Run {
    RunKind kind = RunKind::Signal;
    std::size_t from = 0, to = 0; ///< parts
    std::string what;             ///< "mains, switched", "heaters, pair" ...
    double length = 0;            ///< cut length [m]
};

/// Of every kind in the order of the work. Lengths follow the chassis: along x, then y, then up or down, with 15 mm at
/// each end to dress and 8 mm to strip; heaters go from socket to socket, output valves first, each next the nearest.
/// Parts that are not placed are left out.
std::vector<Run> wiringRuns(const Build& build);

/// Shielded lead from an input of `channel` to its first grid, by way of the volume control [m]; NaN when it is not
/// placed.
double inputLead(const Build& build, std::size_t channel);

} // namespace ember::chassis
