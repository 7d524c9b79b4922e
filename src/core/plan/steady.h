#pragma once
// The steady state of supply, heaters, bias, limiter and stages together, solved until they agree.

#include "channel_circuit.h"
#include "channel_point.h"
#include "figures.h"
#include "supply_circuit.h"

#include "core/base/result.h"
#include "core/circuit/operating_point.h"

#include <stop_token>

namespace ember::plan {

/// Slow quantities and states of a solved steady state: the start of a nearby one.
struct WarmStart {
    std::vector<HeaterGroup> heaters;
    std::vector<double> heaterVolts; ///< of their windings without load, per volt of mains
    double lampKelvin = 1200, mainsVolts = 0;
    std::vector<NodeLoad> loads;
    std::vector<double> volts;          ///< of the nodes
    double biasRail = 0, biasVolts = 1; ///< [V], and of what it hangs on
    std::vector<double> states;
    Eigen::MatrixXd map; ///< how the states at a period's end follow those at its start
    /// Of the supply without valves, which is solved beside each set of figures.
    std::shared_ptr<const WarmStart> unloaded = {};
};

struct SteadyOptions {
    bool cycle = false;      ///< keep the waveforms for drawing
    double tolerance = 2e-5; ///< agreement of node volts between rounds, relative
    std::stop_token stop = {};
    bool rough = false; ///< steps and agreement for a spread of builds: means within 0.05 %, a third of the time
    std::vector<double> musicAmps = {}; ///< [A] per node, mean, that a signal draws beyond what the stages draw at rest
    Miswiring wiring = {};              ///< mistakes in the channels' wiring
};

/// `warm` is used as the start when it fits and holds the solution's slow state afterwards.
Expected<Steady> solveSteady(const Build& build, const Catalogue& catalogue, const Conditions& conditions,
                             const SteadyOptions& options = {}, WarmStart* warm = nullptr);

/// What the supply of a solved steady state gives the channels.
ChannelSupply supplyOf(const Build& build, const Steady& steady);

/// What a winding's heaters draw together [A]; those of a string carry the same.
double heaterAmps(const Steady& steady, const std::string& winding);

/// Heat of the heater windings' copper [W], those in series with another too.
double heaterCopperWatts(const PowerTransformer& transformer, const Steady& steady);

/// The rectifiers', as conditions say "in" and as their heaters reach.
Emissions emissions(const Build& build, const Conditions& conditions, const std::vector<HeaterGroup>& heaters);

} // namespace ember::plan
