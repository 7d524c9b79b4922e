#include "ports.h"

#include <array>
#include <cmath>

namespace ember::circuit {

PortSolver::PortSolver(const System& system)
    : ports(system.ports), v(Eigen::VectorXd::Zero(system.portTotal())), i(v), f(v), dv(v), trial(v), start(v),
      g(Eigen::MatrixXd::Zero(v.size(), v.size())), J(g), lu(v.size() > 0 ? v.size() : 1) {}

void PortSolver::setEmission(int port, double emission) {
    for (PortDevice& d : ports)
        if (d.first == port) d.emission = emission;
}

void PortSolver::setKelvin(int port, double kelvin) {
    for (PortDevice& d : ports)
        if (d.first == port) std::get<IncandescentLaw>(d.law).kelvin = kelvin;
}

void PortSolver::evaluateAt(const Eigen::VectorXd& at) {
    std::array<double, 9> slopes{};
    for (const PortDevice& d : ports) {
        evaluate(d.law, d.emission, at.data() + d.first, i.data() + d.first, slopes.data());
        for (int r = 0; r < d.count; ++r)
            for (int c = 0; c < d.count; ++c)
                g(d.first + r, d.first + c) = slopes[static_cast<std::size_t>(r * d.count + c)];
    }
}

/// dv = -(I + Z g)^-1 f, with the small sizes that rectifier supplies have written out.
void PortSolver::correction(const Eigen::MatrixXd& Z) {
    const auto n = v.size();
    if (n == 1) {
        dv[0] = -f[0] / (1 + Z(0, 0) * g(0, 0));
        return;
    }
    if (n == 2) {
        const double a = 1 + Z(0, 0) * g(0, 0) + Z(0, 1) * g(1, 0), b = Z(0, 0) * g(0, 1) + Z(0, 1) * g(1, 1);
        const double c = Z(1, 0) * g(0, 0) + Z(1, 1) * g(1, 0), d = 1 + Z(1, 0) * g(0, 1) + Z(1, 1) * g(1, 1);
        const double det = a * d - b * c;
        dv[0] = (b * f[1] - d * f[0]) / det;
        dv[1] = (c * f[0] - a * f[1]) / det;
        return;
    }
    J.noalias() = Z.lazyProduct(g);
    J.diagonal().array() += 1;
    lu.compute(J);
    dv = lu.solve(f);
    dv = -dv;
}

/// An exponential junction must not be carried over its knee in one stride: limit as is usual since Nagel (1975).
void PortSolver::limitJunctions(const Eigen::VectorXd& from, Eigen::VectorXd& to, bool& limited) const {
    for (const PortDevice& d : ports) {
        const auto* diode = std::get_if<DiodeLaw>(&d.law);
        if (!diode) continue;
        const double nvt = diode->ideality * thermalVolts;
        const double critical = nvt * std::log(nvt / (diode->saturation * 1.414));
        const double before = from[d.first];
        double& after = to[d.first];
        if (after <= critical || std::abs(after - before) <= 2 * nvt) continue;
        after = before > 0 ? (after > before ? before + nvt * std::log1p((after - before) / nvt) : after) : critical;
        limited = true;
    }
}

bool PortSolver::iterate(const Eigen::MatrixXd& Z, const Eigen::VectorXd& v0, bool damped, int most) {
    const auto residualAt = [&](const Eigen::VectorXd& at) {
        evaluateAt(at);
        f.noalias() = at - v0;
        f.noalias() += Z.lazyProduct(i);
        return f.lpNorm<Eigen::Infinity>();
    };
    double norm = residualAt(v);
    for (int pass = 0; pass < most; ++pass) {
        correction(Z);
        if (!dv.allFinite()) break;
        trial = v + dv;
        bool limited = false;
        limitJunctions(v, trial, limited);
        double next = residualAt(trial);
        if (damped) {
            double share = 1;
            while (next > norm && share > 1e-4) {
                share *= 0.5;
                start = v + share * dv;
                next = residualAt(start);
                trial = start;
                limited = true;
            }
        }
        const double change = ((trial - v).array().abs() / (1 + trial.array().abs())).maxCoeff();
        v = trial;
        norm = next;
        if (!limited && change < 1e-8) {
            lastResidual = norm;
            return std::isfinite(norm);
        }
    }
    lastResidual = norm;
    return false;
}

bool PortSolver::solve(const Eigen::MatrixXd& Z, const Eigen::VectorXd& v0) {
    if (v.size() == 0) return true;
    const Eigen::VectorXd* origin = &v0;
    if (!v.allFinite()) v = *origin;
    if (iterate(Z, v0, false, 40)) return true;
    v.setZero();
    return iterate(Z, v0, true, 200);
}

void PortSolver::currentSensitivity(const Eigen::MatrixXd& Z, const Eigen::MatrixXd& dv0, Eigen::MatrixXd& di) {
    J.noalias() = Z.lazyProduct(g);
    J.diagonal().array() += 1;
    lu.compute(J);
    sensitivity = lu.solve(dv0);
    di.noalias() = g.lazyProduct(sensitivity);
}

} // namespace ember::circuit
