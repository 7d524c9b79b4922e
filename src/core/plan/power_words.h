#pragma once
#include "figures.h"

namespace ember::plan {

/// "10.4 W at clipping (4.1 % THD) for 1.2 V in, 9.9 W at 3 % THD": of a line's output in volts. Empty where neither is
/// known.
std::string powerWords(const PowerFigures& power);

} // namespace ember::plan
