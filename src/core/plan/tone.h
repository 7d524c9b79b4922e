#pragma once
// A sine through a channel, periodic; alone at given supply volts, or with the sag that it causes.

#include "steady.h"

namespace ember::plan {

struct Tone {
    double inputRms = 0.1, frequency = 1000; ///< [V, Hz]
    std::stop_token stop = {};
    schematic::ToneAccuracy accuracy = schematic::ToneAccuracy::Full;
    Miswiring wiring = {};
};

/// Where a solved tone ended: the start of a nearby one. Also what it showed.
struct ToneRun {
    schematic::ToneResult tone; ///< with the load's volts over one period
    ToneFigures figures;
    std::vector<NodeDraw> draws; ///< mean, from the supply's nodes
};

/// Periodic at the tone through a channel: slow states (coupling capacitors, core) at their averages. The supply nodes
/// are held at `supply`. Starts from `run` when that fits, else from the operating point, else from lower levels.
Expected<Done> solveTone(const Build& build, const Catalogue& catalogue, std::size_t channel,
                         const ChannelSupply& supply, const Tone& tone, ToneRun& run);

/// What a tone does to the supply, level after level.
struct Sag {
    WarmStart warm;
    Steady steady;                              ///< the supply under the tone's load; at first at rest
    std::vector<double> under = {};             ///< [A] per node that `steady` was solved for
    std::vector<std::vector<double>> ohms = {}; ///< how the nodes' volts follow the amps, as learnt (Broyden 1965)
    double back = 0; ///< slope of the drawn current against the assumed one, from the last two rounds
    /// What the signal draws beyond rest at a solved level, per node [A]: the last two, from which the next is
    /// extrapolated.
    struct Level {
        double inputRms = 0;
        std::vector<double> amps;
    };
    Level last = {}, before = {};
};

/// The tone through channel `index` (alone, or all channels alike when `every`) and the supply solved until they agree.
/// `sag` begins as a steady state at rest and is the start of the next level.
Expected<Done> solveToneWithSag(const Build& build, const Catalogue& catalogue, std::size_t index, bool every,
                                const Tone& tone, Sag& sag, ToneRun& run);

} // namespace ember::plan
