#pragma once
// Time stepping by TR-BDF2 (Bank et al. 1985), second order and L-stable, on a ladder of step sizes base, base/2,
// base/4 ... The linear part is factored once, for the largest size, and condensed to the states and the ports; the
// others follow from that by a correction of the states' rank (Woodbury 1950).

#include "ports.h"

#include <memory>
#include <utility>

namespace ember::circuit {

/// A0 = L R^T + dh0 G, solved for what can stand on its right: X = A0^-1 L, Y = A0^-1 [S P].
struct BaseMatrices {
    using RowMatrix = Eigen::Matrix<double, Eigen::Dynamic, Eigen::Dynamic, Eigen::RowMajor>;
    double dh0 = 0;               ///< d times the largest step [s]
    Eigen::MatrixXd M, N;         ///< R^T X, R^T Y
    Eigen::MatrixXd portX, portY; ///< Q^T X, Q^T Y
    RowMatrix XY;                 ///< [X, dh0 Y], to have any unknown by itself
    BaseMatrices(const System& system, double dh0);
};

/// What a stage of one step size does, dh = s dh0 with 0 < s <= 1: A = L R^T + dh G = s A0 + (1 - s) L R^T, so with
/// K = (s I + (1 - s) M)^-1 the unknowns are x = X q + dh0 Y z, q = K (y* - (1 - s) dh0 N z), z = [u, -i].
struct StageMatrices {
    double dh = 0;    ///< d times the step [s]
    double share = 1; ///< s
    Eigen::MatrixXd K;
    /// From states and sources to states (first rows) and open port volts; from port currents to states; at the ports.
    /// All but the last padded for product().
    Eigen::MatrixXd fromStates, fromSources, Yp, Z;
    Eigen::MatrixXd watched; ///< from states, sources and port currents to the unknowns of Stepper::watch(); padded
    StageMatrices(const BaseMatrices& base, const System& system, double dh, const std::vector<int>& watch);
};

/// Any of the unknowns at one instant, by its row.
class Unknowns {
  public:
    double operator[](int row) const { return matrix->row(row).dot(weights); }

  private:
    friend class Stepper;
    const BaseMatrices::RowMatrix* matrix = nullptr;
    Eigen::VectorXd weights; ///< q, u, -i
    Eigen::VectorXd right;   ///< what K makes q of
};

struct State {
    double t = 0;
    Eigen::VectorXd y, dy; ///< states and their rates
};

class Stepper {
  public:
    /// gamma = 2 - sqrt 2: both stages share one matrix.
    static constexpr double gamma = 0.5857864376269049;
    static constexpr double d = gamma / 2;

    Stepper(const System& system, double baseStep, int levels);

    /// Rates at a start or after a jump of a source, from a very short implicit step. False: not converged.
    bool begin(State& state);
    /// One step of base / 2^level. False: the ports did not converge; the state is then as it was.
    bool step(State& state, int level);

    /// Local error of the last step relative to (floor + |y|), infinity norm (Hosea and Shampine 1996).
    [[nodiscard]] double localError() const { return error; }
    /// No more than this counts as the size of each state in localError().
    void capErrorScale(const Eigen::VectorXd& caps) { errorCaps = caps; }
    [[nodiscard]] double stepAt(int level) const { return base / static_cast<double>(1 << level); }
    [[nodiscard]] int levels() const { return levelCount; }

    /// From now on the ports' equations are solved to about so many volts only at each, see PortSolver::solveNear();
    /// where that fails, a step fails, if there is a shorter one.
    void solvePortsTo(const Eigen::VectorXd& volts) { portVolts = volts; }

    /// Carry dy/dy0 along: `follow` starts it as identity at begin().
    void follow(bool on) { following = on; }
    [[nodiscard]] const Eigen::MatrixXd& sensitivity() const { return sy; }
    /// Before a step that may be rejected, and after the rejection.
    void keepSensitivity() { keptSy = sy, keptSdy = sdy, keptVolts = ports.volts(), keptTrend = trend; }
    void restoreSensitivity() { sy = keptSy, sdy = keptSdy, ports.volts() = keptVolts, trend = keptTrend; }

    /// The unknowns at the middle sample (t + gamma h) and at the end of the last step, or at begin(); good until the
    /// stepper is gone.
    void middleUnknowns(Unknowns& x) const { unknowns(middle, x); }
    void endUnknowns(Unknowns& x) const { unknowns(end, x); }
    /// These unknowns are asked for often: endWatched() has them in this order, at the end of the last step.
    void watch(std::vector<int> rows);
    const Eigen::VectorXd& endWatched();
    [[nodiscard]] const Eigen::VectorXd& middlePortAmps() const { return middle.i; }
    [[nodiscard]] const Eigen::VectorXd& endPortAmps() const { return end.i; }
    [[nodiscard]] const Eigen::VectorXd& middlePortVolts() const { return middle.v; }
    [[nodiscard]] const Eigen::VectorXd& endPortVolts() const { return end.v; }
    [[nodiscard]] const Eigen::VectorXd& middleRates() const { return dyMiddle; }

    /// Something jumped after the last step: a contact, a source. The rates then hold no longer, and whoever runs the
    /// stepper has to begin() again.
    void jump() { jumped = true; }
    bool takeJump() { return std::exchange(jumped, false); }

    PortSolver& portSolver() { return ports; }
    [[nodiscard]] const System& system() const { return sys; }
    /// The last step is rejected: the ports' volts and their extrapolation are again as before it.
    void takeBack() { ports.volts() = previousVolts, std::swap(trend, previousTrend); }
    void setSource(int column, const Waveform& w) { sources[static_cast<std::size_t>(column)] = w; }

  private:
    struct Sample {
        const StageMatrices* stage = nullptr;
        Eigen::VectorXd yStar, u, i, v;
    };
    /// The ports' volts over the last step as a parabola through its three points: divided differences, from which
    /// Newton begins.
    struct Trend {
        Eigen::VectorXd slope, bend; ///< [V/s] over the step's last part; [V/s2]
        double last = 0;             ///< [s] that part's length
    };
    const StageMatrices& at(int level);
    bool solvePorts(const StageMatrices& m);
    bool solveStage(const StageMatrices& m, double t, Sample& out, Eigen::VectorXd& y, Eigen::MatrixXd& dYStar);
    void unknowns(const Sample& s, Unknowns& x) const;
    [[nodiscard]] double relative(const Eigen::VectorXd& errors) const;

    const System& sys;
    std::vector<Waveform> sources;
    std::vector<int> watchedRows;
    double base;
    int levelCount;
    std::unique_ptr<BaseMatrices> matrices;
    std::vector<std::unique_ptr<StageMatrices>> ladder;
    std::unique_ptr<StageMatrices> opening;
    PortSolver ports;
    Sample middle, end;
    Trend trend, keptTrend, previousTrend;
    Eigen::VectorXd portStart, portVolts, errors, errorCaps, keptVolts, v0, both, yNext, yMiddle, dyMiddle, dyNext,
        previousVolts, rise, given, seen;
    Eigen::MatrixXd sy, sdy, keptSy, keptSdy, syStar, stacked, dv0, di;
    double error = 0;
    bool following = false, jumped = false, shorterLeft = false;
};

} // namespace ember::circuit
