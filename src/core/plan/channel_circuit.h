#pragma once
// One channel as a netlist: voltage stage, split load, output pair, output transformer, load.

#include "core/build/build.h"
#include "core/catalogue/catalogue.h"
#include "core/circuit/netlist.h"

namespace ember::plan {

/// What the supply gives a channel.
struct ChannelSupply {
    double plate = 0, screen = 0, small = 0;      ///< [V] at its three supply nodes
    double biasA = 0, biasB = 0;                  ///< [V] at the adjusters' wipers, negative
    double smallEmission = 1, outputEmission = 1; ///< of their heaters, 0 .. 1; 0 for a pulled valve
};

struct ChannelCircuit {
    circuit::Netlist netlist;
    circuit::Node input = 0, plate1 = 0, cathode1 = 0, plate2 = 0, cathode2 = 0;
    circuit::Node gridA = 0, gridB = 0, plateA = 0, plateB = 0, screenA = 0, screenB = 0, cathodeA = 0, cathodeB = 0,
                  output = 0;
    circuit::DeviceId source = -1, railPlate = -1, railScreen = -1, railSmall = -1, biasA = -1, biasB = -1, first = -1,
                      second = -1, a = -1, b = -1;
};

/// `drive` is the input voltage: a sine for a tone, zero for the operating point.
ChannelCircuit channelCircuit(const Channel& channel, const Catalogue& catalogue, const ChannelSupply& supply,
                              const circuit::Waveform& drive = {});

} // namespace ember::plan
