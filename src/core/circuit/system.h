#pragma once
// The linear part of a netlist in modified nodal form, with the nonlinear devices as currents into ports:
//   L R^T x' + G x + P i(v) = S u(t),   v = Q^T x,   y = R^T x
// Q is P but for cores, whose port measures the flux and draws a magnetising current.
// x: node volts and branch currents; y: the states (capacitor volts, inductor and magnetising currents).

#include "netlist.h"

#include <Eigen/Dense>

#include <array>

namespace ember::circuit {

/// One nonlinear device's place among the ports.
struct PortDevice {
    PortLaw law;
    double emission = 1;
    int first = 0, count = 1;
    DeviceId device = -1;
    /// [S] of each port that stands in G and is taken off the law: where a node joins nothing but valves, the linear
    /// part alone would leave it in the air, and the impedance seen there would drown the solution in rounding. The sum
    /// is the law, exactly.
    std::array<double, 3> shunt{};
};

struct System {
    Eigen::MatrixXd G, L, R, S, P, Q;
    std::vector<Waveform> sources;  ///< the columns of S
    std::vector<PortDevice> ports;  ///< the columns of P, device by device
    std::vector<double> stateFloor; ///< per state: what counts as nothing [V or A], for error control
    std::vector<int> branchOf; ///< per device: row of its branch current in x, or -1; a transformer's first winding
    std::vector<int> stateOf;  ///< per device: index of its state, or -1
    std::vector<int> portOf;   ///< per device: index of its first port, or -1
    std::vector<int> sourceOf; ///< per device: column of S, or -1

    [[nodiscard]] int unknowns() const { return static_cast<int>(G.rows()); }
    [[nodiscard]] int states() const { return static_cast<int>(R.cols()); }
    [[nodiscard]] int portTotal() const { return static_cast<int>(P.cols()); }
    [[nodiscard]] int row(Node n) const { return n - 1; } ///< of a node's volts in x; n > 0

    /// The device's true current at port `k` [A]: the solver's current there plus the shunt's.
    [[nodiscard]] double lawAmps(int k, double solverAmps, double volts) const {
        return solverAmps + shuntOf[static_cast<std::size_t>(k)] * volts;
    }
    std::vector<double> shuntOf; ///< [S] per port

    void sourceValues(double t, Eigen::VectorXd& u) const;
};

System assemble(const Netlist& netlist);

inline constexpr double gmin = 1e-12; ///< [S] from every node to ground, so that a floating winding has a potential
inline constexpr double junctionLeak = 1e-9; ///< [S] across a silicon junction: 1 uA at 1 kV, as real ones have

} // namespace ember::circuit
