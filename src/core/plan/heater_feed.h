#pragma once
// What stands between a heater winding and its heaters: a winding in series, resistors in the leads, rectifier,
// reservoir, filter and regulator.

#include "core/build/build.h"
#include "core/catalogue/catalogue.h"
#include "core/circuit/netlist.h"

#include <vector>

namespace ember::plan {

/// The parts of one winding's feed. Its heaters hang between `out` and ground.
struct HeaterFeed {
    circuit::Node out = circuit::ground;
    std::vector<std::size_t> windings;         ///< of the transformer: its own, a centre tap's two halves
    circuit::Node reservoir = circuit::ground; ///< of one that is rectified: behind the diodes
    circuit::Node input = circuit::ground;     ///< and what the regulator sees, behind the filter
    std::vector<circuit::DeviceId> diodes;
    double diodeOhms = 0; ///< in series with each junction
    circuit::DeviceId capacitor = -1, regulator = -1;
};

/// Adds the feed of heater winding `k`; its windings are appended to `iron`, which is added later. A winding in series
/// with another has no feed of its own: `out` is ground.
HeaterFeed addHeaterFeed(circuit::Netlist& netlist, circuit::Transformer& iron, const PowerTransformer& transformer,
                         std::size_t k, const Catalogue& catalogue);

/// Resistance in the way of an AC winding's current: its copper, the one in series with it, the leads' resistors [ohm].
double feedOhms(const PowerTransformer& transformer, const HeaterWinding& winding);

/// Volts from input to output that the regulator needs at `amps` to regulate.
double dropoutAt(const HeaterDc& dc, double amps);

/// The regulator as the solver has it: a linear one keeps two thirds of its dropout down to small currents, a
/// low-dropout one none.
circuit::PortLaw regulatorLaw(const HeaterDc& dc);

} // namespace ember::plan
