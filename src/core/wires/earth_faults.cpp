#include "earth_faults.h"

#include "heaters.h"

#include "core/plan/fuse_advice.h"

#include <algorithm>
#include <cmath>

namespace ember::wires {

using namespace schematic;

namespace {

/// Wires of one kind from part to part, in series [ohm]; none where the two are not joined.
std::optional<double> along(const Harness& h, RunKind kind, const std::string& from, const std::string& to) {
    // The shortest way in ohms over the few wires that there are (Bellman 1958).
    std::map<std::string, double> reached{{from, 0}};
    const auto part = [](const std::string& terminal) { return terminal.substr(0, terminal.rfind('.')); };
    for (std::size_t pass = 0; pass < h.runs.size(); ++pass) {
        bool changed = false;
        for (const Run& r : h.runs) {
            if (r.kind != kind) continue;
            const std::string a = part(r.wire.from), z = part(r.wire.to);
            for (const auto& [here, there] : {std::pair{a, z}, {z, a}}) {
                const auto at = reached.find(here);
                if (at == reached.end()) continue;
                const double ohms = at->second + r.ohms + 2 * jointOhms;
                const auto [next, fresh] = reached.try_emplace(there, ohms);
                if (fresh || ohms < next->second) next->second = ohms, changed = true;
            }
        }
        if (!changed) break;
    }
    const auto at = reached.find(to);
    return at == reached.end() ? std::nullopt : std::optional(at->second);
}

constexpr double fuseOhms = 0.1; // of a cold mains fuse of about an ampere

} // namespace

EarthFaults earthFaults(const Build& b, const Harness& h, const GroundNetwork& network, const plan::Figures& figures) {
    EarthFaults f;
    const auto earth = along(h, RunKind::Earth, inletPart, earthPart);
    if (earth && h.terminals.find(std::string(inletPart) + ".E")) {
        const std::string fuse = b.fuse.id.empty() ? "fuse" : b.fuse.id;
        const double live = along(h, RunKind::Mains, inletPart, fuse).value_or(0) + fuseOhms,
                     loop = b.mains.loop() + live + *earth + jointOhms;
        f.liveAmps = b.mains.volts / loop;
        f.liveSeconds = plan::fuseClears(f.liveAmps, b.fuse.amps, b.fuse.slow);
        f.earthVolts = f.liveAmps * (*earth + jointOhms);
        f.touchVolts = f.earthVolts + f.liveAmps * b.mains.loop() / 2;
    } else if (!b.chassis.parts.empty()) {
        f.liveAmps = 0, f.liveSeconds = INFINITY, f.earthVolts = f.touchVolts = b.mains.volts;
    }
    // B+1 on the chassis: back through the bond and the returns to the winding.
    std::size_t winding = network.points;
    for (std::size_t k = 0; k < h.points.size() && winding == network.points; ++k)
        if (h.points[k].what == Returns::Winding) winding = k;
    if (winding == network.points) return f;
    if (network.bonds.empty() && b.wiring.grounds != GroundScheme::ChassisReturn) {
        f.railAmps = 0, f.railSeconds = INFINITY;
        return f;
    }
    Eigen::VectorXcd amps = Eigen::VectorXcd::Zero(static_cast<Eigen::Index>(network.points));
    amps[static_cast<Eigen::Index>(winding)] = -1;
    GroundNetwork bound = network;
    const bool lifted = b.wiring.bond == Bond::Lifted && b.wiring.grounds != GroundScheme::ChassisReturn;
    if (lifted) // the diodes carry it
        for (const std::size_t k : bound.bonds) bound.branches[k].ohms = std::min(bound.branches[k].ohms, 0.02);
    const double ohms =
        std::abs(groundVolts(bound, amps, Eigen::VectorXcd::Zero(static_cast<Eigen::Index>(bound.branches.size())),
                             0)[static_cast<Eigen::Index>(winding)]);
    f.railAmps = figures.shorted.rms;
    if (!std::isfinite(f.railAmps)) return f;
    f.railSeconds = plan::fuseClears(figures.shorted.primaryAmps, b.fuse.amps, b.fuse.slow);
    f.groundVolts = f.railAmps * ohms + (lifted ? bondDiodeVolts : 0);
    return f;
}

} // namespace ember::wires
