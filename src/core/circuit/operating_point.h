#pragma once
// The DC solution: capacitors open, inductors short, sine sources at their dc part.

#include "ports.h"

#include "core/base/result.h"

namespace ember::circuit {

struct OperatingPoint {
    Eigen::VectorXd x; ///< unknowns: node volts first
    Eigen::VectorXd y; ///< states, as a start for a transient
    Eigen::VectorXd portVolts, portAmps;
    [[nodiscard]] double volts(Node n) const { return n == ground ? 0 : x[n - 1]; }
    [[nodiscard]] double amps(const System& s, DeviceId device, int k = 0) const {
        return portAmps[s.portOf[static_cast<std::size_t>(device)] + k];
    }
};

/// One circuit at the DC of its sources, again and again: factored once, each solve starting from the last. The system
/// must outlive it.
class DcSolver {
  public:
    explicit DcSolver(const System& system);
    void setSource(DeviceId source, double value); ///< [V or A]
    PortSolver& ports() { return portSolver; }     ///< emissions, and the volts that the next solve starts from
    /// As operatingPoint().
    Expected<OperatingPoint> solve();

  private:
    const System& s;
    PortSolver portSolver;
    Eigen::VectorXd u;
    Eigen::MatrixXd W, Z, fromSources;
    bool determined = false;
};

/// Damped Newton on the ports; when that fails, the sources are raised in steps from zero. A solve that does not
/// converge is a Problem with its residual. `guess` (port volts) speeds up a nearby solve.
Expected<OperatingPoint> operatingPoint(const System& system, const Eigen::VectorXd* guess = nullptr);

} // namespace ember::circuit
