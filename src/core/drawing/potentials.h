#pragma once
// Which of two nets is the higher one, whatever the parts' values are.

#include "drawing.h"

namespace ember::drawing {

/// By net, -1 .. 1: high-voltage nets held at 1, bias lines at -1, ground at 0, and between them one equal resistor for
/// everything that conducts: resistors, chokes, sources, diodes, windings, a valve from plate to cathode and, much
/// less, from its screen. A net that nothing leads to is 0.
std::vector<double> potentials(const Subject& subject);

} // namespace ember::drawing
