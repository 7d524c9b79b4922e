#pragma once
// The circuit for small signals: linear, each device replaced by its slopes at an operating point, j omega for d/dt.

#include "operating_point.h"

#include <complex>

namespace ember::circuit {

using Complex = std::complex<double>;

/// G + P g Q^T: the resistive part with every device replaced by its slopes at these port volts.
Eigen::MatrixXd slopesAt(const System& system, const Eigen::VectorXd& portVolts);

/// Linearised once, solved at any frequency: (j omega L R^T + G + P g Q^T) x = s.
class SmallSignal {
  public:
    /// At the port volts of an operating point of `system`.
    SmallSignal(const System& system, const Eigen::VectorXd& portVolts);

    /// Volts at `node` for 1 A driven into it from ground: the impedance there [ohm].
    [[nodiscard]] Complex impedance(Node node, double hertz) const;
    /// Volts at `to` for 1 A driven into `from` [ohm].
    [[nodiscard]] Complex transfer(Node from, Node to, double hertz) const;
    /// Volts at `to` for 1 V of the voltage source `source`.
    [[nodiscard]] Complex gain(DeviceId source, Node to, double hertz) const;
    /// Every unknown of the system (volts, branch currents) for 1 V of the voltage source `source`.
    [[nodiscard]] Eigen::VectorXcd driven(DeviceId source, double hertz) const;

  private:
    friend class OutputReach;
    [[nodiscard]] Eigen::VectorXcd solve(const Eigen::VectorXd& drive, double hertz) const;
    const System& sys;
    Eigen::MatrixXd conductance, reactance; ///< G + P g Q^T; L R^T
};

/// What every drive does at one node, at any frequency: the transposed system, brought to Hessenberg form once about a
/// real frequency (Laub 1981), so that each further frequency costs n^2 and not n^3.
class OutputReach {
  public:
    /// `small` must outlive it.
    OutputReach(const SmallSignal& small, Node to);
    /// Volts there for 1 in each row of s.
    [[nodiscard]] Eigen::VectorXcd at(double hertz) const;
    /// From at(): volts there for 1 A driven into `from`; for 1 V of a voltage source.
    [[nodiscard]] Complex fromAmps(const Eigen::VectorXcd& reach, Node from) const;
    [[nodiscard]] Complex fromVolts(const Eigen::VectorXcd& reach, DeviceId source) const;

  private:
    const System& sys;
    Eigen::MatrixXd hessenberg, basis;
    Eigen::PartialPivLU<Eigen::MatrixXd> shifted; ///< of the row-scaled G + s0 L R^T, transposed
    Eigen::VectorXd scale, start;
};

} // namespace ember::circuit
