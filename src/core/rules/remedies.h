#pragma once
// Edits that more than one rule proposes.

#include "core/build/edit.h"

#include <optional>

namespace ember::rules {

/// What a resistor's body bears whatever its watts [V]: the usual published limits of film resistors by their size.
double limitingVolts(double watts);

/// A bleeder of about `ohms` from supply node `node`, which stands at `volts` at its worst: as many in series as bear
/// that, each at half its watts at most. E12.
Edit addBleeder(const Build& build, double ohms, double volts, int node = 1);

/// The least standard rating of a capacitor that stands at `most` [V] at nine tenths of it; none above 600 V.
std::optional<double> nextVolts(double most);

} // namespace ember::rules
