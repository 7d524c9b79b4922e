#pragma once
// Periodic steady state by Newton's method on the period: y = P(y), with the Jacobian carried through the steps.

#include "record.h"

#include "core/base/result.h"

#include <stop_token>

namespace ember::circuit {

struct PeriodicOptions {
    double period = 0.02; ///< [s]; for a circuit whose states repeat after half a mains period, that half
    int steps = 48;       ///< of the top of the ladder, in a period
    int levels = 6;
    double tolerance = 2e-5; ///< local error relative to (floor + |state|) that picks the step
    /// Where > 0, no state counts as larger than so many of its swings in the period for `tolerance`, and than 300 for
    /// `residual`: a large reservoir under a light load swings by a thousandth of its volts, and all the energy that
    /// passes through it is in that thousandth.
    double swings = 0;
    int mostPasses = 100;
    int leadIn = 1;          ///< plain periods before Newton begins; 0 where the guess is of a nearby circuit
    double residual = 1e-10; ///< largest |P(y) - y| relative to (floor + |y|) that counts as periodic
    /// Newton's steps also by the map of an earlier pass, corrected by what each step shows of it (Broyden 1965), as
    /// long as each halves the residual: a pass that does not carry the Jacobian costs less than half.
    bool chord = false;
    const Eigen::MatrixXd* map = nullptr; ///< with `chord`: PeriodicSolution::map of a nearby circuit
    double acceptable = 0;                ///< after all passes, the residual of the best one that is still a solution
    std::stop_token stop = {};
};

struct PeriodicSolution {
    Eigen::VectorXd y;         ///< states at the start of a period
    Eigen::VectorXd portVolts; ///< there, as a start for a nearby solve
    Eigen::MatrixXd map;       ///< dP/dy as Newton last used it; empty where it never did
    double residual = 0;       ///< |P(y) - y| relative to (floor + |y|)
    int passes = 0;            ///< periods integrated
    int stepsTaken = 0;        ///< in the last one
};

/// Finds the periodic solution nearest to `guess` (states) and, when `record` is given, keeps its last period in it.
/// Plain periods lead in; then Newton, its stride limited; back to plain periods where it stalls.
/// A solve that does not converge is a Problem with its residual.
Expected<PeriodicSolution> periodicSteadyState(Stepper& stepper, const Eigen::VectorXd& guess,
                                               const PeriodicOptions& options, Recording* record = nullptr);

/// A stepper of the right ladder for these options.
Stepper periodicStepper(const System& system, const PeriodicOptions& options);

} // namespace ember::circuit
