#pragma once
// One channel of the schematic at given supply volts, as the solver needs it.

#include "core/schematic/channel.h"
#include "core/schematic/solve.h"

namespace ember::plan {

/// What the supply gives a channel.
struct ChannelSupply {
    double plate = 0, screen = 0, small = 0;      ///< [V] at its three supply nodes
    double biasA = 0, biasB = 0;                  ///< [V] at the adjusters' wipers, negative
    double smallEmission = 1, outputEmission = 1; ///< of their heaters, 0 .. 1; 0 for a pulled valve
};

/// A channel by itself, its supply nodes and bias lines held by sources, its input driven.
struct HeldChannel {
    schematic::Schematic schematic;
    schematic::PartId source, railPlate, railScreen, railSmall, biasA, biasB; ///< Voltage parts
    schematic::PartId small, a, b;                                           ///< bottles
    schematic::NetId output;
};
/// `drive` is the input voltage: a sine for a tone, zero for the operating point.
HeldChannel heldChannel(const Channel& channel, const Catalogue& catalogue, const ChannelSupply& supply,
                        const circuit::Waveform& drive = {});

struct ChannelCircuit {
    circuit::Netlist netlist;
    circuit::Node input = 0, plate1 = 0, cathode1 = 0, plate2 = 0, cathode2 = 0;
    circuit::Node gridA = 0, gridB = 0, plateA = 0, plateB = 0, screenA = 0, screenB = 0, cathodeA = 0, cathodeB = 0,
                  output = 0;
    circuit::DeviceId source = -1, railPlate = -1, railScreen = -1, railSmall = -1, biasA = -1, biasB = -1, first = -1,
                      second = -1, a = -1, b = -1;
};
ChannelCircuit channelCircuit(const Channel& channel, const Catalogue& catalogue,
                              const ChannelSupply& supply, const circuit::Waveform& drive = {});

} // namespace ember::plan
