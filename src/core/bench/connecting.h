#pragma once
// How instruments are connected to an output, in words.

#include "core/plan/figures.h"

#include <string>

namespace ember::bench {

/// How a sound device or an oscilloscope is connected to the output: what is earth, what divides the volts down, what
/// happens when that opens, what the load bears, what comes out at switch-on. `power`: the channel's, or nullptr where
/// it is not known; `switchOn`: plan::switchOnVolts().
std::string connectingWords(const plan::PowerFigures* power, double switchOn);

} // namespace ember::bench
