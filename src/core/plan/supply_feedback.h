#pragma once
// Stages that feed each other through the supply they share.

#include "figures.h"

#include "core/build/build.h"
#include "core/catalogue/catalogue.h"

namespace ember::plan {

/// How an oscillation by this way is called in Oscillation::how.
inline constexpr const char* throughTheSupply = "through the supply";

/// Channels that leave their operating point once their supply nodes are no longer held: each node behind the chain's
/// resistors, chokes and capacitors, node 1 behind `sourceOhms` (ImpedanceCurve::sourceOhms) of transformer and
/// rectifier. Channels alike that hang on one chain swing together, which is their worst: the chain is taken as many
/// times as large as there are channels. Bleeders and loads of constant resistance damp; what other stages draw with
/// the volts is left out, on the unkind side. Below 0.05 Hz nothing is told apart from drift.
std::vector<Oscillation> supplyOscillations(const Build& build, const Catalogue& catalogue, const Steady& steady,
                                            double sourceOhms);

} // namespace ember::plan
