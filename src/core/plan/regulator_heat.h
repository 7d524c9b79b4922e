#pragma once
// How hot a heater regulator gets: Tj = Tambient + P (sum of thermal resistances).

#include "core/build/build.h"

namespace ember::plan {

/// Temperature of the junction [K] at `watts` with `ambient` [K]: on a board by its own case, or on the heat sink.
double junctionOnBoard(const HeaterDc& dc, double watts, double ambient);
double junctionOnSink(const HeaterDc& dc, double watts, double ambient);
/// Screwed to metal of `metal` [K], insulated by a washer as from a sink.
double junctionOnMetal(const HeaterDc& dc, double watts, double metal);

/// The most that a heat sink may have [K/W]; below 0: no sink is enough.
double sinkNeeded(const HeaterDc& dc, double watts, double ambient);

} // namespace ember::plan
