#include "poles.h"

#include "small_signal.h"

#include <cmath>
#include <numbers>
#include <optional>

namespace ember::circuit {

std::vector<std::complex<double>> poles(const System& sys, const Eigen::VectorXd& portVolts, double mostHertz) {
    std::vector<std::complex<double>> out;
    if (sys.states() == 0) return out;
    Eigen::MatrixXd A = slopesAt(sys, portVolts);
    Eigen::MatrixXd L = sys.L;
    for (Eigen::Index k = 0; k < A.rows(); ++k) { // as in the stepper: farads stand beside siemens
        const double weight = 1 / std::max(1e-300, A.row(k).cwiseAbs().maxCoeff());
        A.row(k) *= weight;
        L.row(k) *= weight;
    }
    const Eigen::MatrixXd M = sys.R.transpose() * A.fullPivLu().solve(L);
    const Eigen::EigenSolver<Eigen::MatrixXd> solver(M, false);
    if (solver.info() != Eigen::Success) return out;
    for (const std::complex<double> mu : solver.eigenvalues()) {
        if (std::abs(mu) < 1 / (2 * std::numbers::pi * mostHertz)) continue;
        out.push_back(-1.0 / mu);
    }
    return out;
}

std::optional<Growth> growth(const std::vector<std::complex<double>>& all) {
    std::optional<Growth> out;
    for (const std::complex<double> s : all) {
        if (!(s.real() > 1.0 / 600) || s.real() < 1e-6 * std::abs(s)) continue;
        if (!out || s.real() > out->perSecond) out = Growth{std::abs(s.imag()) / (2 * std::numbers::pi), s.real()};
    }
    return out;
}

} // namespace ember::circuit
