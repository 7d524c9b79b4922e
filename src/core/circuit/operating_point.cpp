#include "operating_point.h"

#include <fmt/format.h>

namespace ember::circuit {

Expected<OperatingPoint> operatingPoint(const System& s, const Eigen::VectorXd* guess) {
    const auto ns = static_cast<Eigen::Index>(s.sources.size());
    const auto p = s.portTotal();
    Eigen::VectorXd u(ns);
    for (Eigen::Index k = 0; k < ns; ++k) u[k] = s.sources[static_cast<std::size_t>(k)].dc;
    Eigen::MatrixXd B(s.unknowns(), ns + p);
    B << s.S, s.P;
    // Equal weight for every row before pivoting; then each row must hold to rounding, or there is no solution.
    Eigen::MatrixXd A = s.G;
    for (Eigen::Index k = 0; k < A.rows(); ++k) {
        const double weight = 1 / std::max(1e-300, A.row(k).cwiseAbs().maxCoeff());
        A.row(k) *= weight;
        B.row(k) *= weight;
    }
    const Eigen::MatrixXd W = A.partialPivLu().solve(B); // singular: shows in the residual below
    const Eigen::MatrixXd worth = (A.cwiseAbs() * W.cwiseAbs()).array() * 1e-10 + 1e-7;
    if (!W.allFinite() || ((A * W - B).cwiseAbs().array() > worth.array()).any())
        return Problem{"", "the circuit has no DC solution: a node hangs in the air, or sources are shorted"};
    const Eigen::MatrixXd Z = s.P.transpose() * W.rightCols(p);
    const Eigen::VectorXd full = s.P.transpose() * (W.leftCols(ns) * u);

    PortSolver ports(s);
    if (guess) ports.volts() = *guess;
    bool solved = ports.solve(Z, full);
    if (!solved) {
        // Continuation: raise all sources together, halving the stride where it fails.
        ports.volts().setZero();
        double reached = 0, stride = 0.1;
        Eigen::VectorXd last = ports.volts();
        while (reached < 1 && stride > 1e-5) {
            const double next = std::min(1.0, reached + stride);
            if (ports.solve(Z, next * full)) {
                reached = next;
                last = ports.volts();
                stride *= 1.5;
            } else {
                ports.volts() = last;
                stride *= 0.4;
            }
        }
        solved = reached >= 1;
    }
    if (!solved)
        return Problem{"", fmt::format("the DC solution was not found (off by {:.3g} V at best)", ports.residual())};
    OperatingPoint op;
    op.portVolts = ports.volts();
    op.portAmps = ports.amps();
    op.x = W.leftCols(ns) * u - W.rightCols(p) * op.portAmps;
    op.y = s.R.transpose() * op.x;
    return op;
}

} // namespace ember::circuit
