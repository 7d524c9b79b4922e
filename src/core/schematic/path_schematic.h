#pragma once
// A Build's signal path as parts with pins on nets: one channel by itself with its supply nodes and bias lines held by
// sources, or every channel in one schematic.

#include "stages/stage_builder.h"

namespace ember::schematic {

/// A source that holds a supply node or a bias line.
struct HeldNode {
    int node = 1;         ///< 1 is the rectifier's output
    bool screens = false; ///< as the screens' feed: what flows there is asked for by itself
    PartId source;
};
struct HeldLine {
    std::size_t adjuster = 0; ///< of adjustersOf()
    PartId source;
};

/// One channel, its input driven by the Voltage part "input", everything else that it hangs on held at 0 V until set.
struct ChannelSchematic {
    Schematic schematic;
    PartId source;
    NetId input, output;
    double load = 0; ///< [ohm] at the output; 0: none
    std::vector<HeldNode> nodes;
    std::vector<HeldLine> lines;
    std::vector<ValveUse> valves;
    std::map<std::string, NetId> points;
    std::vector<std::pair<PartId, std::size_t>> stageOf; ///< the stage that brought a part
    std::vector<NetId> before, after; ///< by stage: where the signal comes in and leaves (of two phases the first)
    std::vector<Problem> problems;    ///< of its stages, with their places in the Build; what could be wired is wired
};
ChannelSchematic channelSchematic(const Build& build, const Catalogue& catalogue, std::size_t channel,
                                  const std::vector<double>& emission = {});

/// What is wrong with every channel's path, with places in the Build: a stage that lacks what it needs, a section used
/// twice, a grid without a DC path, a net with one pin, a bottle that no winding heats.
std::vector<Problem> pathProblems(const Build& build, const Catalogue& catalogue);

/// Every channel in one schematic, into `schematic`; a bottle that two channels share is one part. Returns each
/// channel's path.
std::vector<Path> wirePaths(Schematic& schematic, const Build& build, const Catalogue& catalogue,
                            const Surroundings& around, std::size_t from, std::size_t to);

/// By bottle of the build: what it is for. One that serves several stages counts by the last of them in the order of
/// Duty, so that a bottle with an output section is an output valve; one that no stage uses is Duty::Gain.
std::vector<Duty> bottleDuties(const Build& build);

/// A variation by names, to be applied before there is a schematic: a joint that was forgotten, two leads exchanged.
struct NamedVariation {
    enum class Kind { Open, Leak, Swapped, Moved, Missing, Reversed } kind = Kind::Open;
    std::string part, pin;           ///< of Reversed: the coil's index
    std::string otherPart, otherPin; ///< Swapped, Leak: the other lead; Moved: `otherPin` is the net
    double ohms = 0;                 ///< of a leak; where it names no part, its pins are nets
};
/// For this schematic; nothing when it has no such part, pin or net.
std::optional<Variation> resolve(const Schematic& schematic, const NamedVariation& variation);

/// Names of nets.
std::string inputNet(const Channel& channel);
std::string outputNet(const Channel& channel);
std::string nodeNet(int node); ///< "B+2"

} // namespace ember::schematic
