#pragma once
// Every wire of a build: proposed from schematic and layout, with what the builder decided laid over it.

#include "ground_points.h"
#include "route.h"

#include "core/plan/figures.h"

namespace ember::wires {

/// In the order of the work: the safety earth is the first on.
enum class RunKind { Earth, Mains, Heater, Winding, Ground, HighVoltage, Bias, Signal, Output };
const char* nameOf(RunKind kind);

struct Run {
    Wire wire; ///< as it stands: ends, area, colour, insulation and pitch filled in
    RunKind kind = RunKind::Signal;
    std::string net;
    std::string heater;                   ///< of a heater wire: id of its winding
    std::string twistedWith;              ///< id of the other wire of its pair; empty: none
    bool screened = false;                ///< a screened lead, its screen earthed at the first end alone
    bool own = false;                     ///< the builder's: nothing proposes it
    std::size_t fromSpot = 0, toSpot = 0; ///< placed parts; of "chassis" the other end's
    std::vector<Vector> path;             ///< below the plate, from end to end
    double length = 0;                    ///< cut length: path, dress and strips at both ends [m]
    double ohms = 0;                      ///< of the copper at 20 C along the path
    double worstVolts = plan::unknown;    ///< to ground, crest, at its worst moment [V]
    /// RMS [A], where it is more than a signal's; of a ground wire the alternating part.
    double amps = plan::unknown;
    int fromPoint = -2, toPoint = -2; ///< of a ground wire: index of its points, -1 the chassis
    [[nodiscard]] bool pair() const { return !twistedWith.empty(); }
    /// The lesser of its two joints.
    [[nodiscard]] Joint state() const { return std::min(wire.fromJoint, wire.toJoint); }
};

struct Harness {
    Terminals terminals;
    std::vector<GroundPoint> points;
    std::vector<Run> runs;         ///< in the order of their kinds
    std::vector<Problem> problems; ///< ends that are not there
    [[nodiscard]] const Run* find(std::string_view id) const;
};

/// Ids are made of the ends, so that they stay while the ends do. Heaters go from socket to socket in twisted pairs,
/// output valves first, each next the nearest; a net's other wires join its places by the shortest ways.
Harness harnessOf(const Build& build, const Catalogue& catalogue);

/// Of one thickness and colour, all cut lengths together.
struct WireMetres {
    double area = 0; ///< [m2]
    std::string colour;
    double metres = 0;
};
/// The thinnest first.
std::vector<WireMetres> wireToBuy(const Harness& harness);
inline constexpr double copper = 0.01724e-6; ///< resistivity at 20 C [ohm m], IEC 60028
inline constexpr const char* chassisEnd = "chassis";

} // namespace ember::wires
