#pragma once
// The thump that an output gives while the amplifier is switched on.

#include "figures.h"

#include "core/build/build.h"

namespace ember::plan {

/// The most volts at a channel's output while the mains comes on, its load connected [V]; NaN: not computed.
/// A line output behind a coupling capacitor: the plate before it rises with its supply node, cold, and the capacitor
/// passes that into the load, R C of both resistors; of a stage without a plate resistor the whole rise, which is the
/// most that it can be. An output transformer: its valves come to life while their cathodes warm, I / t of the plates'
/// current through the primary's inductance (one side of a pair without the other), over its turns; behind a standby
/// switch, which lets the volts come at once to hot valves, the whole supply over its turns.
double switchOnVolts(const Build& build, const Figures& figures, std::size_t channel);

} // namespace ember::plan
