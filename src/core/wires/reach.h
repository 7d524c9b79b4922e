#pragma once
// What reaches a channel's output of small voltages in its returns, its supply and its grids: small-signal transfers at
// the mains' harmonics, and the noise that its own resistors and valves make.

#include "harness.h"

#include "core/plan/steady.h"

#include <complex>

namespace ember::wires {

/// At one frequency: volts at the output, against the output's own return, for 1 V or 1 A at each place.
struct ReachAt {
    double hertz = 0;
    std::complex<double> input = 0;                          ///< the gain
    std::vector<std::complex<double>> grounds;               ///< by ground point: its volts
    std::vector<std::complex<double>> nodes, wipers;         ///< by supply node; by bias adjuster: their volts
    std::vector<std::complex<double>> grids;                 ///< by valve: volts in series with its grid
    std::vector<std::complex<double>> gridAmps, cathodeAmps; ///< by valve: [ohm] for current driven into it
    std::vector<std::complex<double>> iron; ///< by ChannelReach::iron: for 1 V in each turn that its core holds
};

/// The loop that a grid closes with its driver, for what alternating fields induce in it.
struct GridLoop {
    std::string valve;        ///< "V2", "V2/2"
    std::size_t bottle = 0;   ///< in Build::bottles
    std::vector<Vector> path; ///< from the driver's return by the driver and the grid to its own return
};

std::vector<GridLoop> gridLoops(const Build& build, const Catalogue& catalogue, const Harness& harness,
                                std::size_t channel);

/// The channel driven by its input at 1 kHz: what flows into its returns from the parts, for 1 V at its output.
struct ReturnReach {
    ReachAt at;                             ///< at that frequency
    std::vector<std::complex<double>> amps; ///< by ground point [A]
};
inline constexpr double signalHertz = 1000;

struct ChannelReach {
    std::size_t channel = 0;
    ReturnReach signal;
    std::vector<std::string> iron;   ///< ids of its output, interstage and line transformers
    std::vector<double> ironHenries; ///< inductance at the first coil of each [H]
    std::vector<double> ironTurns;   ///< of that coil, as the circuit counts them
    std::vector<ReachAt> harmonics;  ///< 1 .. 12 times the mains; empty: its operating point was not solved
    double noise = plan::unknown, weightedNoise = plan::unknown; ///< [V RMS] at the output, 20 Hz .. 20 kHz; A-weighted
};

/// Of every channel, its input shorted at its jack; channels alike are solved once. Noise: 4 k T R of every resistor
/// (Johnson 1928); a triode as a resistor 2.5 / gm at its grid, a pentode Ia/(Ia + Is) (2.5 / gm + 20 Is / gm^2)
/// (Harris 1947); below 2 kHz it rises as 1/f, as oxide cathodes do, by a factor of ten either way.
std::vector<ChannelReach> reachesOf(const Build& build, const Catalogue& catalogue, const Harness& harness,
                                    const plan::Steady& nominal);

inline constexpr double flickerCorner = 2000; ///< [Hz]

} // namespace ember::wires
