#pragma once
// The ways in which iron is sold to be mounted: upright, laid down through a cut-out, open, potted, as a toroid.

#include "bodies.h"

#include "core/build/edit.h"

namespace ember::chassis {

/// What there is for a transformer or a choke; empty for other parts.
std::vector<const BodyKind*> mountingsOf(const PlacedPart& part);

/// Parts `which` in another mounting of their size: bodies, holes, core axis, stray field and lugs change; place,
/// angle, what they are, and their mass against what is typical of the mounting stay. Locked parts and those that have
/// no such mounting stay as they are.
Edit inMounting(const Chassis& chassis, const std::vector<std::size_t>& which, const BodyKind& mounting);

} // namespace ember::chassis
