#pragma once
// The return network as it is wired: points joined by wires with resistance and inductance, the chassis one of them,
// and what flows into each point from the supply.

#include "induction.h"

namespace ember::wires {

/// One wire of the network between two points; `points.size()` is the chassis.
struct GroundBranch {
    std::size_t from = 0, to = 0;
    std::size_t run = 0; ///< in Harness::runs
    double ohms = 0, henries = 0;
};

struct GroundNetwork {
    std::size_t points = 0; ///< the chassis comes after them
    std::vector<GroundBranch> branches;
    std::vector<std::vector<std::size_t>> loops; ///< closed ways, as branches (cycle basis)
    std::vector<std::size_t> bonds;              ///< branches to the chassis, but for a scheme that returns by it
    std::vector<std::size_t> loose;              ///< points from which no way leads to the first supply return
};
/// Wires of the kind Ground whose ends are known. A wire's inductance is 0.6 uH/m (a round wire some 10 mm from its
/// return); a joint 2 mohm at each end; a contact on the chassis 2 mohm more.
GroundNetwork groundNetwork(const Build& build, const Harness& harness);

/// Amperes that flow out of the parts into each point, RMS with phase, by harmonic: capacitors' ripple currents, and
/// the windings' returns, which are their sum with the opposite sign. First index harmonic - 1, second point.
std::vector<Eigen::VectorXcd> returnCurrents(const Build& build, const Harness& harness, const plan::Steady& nominal);

/// Volts of every point to the chassis (or to the first point where nothing is bonded), for currents into the points
/// and an EMF in each branch, at one frequency. Sizes: points, branches.
Eigen::VectorXcd groundVolts(const GroundNetwork& network, const Eigen::VectorXcd& amps, const Eigen::VectorXcd& emf,
                             double hertz);
/// The current in a branch, from its first end to its second.
std::complex<double> branchAmps(const GroundNetwork& network, std::size_t branch, const Eigen::VectorXcd& volts,
                                std::complex<double> emf, double hertz);

/// A loop's way through its wires and, where it passes the chassis, straight through the metal.
std::vector<Vector> polygonOf(const GroundNetwork& network, const Harness& harness,
                              const std::vector<std::size_t>& loop);

inline constexpr double wireHenries = 0.6e-6; ///< [H/m]

} // namespace ember::wires
