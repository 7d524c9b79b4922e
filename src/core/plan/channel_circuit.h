#pragma once
// One channel of the schematic at given supply volts.

#include "core/schematic/path_schematic.h"
#include "core/schematic/solve.h"

namespace ember::plan {

/// What the supply gives the channels.
struct ChannelSupply {
    std::vector<double> nodes;    ///< [V] by supply node, B+1 first
    std::vector<double> wipers;   ///< [V] by adjuster of the build, negative
    std::vector<double> emission; ///< by bottle of the build: of its heater, 0 .. 1; 0 for a pulled one
};

/// Mistakes of wiring, by names: what a fault or a mistake changes in the channels' nets.
using Miswiring = std::vector<schematic::NamedVariation>;

using HeldChannel = schematic::ChannelSchematic;
/// The channel, miswired where it is told to be.
HeldChannel miswired(HeldChannel held, const Miswiring& wiring);
/// Its supply nodes and bias lines held at these volts, its input driven: a sine for a tone, any signal, zero for the
/// operating point.
HeldChannel heldChannel(const Build& build, const Catalogue& catalogue, std::size_t channel,
                        const ChannelSupply& supply, const circuit::Waveform& drive = {}, const Miswiring& wiring = {});

} // namespace ember::plan
