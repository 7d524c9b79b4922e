#include "small_signal.h"

#include <array>
#include <numbers>

namespace ember::circuit {

Eigen::MatrixXd slopesAt(const System& sys, const Eigen::VectorXd& portVolts) {
    Eigen::MatrixXd conductance = sys.G;
    for (const PortDevice& d : sys.ports) {
        std::array<double, 3> amps{};
        std::array<double, 9> slopes{};
        evaluate(d.law, d.emission, portVolts.data() + d.first, amps.data(), slopes.data());
        for (int k = 0; k < d.count; ++k)
            slopes[static_cast<std::size_t>(k * d.count + k)] -= d.shunt[static_cast<std::size_t>(k)];
        for (int r = 0; r < d.count; ++r)
            for (int c = 0; c < d.count; ++c)
                conductance += slopes[static_cast<std::size_t>(r * d.count + c)] * sys.P.col(d.first + r) *
                               sys.Q.col(d.first + c).transpose();
    }
    return conductance;
}

SmallSignal::SmallSignal(const System& system, const Eigen::VectorXd& portVolts)
    : sys(system),
      conductance(slopesAt(system, portVolts)),
      reactance(system.L * system.R.transpose()) {}

Eigen::VectorXcd SmallSignal::solve(const Eigen::VectorXd& drive, double hertz) const {
    Eigen::MatrixXcd A =
        conductance.cast<Complex>() + Complex(0, 2 * std::numbers::pi * hertz) * reactance.cast<Complex>();
    Eigen::VectorXcd b = drive.cast<Complex>();
    for (Eigen::Index k = 0; k < A.rows(); ++k) { // as in the stepper: farads stand beside siemens
        const double weight = 1 / std::max(1e-300, A.row(k).cwiseAbs().maxCoeff());
        A.row(k) *= weight;
        b[k] *= weight;
    }
    return A.partialPivLu().solve(b);
}

Complex SmallSignal::transfer(Node from, Node to, double hertz) const {
    if (from == ground || to == ground) return 0;
    Eigen::VectorXd drive = Eigen::VectorXd::Zero(sys.unknowns());
    drive[sys.row(from)] = 1;
    return solve(drive, hertz)[sys.row(to)];
}

Complex SmallSignal::impedance(Node node, double hertz) const {
    return transfer(node, node, hertz);
}

Eigen::VectorXcd SmallSignal::driven(DeviceId source, double hertz) const {
    return solve(sys.S.col(sys.sourceOf[static_cast<std::size_t>(source)]), hertz);
}

Complex SmallSignal::gain(DeviceId source, Node to, double hertz) const {
    const int column = sys.sourceOf[static_cast<std::size_t>(source)];
    if (column < 0 || to == ground) return 0;
    return solve(sys.S.col(column), hertz)[sys.row(to)];
}

namespace {
constexpr double centre = 2 * std::numbers::pi * 300; // [1/s] about the middle of what is asked for
}

OutputReach::OutputReach(const SmallSignal& small, Node to) : sys(small.sys) {
    // M = W (G + s0 B), so that G + s B = W^-1 M (1 + (s - s0) A) with A = M^-1 W B = U H U^T.
    Eigen::MatrixXd M = small.conductance + centre * small.reactance, B = small.reactance;
    scale.resize(M.rows());
    for (Eigen::Index k = 0; k < M.rows(); ++k) {
        scale[k] = 1 / std::max(1e-300, M.row(k).cwiseAbs().maxCoeff());
        M.row(k) *= scale[k];
        B.row(k) *= scale[k];
    }
    const Eigen::HessenbergDecomposition<Eigen::MatrixXd> reduced(M.partialPivLu().solve(B));
    hessenberg = reduced.matrixH();
    basis = reduced.matrixQ();
    shifted.compute(Eigen::MatrixXd(M.transpose()));
    start = Eigen::VectorXd::Zero(M.rows());
    if (to != ground) start = basis.row(sys.row(to)).transpose();
}

Eigen::VectorXcd OutputReach::at(double hertz) const {
    const Complex d = Complex(0, 2 * std::numbers::pi * hertz) - centre;
    // (1 + d H)^T w = start, in reversed order so that it is upper Hessenberg: elimination of one entry a column.
    const Eigen::Index n = start.size();
    Eigen::MatrixXcd K = (d * hessenberg.cast<Complex>()).transpose().reverse();
    K.diagonal().array() += 1.0;
    Eigen::VectorXcd w = start.cast<Complex>().reverse();
    for (Eigen::Index k = 0; k + 1 < n; ++k) {
        if (std::abs(K(k + 1, k)) > std::abs(K(k, k))) {
            K.row(k).tail(n - k).swap(K.row(k + 1).tail(n - k));
            std::swap(w[k], w[k + 1]);
        }
        const Complex f = K(k + 1, k) / K(k, k);
        if (f == 0.0) continue;
        K.row(k + 1).tail(n - k) -= f * K.row(k).tail(n - k);
        w[k + 1] -= f * w[k];
    }
    w = K.triangularView<Eigen::Upper>().solve(w).eval();
    const Eigen::VectorXcd back = basis.cast<Complex>() * w.reverse();
    Eigen::VectorXcd y(n);
    y.real() = shifted.solve(Eigen::VectorXd(back.real()));
    y.imag() = shifted.solve(Eigen::VectorXd(back.imag()));
    return y.cwiseProduct(scale.cast<Complex>());
}

Complex OutputReach::fromAmps(const Eigen::VectorXcd& reach, Node from) const {
    return from == ground ? Complex(0) : reach[sys.row(from)];
}

Complex OutputReach::fromVolts(const Eigen::VectorXcd& reach, DeviceId source) const {
    const int column = sys.sourceOf[static_cast<std::size_t>(source)];
    return column < 0 ? Complex(0) : reach.cwiseProduct(sys.S.col(column).cast<Complex>()).sum();
}

} // namespace ember::circuit
