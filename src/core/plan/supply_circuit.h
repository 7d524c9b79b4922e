#pragma once
// The high-voltage supply, heaters, bias supply and limiter of a Build as one netlist, from the wall socket on.

#include "conditions.h"

#include "core/build/build.h"
#include "core/catalogue/catalogue.h"
#include "core/circuit/netlist.h"

namespace ember::plan {

/// What hangs on a supply node, as its tangent: amps + siemens (v - at).
struct NodeLoad {
    double amps = 0, siemens = 0, at = 0; ///< [A, S, V]
};

/// Heaters of one type on one winding.
struct HeaterGroup {
    std::size_t winding = 0; ///< index in transformer.heaters
    std::string type;        ///< of the valve
    int count = 1;
    circuit::IncandescentLaw law;
};

/// Per section of the chain its devices: one, or capacitors in series from the top down.
using Chain = std::vector<std::vector<circuit::DeviceId>>;

struct SupplyCircuit {
    circuit::Netlist netlist;
    circuit::Node mains = 0, primary = 0, legA = 0, legB = 0;
    std::vector<circuit::Node> rails;       ///< [0] is the rectifier's output
    std::vector<circuit::Node> heaterNodes; ///< per winding
    circuit::Node biasReservoir = 0, biasRail = 0;
    std::vector<circuit::Node> wipers; ///< per output valve, channel by channel, a then b; empty: no bias supply
    circuit::DeviceId source = -1, transformer = -1;
    std::vector<circuit::DeviceId> rectifiers; ///< those that lead to the rail first
    std::size_t toRail = 0;                    ///< how many those are
    Chain sections;
    int windingLegA = 1;
    circuit::DeviceId lamp = -1;            ///< when the lamp and the heaters are live
    std::vector<circuit::DeviceId> heaters; ///< per heater group, likewise
};

/// The heaters that are in circuit under `c`, cold.
std::vector<HeaterGroup> heaterGroups(const Build& build, const Catalogue& catalogue, const Conditions& c);

/// Lamp and heaters: resistances at a held temperature, or devices whose temperature a run through time moves.
enum class Filament { Held, Live };

/// `lampKelvin` and the groups' temperatures are held or the start; loads are per supply node; `rectifierEmission` 0
/// .. 1.
SupplyCircuit supplyCircuit(const Build& build, const Catalogue& catalogue, const Conditions& c,
                            const std::vector<NodeLoad>& loads, const std::vector<HeaterGroup>& heaters,
                            double lampKelvin, double rectifierEmission, Filament filaments = Filament::Held);

/// The chain behind the rectifier: sections, bleeders and loads; appends the nodes after `rails[0]`. `middle`: where a
/// doubler's first two capacitors meet, or ground for none. A switch is a ContactLaw, closed.
Chain addChain(circuit::Netlist& netlist, const Supply& supply, std::vector<circuit::Node>& rails,
               circuit::Node middle = circuit::ground);

/// One rectifier leg from `anode` to `cathode`; `inSeries` silicon diodes act as one of so many times the drop.
circuit::DeviceId addRectifier(circuit::Netlist& netlist, const RectifierType& type, double emission, int inSeries,
                               circuit::Node anode, circuit::Node cathode);

/// Everything between the winding's ends and the rail. `legB` is the winding's other end, the second leg's end of a
/// centre tap, or the doubler's middle; not used for a half wave.
struct RectifierBank {
    std::vector<circuit::DeviceId> devices; ///< those that lead to the rail first
    std::size_t toRail = 0;
};
RectifierBank addRectifiers(circuit::Netlist& netlist, Connection connection, const RectifierType& type,
                            const RectifierType& silicon, double emission, int inSeries, circuit::Node legA,
                            circuit::Node legB, circuit::Node rail);
/// A winding as an EMF [V RMS] with its resistance [ohm], a leg each, as the connection wants it; `b` is what
/// addRectifiers() takes for `legB`.
struct EmfLegs {
    circuit::Node a = circuit::ground, b = circuit::ground;
    std::vector<circuit::DeviceId> sources;
};
EmfLegs addLegs(circuit::Netlist& netlist, Connection connection, double emf, double ohms, double frequency);
/// Whether the winding has two ends that both swing against ground.
bool floatingWinding(Connection connection);

} // namespace ember::plan
