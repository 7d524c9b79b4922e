#pragma once
// What a builder can do to one wire: gauge, colour, insulation, another way, away with it.

#include "core/wires/harness.h"

#include <QMenu>

#include <functional>

namespace ember::app {

/// Fills `menu` for a wire of `build`; `edit` is called with what is chosen, and whether it unsolders the wire. The
/// safety earth keeps its colour.
void fillWireMenu(QMenu& menu, const Build& build, const wires::Harness& harness, const wires::Run& run,
                  const std::function<void(const Edit&, bool unsolders)>& edit);

} // namespace ember::app
