#pragma once
// The schematic's figures at a solved steady state: volts by net, amps by pin, watts by part.

#include "steady.h"

#include <map>
#include <optional>

namespace ember::plan {

struct PinFigure {
    std::string part, electrode, net;
    int number = 0;                         ///< on the base; 0: not known
    double volts = unknown, amps = unknown; ///< to ground; into the part
};
struct PartFigure {
    std::string part, role, place; ///< JSON pointer of its main value
    double volts = unknown;        ///< between its first two pins
    double amps = unknown;         ///< into its first pin
    double watts = unknown;
    bool twoEnded = true; ///< it has two pins, so that `volts` is what stands across it
};
struct NetFigure {
    std::string net;
    double volts = unknown;
};
struct SchematicFigures {
    std::vector<NetFigure> nets;
    std::vector<PinFigure> pins; ///< of every bottle, also those that nothing is known to be connected to
    std::vector<PartFigure> parts;
};

/// Of every channel, its supply nodes called "B+2", its bias lines "V3 bias". A Problem names the channel.
Expected<SchematicFigures> schematicFigures(const Build& build, const Catalogue& catalogue, const Steady& steady);

/// The most volts across a part at rest [V].
struct WorstVolts {
    double hot = unknown; ///< at low, nominal or high mains
    double cold =
        unknown; ///< at switch-on: mains high, no valve drawing, the bias at its coldest, nodes at their crest
};
/// The moment that the latter is of; nothing where it was not solved.
std::optional<Steady> coldestMoment(const Build& build, const Figures& figures);
/// By the parts' ids; bottles and transformers, which have more than two ends, are left out.
std::map<std::string, WorstVolts> worstVolts(const Build& build, const Catalogue& catalogue, const Figures& figures);

} // namespace ember::plan
