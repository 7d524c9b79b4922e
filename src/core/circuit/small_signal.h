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

  private:
    [[nodiscard]] Eigen::VectorXcd solve(const Eigen::VectorXd& drive, double hertz) const;
    const System& sys;
    Eigen::MatrixXd conductance;
};

} // namespace ember::circuit
