#pragma once
// The supply as the text that circuit simulators read, for whoever wants to check it elsewhere.

#include "core/build/build.h"
#include "core/catalogue/catalogue.h"
#include "core/circuit/netlist.h"

#include <string>

namespace ember::plan {

/// One element a line in the usual letters: R, C, L, V, I, D with .model cards, K for coupled windings, B for a current
/// law written out. `title` becomes the first line. Valve stages are not in it: their currents are.
std::string netlistText(const circuit::Netlist& netlist, const std::string& title, double seconds, double step);

/// The high-voltage supply at nominal mains, with the stages' steady currents as loads.
std::string supplyNetlistText(const Build& build, const Catalogue& catalogue, const std::vector<double>& amps);

} // namespace ember::plan
