#pragma once
#include "core/plan/supply_case.h"

namespace ember::bench_peer {

/// The same supply by a general integrator (SUNDIALS CVODE, BDF, relative tolerance 1e-6) from cold until a period
/// repeats within 3e-6; returns the mean volts of node 1 over the last period, or NaN.
double integrateFromCold(const plan::SupplyCase& supply);

} // namespace ember::bench_peer
