#pragma once
#include "core/plan/supply_case.h"

namespace ember::bench_peer {

/// The same supply by a general integrator (SUNDIALS CVODE, BDF, relative tolerance 1e-6) from cold until a period
/// repeats within 3e-6; returns the mean volts of node 1 over the last period, or NaN.
double integrateFromCold(const plan::SupplyCase& supply);

/// The same with a relative tolerance of 1e-9 until a period repeats within 1e-8, and one more period sampled finely:
/// of node 1 and of the rectifier. Not a number where it did not end.
struct Integrated {
    double mean, ripplePp, rippleRms; ///< [V]
    double peakAmps, rmsAmps;         ///< of all legs together [A]
};
Integrated integrateFinely(const plan::SupplyCase& supply);

} // namespace ember::bench_peer
