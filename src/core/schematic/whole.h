#pragma once
// The whole amplifier as parts with pins on nets: mains, windings, rectifier, chain, bias supply, heaters and every
// channel. For wires, lists and continuity; the supply's and the channels' own circuits are solved elsewhere.

#include "core/build/build.h"
#include "core/catalogue/catalogue.h"
#include "schematic.h"

#include <map>

namespace ember::schematic {

/// Names of parts that the build does not name.
inline constexpr const char *inletPart = "inlet", *earthPart = "earth", *switchPart = "switch";
std::string inputPart(const Channel& channel);
std::string outputPart(const Channel& channel);

/// Names of nets: the safety earth, and the ends of heater winding `id` (side 'a' or 'b').
inline constexpr const char* earthNet = "safety earth";
std::string heaterNet(const std::string& id, char side);
/// Between the resistor in a leg ('a' or 'b') and the rectifier, where there is one.
std::string rectifierLead(char leg);
/// Id of the part that stands for lug `lug` of the board on placement `on`, where wires alone meet there.
std::string junctionPart(const std::string& on, int lug);

/// What a part is there for, where wires, returns and lists ask.
enum class Serves {
    Stage,
    SignalIron, ///< output, interstage and line transformers
    Mains,
    PowerTransformer,
    Rectifier,
    SupplyCapacitor,
    Chain, ///< chokes, resistors, switches, fuses and meters between the supply's nodes
    Bleeder,
    Bias,
    BiasCapacitor,
    HeaterReference,
    HeaterSupply, ///< between a heater winding and its heaters
    Jack,
    Terminals,
    Junction ///< a lug where wires alone meet
};

struct WholeAmplifier {
    Schematic schematic;
    std::vector<Serves> serves; ///< by part
    [[nodiscard]] Serves of(PartId part) const { return serves[static_cast<std::size_t>(part.index)]; }
    /// By part: the supply node that its stage hangs on; 0: of no stage.
    std::vector<int> node;
    /// By channel: the net of its input and of its output.
    std::vector<NetId> inputs, outputs;
    /// By supply node (1 is the rectifier's output): the capacitor whose negative end is that node's return, or none.
    std::vector<PartId> reservoirs;
};
WholeAmplifier wholeAmplifier(const Build& build, const Catalogue& catalogue);

} // namespace ember::schematic
