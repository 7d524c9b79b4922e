#pragma once
// Where a grid begins to take current, as is typical of a valve's cathode.

#include "catalogue.h"

namespace ember {

/// Heating of one section's cathode [W], 1-based: the type's heater, shared by unlike sections as the roots of their
/// rated dissipations (a choice: cathodes of small sections are larger for their watts), by others evenly.
double cathodeWatts(const ValveType& type, int section);

/// [A/V^1.5] of a grid beside a cathode that gives `gm` [A/V]: 0.19 mA/V^1.5 times the root of gm in mA/V. A choice
/// by valves of which grid current is published.
double typicalGridPerveance(double gm);

/// The grid's law of that perveance. With an own cathode, electrons reach a negative grid by their initial velocities:
/// a current as the cathode's area, which goes as its heating, and e-fold per kT/e = 87 mV at 1000 K; 0.3 uA flows at
/// -0.66 V of a cathode of 0.95 W (typical; published limits are -0.9 to -1.3 V). A filament's grid sees the volts
/// along it: spread by Vf / sqrt(12), about an onset of 0 V to its middle.
circuit::GridLaw typicalGrid(const ValveType& type, int section, double perveance);

} // namespace ember
