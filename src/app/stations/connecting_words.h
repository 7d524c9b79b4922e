#pragma once
#include "core/plan/figures.h"

#include <QString>

namespace ember::app {

/// How a sound device or an oscilloscope is connected to the output: what is earth, what divides the volts down, what
/// happens when that opens, what the load bears. `power`: the channel's, or nullptr where it is not known.
QString connectingWords(const plan::PowerFigures* power);

} // namespace ember::app
