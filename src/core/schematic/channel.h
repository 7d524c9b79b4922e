#pragma once
// A channel of a Build as parts with pins on nets.

#include "schematic.h"

#include "core/build/build.h"
#include "core/catalogue/catalogue.h"

namespace ember::schematic {

/// Where a channel joins the rest of the amplifier.
struct ChannelNets {
    NetId plates, screens, small; ///< its supply nodes
    NetId biasA, biasB;           ///< the adjusters' wipers
};

/// What the heaters let the valves emit, 0 .. 1; 0 for a pulled valve.
struct ChannelEmissions {
    double small = 1, outputs = 1;
};

/// Adds a channel's parts and nets: double triode, split load, output pair, output transformer, load. Nets are named by
/// valve and electrode ("V2 plate 1"), the input "Left input", the output "Left output". `place`: the channel's pointer
/// in the Build, "/channels/0".
void addChannel(Schematic& schematic, const Channel& channel, const std::string& place, const Catalogue& catalogue,
                const ChannelNets& nets, const ChannelEmissions& emissions = {});

/// Names of a channel's nets.
std::string inputNet(const Channel& channel);
std::string outputNet(const Channel& channel);

} // namespace ember::schematic
