#pragma once
// What alternates at a heater, against the cathode and the grid beside it.

#include "core/build/build.h"
#include "core/catalogue/catalogue.h"
#include "core/plan/figures.h"

#include <complex>

namespace ember::wires {

/// Share of half an AC heater's volts that is left against the reference in its middle: 4 % of a centre tap as taps are
/// wound, 5 % of two resistors, 1 % of a potentiometer that was set by ear or meter, all where one side is tied or
/// nothing is.
double unbalance(HeaterReference reference);

/// Volts of a heater's middle against its reference at harmonic `k` (0: the mains' own) [V RMS]: of AC what the
/// reference leaves of half its volts, of DC the ripple's half, or what is left of it.
std::complex<double> heaterMiddle(const HeaterWinding& winding, const plan::HeaterFeedFigures* feed, std::size_t k);

/// A filament that is the cathode, heated by AC: what its two halves do to the anode current together, as volts at the
/// grid [V RMS] at twice the mains. Along the filament the cathode's potential is V (x - 1/2), 0 <= x <= 1, against all
/// electrodes; the second order of the current's change i(shift) leaves i''/2 V^2/12 in the mean over x, with V^2 =
/// Vrms^2 (1 - cos 2wt): Vrms^2/24 i''/gm / sqrt 2 in RMS. It is there with a perfect balance.
double filamentSecondHarmonic(const circuit::PortLaw& law, const plan::ValvePoint& at, double filamentVolts);

} // namespace ember::wires
