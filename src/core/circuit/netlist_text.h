#pragma once
// A circuit as the text that general circuit simulators read.

#include "netlist.h"

#include <map>
#include <string>

namespace ember::circuit {

/// One element a line in the usual letters: R, C, L, V, I, D with .model cards, K for each pair of coupled windings, B
/// for a current law written out. `names`: what a device is called; others are numbered.
std::string elementsText(const Netlist& netlist, const std::map<DeviceId, std::string>& names = {});

/// How elementsText() writes a node: letters, digits and underscores only; ground is 0.
std::string nodeText(const Netlist& netlist, Node node);

} // namespace ember::circuit
