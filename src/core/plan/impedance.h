#pragma once
// What a node of the supply looks like to the stage that hangs on it.

#include "steady.h"

namespace ember::plan {

/// 1 Hz to 20 kHz, `count` points. The rectifier conducts in pulses: slower than the mains it is the resistance by
/// which the first node's mean falls with load, solved from a second steady state with 3 % more current; the stages
/// draw with their own slope. Near and above the mains' frequency the first capacitor rules and the pulses matter
/// little.
Expected<ImpedanceCurve> supplyImpedance(const Build& build, const Catalogue& catalogue, const Steady& steady,
                                         int count = 120, std::stop_token stop = {});

} // namespace ember::plan
