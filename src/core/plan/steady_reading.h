#pragma once
// What a solved period of the supply says: which quantities are kept, and the figures read from them.

#include "figures.h"
#include "supply_circuit.h"

#include "core/circuit/record.h"

namespace ember::plan {

using circuit::Probe;
using circuit::Recording;

/// The probes of a supply run, by what they are.
struct Probes {
    std::vector<Probe> list;
    /// Of a heater winding; those it does not have are -1.
    struct Feed {
        std::vector<std::size_t> amps;
        std::size_t out, reservoir, input, capacitor, diode, diodeVolts, regulator, reference;
    };
    std::vector<Feed> feeds;
    std::vector<std::size_t> rails, wipers, rectifiers, rectifierVolts, sections;
    std::vector<std::pair<std::size_t, double>> windings;  ///< every secondary's amps, and its turns over the primary's
    std::vector<std::pair<std::size_t, std::size_t>> taps; ///< per section: its two diodes to the rail
    std::map<std::size_t, std::size_t> tapEnds;
    std::size_t legA, legB, primary, mains, mainsAmps, legAmps, primaryAmps, bias, biasRail;
    std::size_t add(Probe p) {
        list.push_back(p);
        return list.size() - 1;
    }
};
Probes probesFor(const SupplyCircuit& supply, const circuit::System& system, const Build& build);

/// Nodes, rectifiers, windings, parts and bias; not what the stages draw, the heaters and the lamp.
void readFigures(Steady& out, const SupplyCircuit& supply, const Probes& probes, const Recording& record,
                 const Build& build);
/// Waveforms over one period of the mains [s], evenly spaced.
void readCycle(Cycle& out, const SupplyCircuit& supply, const Probes& probes, const Recording& record, double period);
/// The ripple's harmonics of the mains, from one period [s].
void readRipple(Steady& out, const Build& build, const Probes& probes, const Recording& record, double period);

} // namespace ember::plan
