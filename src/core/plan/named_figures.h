#pragma once
// The supply's figures as one list, for whatever compares, spreads or exports them.

#include "figures.h"

#include "core/build/build.h"
#include "core/quantity/unit.h"

namespace ember::plan {

struct NamedFigure {
    std::string id, label; ///< "b1.mean", "B+1"
    Unit unit = Unit::None;
    double value = unknown;
    bool ofPart = false; ///< of one part, not of the supply as a whole
};

/// Of one steady state: per node volts and ripple, rectifier, winding, mains with its power factor, every part's watts
/// and ripple current, chokes, bias, heaters.
std::vector<NamedFigure> namedFigures(const Build& build, const Steady& steady);

/// The power transformer's copper heat [W] from the RMS currents of its windings; of a leg with taps as if its whole
/// copper carried what the stretch at the centre carries.
double copperWatts(const Build& build, const Steady& steady);

} // namespace ember::plan
