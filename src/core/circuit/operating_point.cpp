#include "operating_point.h"

#include <fmt/format.h>

namespace ember::circuit {

DcSolver::DcSolver(const System& system)
    : s(system),
      portSolver(system),
      u(static_cast<Eigen::Index>(s.sources.size())) {
    const auto ns = u.size();
    const auto p = s.portTotal();
    Eigen::MatrixXd B(s.unknowns(), ns + p);
    B << s.S, s.P;
    // Equal weight for every row before pivoting; then each row must hold to rounding, or there is no solution.
    Eigen::MatrixXd A = s.G;
    for (Eigen::Index k = 0; k < A.rows(); ++k) {
        const double weight = 1 / std::max(1e-300, A.row(k).cwiseAbs().maxCoeff());
        A.row(k) *= weight;
        B.row(k) *= weight;
    }
    W = A.partialPivLu().solve(B); // singular: shows in the residual below
    const Eigen::MatrixXd worth = (A.cwiseAbs() * W.cwiseAbs()).array() * 1e-10 + 1e-7;
    determined = W.allFinite() && !((A * W - B).cwiseAbs().array() > worth.array()).any();
    Z = s.Q.transpose() * W.rightCols(p);
    fromSources = s.Q.transpose() * W.leftCols(ns);
    for (Eigen::Index k = 0; k < ns; ++k) u[k] = s.sources[static_cast<std::size_t>(k)].dc;
}

void DcSolver::setSource(DeviceId source, double volts) {
    u[s.sourceOf[static_cast<std::size_t>(source)]] = volts;
}

Expected<OperatingPoint> DcSolver::solve() {
    if (!determined)
        return Problem{"", "the circuit has no DC solution: a node hangs in the air, or sources are shorted"};
    const auto ns = u.size();
    const auto p = s.portTotal();
    const Eigen::VectorXd full = fromSources * u;
    bool solved = portSolver.solve(Z, full);
    if (!solved) {
        // Continuation: raise all sources together, halving the stride where it fails.
        portSolver.volts().setZero();
        double reached = 0, stride = 0.1;
        Eigen::VectorXd last = portSolver.volts();
        while (reached < 1 && stride > 1e-5) {
            const double next = std::min(1.0, reached + stride);
            if (portSolver.solve(Z, next * full)) {
                reached = next;
                last = portSolver.volts();
                stride *= 1.5;
            } else {
                portSolver.volts() = last;
                stride *= 0.4;
            }
        }
        solved = reached >= 1;
    }
    if (!solved)
        return Problem{"",
                       fmt::format("the DC solution was not found (off by {:.3g} V at best)", portSolver.residual())};
    OperatingPoint op;
    op.portVolts = portSolver.volts();
    op.portAmps = portSolver.amps();
    op.x = W.leftCols(ns) * u - W.rightCols(p) * op.portAmps;
    op.y = s.R.transpose() * op.x;
    for (Eigen::Index k = 0; k < op.portAmps.size(); ++k)
        op.portAmps[k] = s.lawAmps(static_cast<int>(k), op.portAmps[k], op.portVolts[k]);
    return op;
}

Expected<OperatingPoint> operatingPoint(const System& s, const Eigen::VectorXd* guess) {
    DcSolver solver(s);
    if (guess) solver.ports().volts() = *guess;
    return solver.solve();
}

} // namespace ember::circuit
