#pragma once
// A plate winding with taps that rectifiers of their own hang on.

#include "build.h"

namespace ember {

/// Sections that are taps, the one next to the centre first.
std::vector<std::size_t> tapsOf(const Supply& supply);

/// A stretch of a winding, to its next tap or its end: EMF [V RMS] and resistance [ohm].
struct Stretch {
    double emf = 0, ohms = 0;
};
/// A leg of the plate winding from the centre outwards: to each tap, then to its end; volts without load at the
/// primary's rated volts, copper alone. Of a winding without a centre one stretch: its taps are windings of their own.
std::vector<Stretch> stretchesOf(const Supply& supply, const PowerTransformer& transformer);

} // namespace ember
