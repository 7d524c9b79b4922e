#pragma once
// Heater volts at every socket: each winding with its copper, its wires in socket order and every heater at its own
// temperature.

#include "harness.h"

#include <map>

namespace ember::wires {

struct WindingVolts {
    double volts = plan::unknown, amps = plan::unknown; ///< at its tags, RMS
};
struct SocketVolts {
    std::string valve; ///< id
    double rated = plan::unknown;
    double low = plan::unknown, nominal = plan::unknown, high = plan::unknown; ///< [V] RMS at its pins, by mains
    /// DC from cathode to heater, signed: positive when the heater is above. The worst of its sections, warm, or with
    /// the cathode still at 0 V after switch-on. NaN: the winding floats, or the heater is the cathode.
    double heaterCathode = plan::unknown;
    double heaterCathodeLimit = 0; ///< 0: none is published
};
/// Junction temperatures of a regulator at high mains [K], by where it is mounted.
struct RegulatorHeat {
    double watts = plan::unknown;
    double board = plan::unknown, sink = plan::unknown, chassis = plan::unknown; ///< the last unless it is placed
    double now = plan::unknown;                                                  ///< as the build mounts it
    double sinkNeeded = plan::unknown;                                           ///< [K/W], at most
};
struct HeatedWinding {
    std::string id;
    WindingVolts low, nominal, high;
    double ratedAmps = 0;
    double coldAmps = plan::unknown;  ///< RMS in the moment of switching on, nominal mains
    bool floating = false;            ///< feeds signal valves, and nothing ties it to ground
    std::vector<SocketVolts> sockets; ///< in the order of the wires
    std::optional<RegulatorHeat> regulator;
    bool partOfAnother = false; ///< in series with another winding, whose heaters it feeds
};
struct HeaterFigures {
    std::vector<HeatedWinding> windings;
    std::map<std::string, double> runAmps; ///< by wire, RMS at nominal mains
};

/// From the plan's steady states; a mains that was not solved stays unknown. An AC winding's EMF is the plan's volts
/// with the drop in its copper and leads added. Rectified volts are taken as the plan has them: what the wires take off
/// the current moves them by less than a hundredth of what the wires drop.
HeaterFigures heaterFigures(const Build& build, const Catalogue& catalogue, const Harness& harness,
                            const plan::Figures& figures);

inline constexpr double jointOhms = 0.002; ///< of a soldered joint or a lug

} // namespace ember::wires
