#pragma once
// How a kind of wire is drawn wherever it is: colour and dashes.

#include "core/wires/harness.h"

#include <QPen>

namespace ember::app {

QPen penOf(wires::RunKind kind, double width);

} // namespace ember::app
