#pragma once
// What alternates in an amplifier and induces: iron, heater pairs, the rectifier's charging current.

#include "ground_network.h"
#include "heaters.h"

namespace ember::wires {

/// With their amplitudes at the mains' harmonics; `returns` as returnCurrents() gives them. Phases between sources are
/// not known.
std::vector<FieldSource> fieldSources(const Build& build, const Harness& harness, const HeaterFigures& heaters,
                                      const plan::Steady& nominal, const std::vector<Eigen::VectorXcd>& returns);

} // namespace ember::wires
