#pragma once
// Newton's method on the ports of the nonlinear devices alone: v + Z i(v) = v0.

#include "small_system.h"
#include "system.h"

namespace ember::circuit {

/// Workspace and result of a port solve; sized once, used for every step.
class PortSolver {
  public:
    explicit PortSolver(const System& system);

    /// Solves v + Z i(v) = v0 starting from `volts()`. Converged when the last correction is below 1e-8 (1 + |v|)
    /// volts, or the equations hold to 1e-9 of the largest |v0|. On failure (false) `residual()` [V] tells how far it
    /// was.
    bool solve(const Eigen::MatrixXd& Z, const Eigen::VectorXd& v0);

    /// The same to about `good` [V, each port] only, for points that follow closely on one another: as a rule the laws
    /// are evaluated once, and the currents extrapolated linearly from there where their curvature allows it. False: no
    /// convergence; volts() are then undefined.
    bool solveNear(const Eigen::MatrixXd& Z, const Eigen::VectorXd& v0, const Eigen::VectorXd& good);

    /// dv/dv0 applied: for the solved point, turns `dv0` (ports x n) into di = g (I + Z g)^-1 dv0.
    void currentSensitivity(const Eigen::MatrixXd& Z, const Eigen::MatrixXd& dv0, Eigen::MatrixXd& di);

    Eigen::VectorXd& volts() { return v; }
    [[nodiscard]] const Eigen::VectorXd& volts() const { return v; }
    [[nodiscard]] const Eigen::VectorXd& amps() const { return i; }
    [[nodiscard]] double residual() const { return lastResidual; }
    /// Whether every device is off at the solved point: currents are then constant, and nothing follows the volts.
    [[nodiscard]] bool atRest() const { return evaluated && active.empty(); }

    void setEmission(int port, double emission);
    void setKelvin(int port, double kelvin);
    [[nodiscard]] const std::vector<PortDevice>& devices() const { return ports; }
    [[nodiscard]] const Eigen::MatrixXd& slopes() const { return g; } ///< di/dv, block diagonal
    void evaluateAt(const Eigen::VectorXd& at);

  private:
    bool iterate(const Eigen::MatrixXd& Z, const Eigen::VectorXd& v0, bool damped, int most);
    bool continueFromOpen(const Eigen::MatrixXd& Z, const Eigen::VectorXd& v0);
    void limitSteps(const Eigen::VectorXd& from, Eigen::VectorXd& to, bool& limited) const;
    struct Port {
        int port, first, count; ///< the last two: of its device's ports, whose volts its current follows
    };
    void couple(const Eigen::MatrixXd& Z, Eigen::Index sides);
    void formResidual(const Eigen::MatrixXd& Z, const Eigen::VectorXd& v0, const Eigen::VectorXd& at);
    void correction(const Eigen::MatrixXd& Z);
    [[nodiscard]] double alongRow(std::size_t active, const Eigen::VectorXd& changes) const;
    void evaluateDevice(const PortDevice& d, const Eigen::VectorXd& at);
    [[nodiscard]] bool bends(const PortDevice& d, const Eigen::MatrixXd& Z, const Eigen::VectorXd& good) const;
    void evaluateBent(const Eigen::MatrixXd& Z);
    struct Left {
        double ofItself = 0, ofGood = 0;
    };
    void byTangents(const Eigen::MatrixXd& Z);
    void take();
    bool iterateNear(const Eigen::MatrixXd& Z, const Eigen::VectorXd& v0, const Eigen::VectorXd& good, bool factored);
    Left chord(const Eigen::MatrixXd& Z, const Eigen::VectorXd& good);
    void listActive(const Eigen::MatrixXd& Z);

    std::vector<PortDevice> ports;
    Eigen::VectorXd v, i, f, dv, trial, start, lastStep;
    Eigen::VectorXd seen, seenBefore; ///< of solveNear(): volts of the last evaluation, and of the one before
    Eigen::MatrixXd g, slopesBefore;  ///< di/dv; and at `seenBefore`
    Eigen::MatrixXd tangents;         ///< di/dv that the equations are factored with
    SmallSystem small;                ///< the active rows and columns of I + g Z
    std::vector<Port> active;         ///< ports whose current has a slope
    /// Of an active port: its current's slopes at three neighbouring ports from `from` on, some of them zero.
    struct Row {
        int from = 0;
        std::array<double, 3> slopes{};
    };
    std::vector<Row> rows;
    std::vector<std::size_t> bent;               ///< devices whose tangents are not accurate enough at `v`
    Eigen::VectorXd solvedVolts, solvedFor;      ///< of solveNear(): the point solved last, and its v0
    int newTangents = 0;                         ///< points left for which slopes of the point before are not tried
    const Eigen::MatrixXd* solvedWith = nullptr; ///< its Z, which `small` is factored with; nullptr: of none
    std::vector<double> amperes;                 ///< [A] a correction of the active ports' currents
    std::vector<double> criticalVolts;           ///< per device; of junctions: where limiting begins
    double lastResidual = 0;
    bool evaluated = false; ///< at the volts that `active` is of
};

} // namespace ember::circuit
