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
      conductance(slopesAt(system, portVolts)) {}

Eigen::VectorXcd SmallSignal::solve(const Eigen::VectorXd& drive, double hertz) const {
    const Complex s(0, 2 * std::numbers::pi * hertz);
    Eigen::MatrixXcd A = conductance.cast<Complex>() + s * (sys.L * sys.R.transpose()).cast<Complex>();
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

Complex SmallSignal::gain(DeviceId source, Node to, double hertz) const {
    const int column = sys.sourceOf[static_cast<std::size_t>(source)];
    if (column < 0 || to == ground) return 0;
    return solve(sys.S.col(column), hertz)[sys.row(to)];
}

} // namespace ember::circuit
