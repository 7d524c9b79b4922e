#pragma once
// The high-voltage supply, heaters, bias supply and limiter of a Build as one netlist, from the wall socket on.

#include "conditions.h"
#include "heater_feed.h"
#include "heater_groups.h"

#include "core/build/plate_winding.h"
#include "core/catalogue/catalogue.h"
#include "core/circuit/choke.h"

#include <functional>
#include <map>
#include <optional>

namespace ember::plan {

/// What hangs on a supply node, as its tangent: amps + siemens (v - at) + perBias (bias rail - biasAt).
struct NodeLoad {
    double amps = 0, siemens = 0, at = 0; ///< [A, S, V]
    double perBias = 0, biasAt = 0;       ///< [S, V]
};

/// Both ends of a leg's tap, or of a tap's own winding.
struct TapEnds {
    circuit::Node a = circuit::ground, b = circuit::ground;
};

/// Per section of the chain its devices: one, or capacitors in series from the top down.
using Chain = std::vector<std::vector<circuit::DeviceId>>;

struct SupplyCircuit {
    circuit::Netlist netlist;
    circuit::Node mains = 0, primary = 0, legA = 0, legB = 0;
    std::vector<circuit::Node> rails;      ///< [0] is the rectifier's output
    std::vector<HeaterFeed> feeds;         ///< per heater winding
    std::vector<circuit::Node> references; ///< per heater winding: its divider; ground: none
    circuit::Node biasReservoir = 0, biasRail = 0;
    std::vector<circuit::Node> wipers; ///< per adjuster of the build; empty: no bias supply
    circuit::DeviceId source = -1, transformer = -1;
    std::vector<circuit::DeviceId> rectifiers; ///< those that lead to the rail first
    std::size_t toRail = 0;                    ///< how many those are
    Chain sections;
    std::map<std::size_t, TapEnds> taps; ///< by section
    int windingLegA = 1;                 ///< the part of leg A next to the centre: what the taps draw flows there too
    circuit::DeviceId lamp = -1;         ///< when the lamp and the heaters are live
    std::vector<circuit::DeviceId> heaters; ///< per heater group, likewise
};

/// The share of the bias rail at an adjuster's wiper, 0 hottest .. 1 coldest.
double wiperShare(const BiasSupply& bias, double position);

/// Lamp and heaters: resistances at a held temperature, or devices whose temperature a run through time moves.
enum class Filament { Held, Live };

/// The mains by its RMS volts and its crest over those: a sine with as much third harmonic as flattens it so far. Its
/// crest is amplitude (1 - third), its RMS amplitude sqrt((1 + third^2) / 2).
circuit::Waveform mainsWave(double volts, double hertz, double crest);

/// What the rectifiers' heaters let them emit, 0 .. 1 of what a hot one does.
struct Emissions {
    double rectifier = 1;
    std::map<std::string, double> taps; ///< by id; one that is not there: 1
};
/// Every valve rectifier at `emission`, the taps' too.
Emissions rectifiersAt(const Build& build, const Catalogue& catalogue, double emission);

/// `lampKelvin` and the groups' temperatures are held or the start; loads are per supply node; of `emissions` the
/// rectifiers'.
SupplyCircuit supplyCircuit(const Build& build, const Catalogue& catalogue, const Conditions& c,
                            const std::vector<NodeLoad>& loads, const std::vector<HeaterGroup>& heaters,
                            double lampKelvin, const Emissions& emissions, Filament filaments = Filament::Held);

/// What a part is computed with where it is given none of what a circuit needs: 1 mohm, 10 mohm of copper; a choke
/// without inductance is a resistor.
Section asComputed(Section section);
circuit::Choke chokeOf(const Section& choke);
PowerTransformer asComputed(PowerTransformer transformer);

/// What a string of capacitors bears [V]: of those in series the one with the least capacitance takes the most, by the
/// tolerance, or by 5 % where balancing resistors share the volts out.
double stringVolts(const Section& capacitor);

struct RectifierKind {
    const RectifierType &type, &silicon; ///< the second: of a hybrid bridge's two diodes to ground
    double emission = 1;
    int inSeries = 1;
    double legOhms = 0; ///< in each lead from the winding; 0: none
};
/// What rectifies a tap: its type and emission.
using TapRectifier = std::function<RectifierKind(const Section& tap)>;
TapRectifier tapRectifiers(const Catalogue& catalogue, const Emissions& emissions);

/// The chain behind the rectifier: sections, bleeders and loads; appends the nodes after `rails[0]`. `middle`: where a
/// doubler's first two capacitors meet, or ground for none. A switch is a ContactLaw, closed. `taps` by section; a tap
/// without ends feeds nothing, as after switch-off. A tap's devices are its rectifiers, the two to the rail first.
Chain addChain(circuit::Netlist& netlist, const Supply& supply, std::vector<circuit::Node>& rails,
               circuit::Node middle = circuit::ground, const std::map<std::size_t, TapEnds>& taps = {},
               const TapRectifier& rectifierOf = {});

/// One rectifier leg from `anode` to `cathode`; `inSeries` silicon diodes act as one of so many times the drop.
circuit::DeviceId addRectifier(circuit::Netlist& netlist, const RectifierType& type, double emission, int inSeries,
                               circuit::Node anode, circuit::Node cathode);

/// Everything between the winding's ends and the rail. `legB` is the winding's other end, the second leg's end of a
/// centre tap, or the doubler's middle; not used for a half wave.
struct RectifierBank {
    std::vector<circuit::DeviceId> devices; ///< those that lead to the rail first
    std::size_t toRail = 0;
};
RectifierBank addRectifiers(circuit::Netlist& netlist, Connection connection, const RectifierKind& kind,
                            circuit::Node legA, circuit::Node legB, circuit::Node rail);
/// A winding, a leg each, as the connection wants it; `b` is what addRectifiers() takes for `legB`.
struct EmfLegs {
    circuit::Node a = circuit::ground, b = circuit::ground;
    std::vector<TapEnds> taps; ///< where each stretch but the last ends
    std::vector<circuit::DeviceId> sources;
};
/// `stretches` from the centre outwards; several only where the winding is centre-tapped. `ofOneVolt`: an EMF of 1 V.
EmfLegs addLegs(circuit::Netlist& netlist, Connection connection, const std::vector<Stretch>& stretches,
                const circuit::Waveform& ofOneVolt);
/// Whether the winding has two ends that both swing against ground.
bool floatingWinding(Connection connection);

} // namespace ember::plan
