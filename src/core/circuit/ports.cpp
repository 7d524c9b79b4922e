#include "ports.h"

#include "wide.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace ember::circuit {

PortSolver::PortSolver(const System& system)
    : ports(system.ports),
      v(Eigen::VectorXd::Zero(system.portTotal())),
      i(v),
      f(v),
      dv(v),
      trial(v),
      start(v),
      lastStep(v),
      seen(v),
      seenBefore(v),
      g(Eigen::MatrixXd::Zero(v.size(), v.size())),
      slopesBefore(g),
      tangents(g) {
    active.reserve(static_cast<std::size_t>(v.size()));
    for (const PortDevice& d : ports) {
        const auto* diode = std::get_if<DiodeLaw>(&d.law);
        const double nvt = diode ? diode->ideality * thermalVolts : 0;
        criticalVolts.push_back(diode ? nvt * std::log(nvt / (diode->saturation * 1.414)) : 0);
    }
}

void PortSolver::setEmission(int port, double emission) {
    for (PortDevice& d : ports)
        if (d.first == port) d.emission = emission;
}

void PortSolver::setKelvin(int port, double kelvin) {
    for (PortDevice& d : ports)
        if (d.first == port) std::get<IncandescentLaw>(d.law).kelvin = kelvin;
}

/// Its currents and slopes, into `i` and `g`.
void PortSolver::evaluateDevice(const PortDevice& d, const Eigen::VectorXd& at) {
    if (d.count == 1) return evaluate(d.law, d.emission, &at[d.first], &i[d.first], &g(d.first, d.first));
    std::array<double, 9> slopes;
    evaluate(d.law, d.emission, at.data() + d.first, i.data() + d.first, slopes.data());
    for (int k = 0; k < d.count; ++k)
        if (const double shunt = d.shunt[static_cast<std::size_t>(k)]; shunt != 0) {
            i[d.first + k] -= shunt * at[d.first + k];
            slopes[static_cast<std::size_t>(k * d.count + k)] -= shunt;
        }
    const double* from = slopes.data();
    for (int r = 0; r < d.count; ++r)
        for (int c = 0; c < d.count; ++c) g(d.first + r, d.first + c) = *from++;
}

/// Which ports have a slope is noted: a device that is off has none, and such a supply rests most of the time; only the
/// conducting ports are solved together.
void PortSolver::evaluateAt(const Eigen::VectorXd& at) {
    evaluated = true;
    active.clear();
    for (const PortDevice& d : ports) {
        evaluateDevice(d, at);
        for (int r = d.first; r < d.first + d.count; ++r) {
            bool any = false;
            for (int c = d.first; c < d.first + d.count; ++c) any = any || g(r, c) != 0;
            if (any) active.push_back({r, d.first, d.count});
        }
    }
}

namespace {

/// to += factor * from, n numbers.
void add(double* __restrict to, double factor, const double* __restrict from, Eigen::Index n) {
    const wide::Four f = {factor, factor, factor, factor};
    Eigen::Index k = 0;
    for (; k + 4 <= n; k += 4) {
        wide::Four a, b;
        wide::load(a, to + k);
        wide::load(b, from + k);
        wide::store(to + k, a + f * b);
    }
    for (; k < n; ++k) to[k] += factor * from[k];
}

} // namespace

/// f = v + Z i - v0 with the currents as evaluated.
void PortSolver::formResidual(const Eigen::MatrixXd& Z, const Eigen::VectorXd& v0, const Eigen::VectorXd& at) {
    const Eigen::Index n = v.size();
    for (Eigen::Index k = 0; k < n; ++k) f[k] = at[k] - v0[k];
    for (Eigen::Index c = 0; c < n; ++c)
        if (const double amps = i[c]; amps != 0) add(f.data(), amps, &Z(0, c), n);
}

/// Fills `small` with the equations of the active ports' currents, I + g Z, and room for so many right-hand sides.
/// There are fewer of these currents than of volts: a valve's follow up to three.
void PortSolver::couple(const Eigen::MatrixXd& Z, Eigen::Index sides) {
    if (&Z != solvedWith) solvedWith = nullptr; // what solveNear() had factored is no more
    const auto a = std::ssize(active);
    small.resize(a, sides);
    constexpr int most = 3;
    const int n = static_cast<int>(v.size()), width = std::min(most, n);
    rows.resize(active.size());
    for (std::size_t k = 0; k < active.size(); ++k) {
        const Port& p = active[k];
        rows[k] = {std::min(p.first, n - width), {}};
        for (int at = p.first; at < p.first + p.count; ++at)
            rows[k].slopes[static_cast<std::size_t>(at - rows[k].from)] = g(p.port, at);
    }
    for (Eigen::Index c = 0; c < a; ++c) {
        const double* column = &Z(0, active[static_cast<std::size_t>(c)].port);
        for (Eigen::Index r = 0; r < a; ++r) {
            const Row& row = rows[static_cast<std::size_t>(r)];
            const double* z = column + row.from;
            double sum = row.slopes[0] * z[0];
            if (width == most)
                sum += row.slopes[1] * z[1] + row.slopes[2] * z[2];
            else if (width == 2)
                sum += row.slopes[1] * z[1];
            small.coefficient(r, c) = r == c ? 1 + sum : sum;
        }
    }
}

/// dv = -(I + Z g)^-1 f: with the currents' changes q = g dv, (I + g Z) q = -g f and dv = -f - Z q.
void PortSolver::correction(const Eigen::MatrixXd& Z) {
    const Eigen::Index n = v.size();
    for (Eigen::Index k = 0; k < n; ++k) dv[k] = -f[k];
    if (atRest()) return;
    const auto a = std::ssize(active);
    couple(Z, 1);
    for (Eigen::Index r = 0; r < a; ++r) small.side(r, 0) = -alongRow(static_cast<std::size_t>(r), f);
    small.solve();
    for (Eigen::Index r = 0; r < a; ++r)
        add(dv.data(), -small.side(r, 0), &Z(0, active[static_cast<std::size_t>(r)].port), n);
}

/// What an active port's current changes with these changes of the ports' volts, by the slopes of the last
/// correction().
double PortSolver::alongRow(std::size_t k, const Eigen::VectorXd& changes) const {
    const Row& row = rows[k];
    double sum = 0;
    for (int c = 0, n = std::min(3, static_cast<int>(changes.size()) - row.from); c < n; ++c)
        sum += row.slopes[static_cast<std::size_t>(c)] * changes[row.from + c];
    return sum;
}

/// An exponential junction must not be carried over its knee in one stride: limit as is usual since Nagel (1975). Nor a
/// valve far beyond where it works: with a transformer's current interrupted, the tangent of a valve that is off points
/// to millions of volts, and from there back below zero, to and fro.
void PortSolver::limitSteps(const Eigen::VectorXd& from, Eigen::VectorXd& to, bool& limited) const {
    for (std::size_t k = 0; k < ports.size(); ++k) {
        const PortDevice& d = ports[k];
        for (int p = d.first; d.count > 1 && p < d.first + d.count; ++p) {
            const double most = 200 + 2 * std::abs(from[p]);
            if (std::abs(to[p] - from[p]) <= most) continue;
            to[p] = from[p] + std::copysign(most, to[p] - from[p]);
            limited = true;
        }
        const auto* diode = std::get_if<DiodeLaw>(&d.law);
        if (!diode) continue;
        const double nvt = diode->ideality * thermalVolts, critical = criticalVolts[k];
        const double before = from[d.first];
        double& after = to[d.first];
        if (after <= critical || std::abs(after - before) <= 2 * nvt) continue;
        after = before > 0 ? (after > before ? before + nvt * std::log1p((after - before) / nvt) : after) : critical;
        limited = true;
    }
}

bool PortSolver::iterate(const Eigen::MatrixXd& Z, const Eigen::VectorXd& v0, bool damped, int most) {
    const Eigen::Index n = v.size();
    const auto residualAt = [&](const Eigen::VectorXd& at) {
        evaluateAt(at);
        formResidual(Z, v0, at);
        double worst = 0;
        for (Eigen::Index k = 0; k < n; ++k) worst = std::max(worst, std::isnan(f[k]) ? INFINITY : std::abs(f[k]));
        return worst;
    };
    double scale = 1;
    for (Eigen::Index k = 0; k < n; ++k) scale = std::max(scale, std::abs(v0[k]));
    const double good = (damped ? 1e-8 : 1e-9) * scale;
    double norm = residualAt(v);
    for (int pass = 0; pass < most; ++pass) {
        correction(Z);
        if (!dv.allFinite()) break;
        trial = v + dv;
        bool limited = false;
        limitSteps(v, trial, limited);
        // Across a knee the steps may go to and fro: each reversal goes half as far as the step before it.
        for (Eigen::Index k = 0; k < n; ++k) {
            double step = trial[k] - v[k];
            const double half = 0.5 * std::abs(lastStep[k]);
            if (pass > 4 && step * lastStep[k] < 0 && std::abs(step) > half) {
                step = std::copysign(half, step);
                trial[k] = v[k] + step;
                limited = true;
            }
            lastStep[k] = step;
        }
        dv = lastStep;
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
        double change = 0;
        for (Eigen::Index k = 0; k < n; ++k)
            change = std::max(change, std::abs(trial[k] - v[k]) / (1 + std::abs(trial[k])));
        v.swap(trial);
        norm = next;
        // At a break in a slope the steps may alternate though the equations hold: where damping is on, these decide.
        const bool holds = norm < good;
        if (holds || (!limited && change < 1e-8)) {
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
    if (atRest()) { // currents are constant: the volts are predicted, and right if nothing conducts at them
        trial = v0;
        for (Eigen::Index c = 0; c < v.size(); ++c)
            if (i[c] != 0) trial -= i[c] * Z.col(c);
        evaluateAt(trial);
        if (atRest()) {
            v.swap(trial);
            lastResidual = 0;
            return true;
        }
    }
    if (iterate(Z, v0, false, 40)) return true;
    if (continueFromOpen(Z, v0)) return true;
    v.setZero();
    return iterate(Z, v0, true, 200);
}

/// Raises the currents from none to all, v + share Z i(v) = v0: at share 0 the answer is v0, and on the way to 1 each
/// point starts from the one before. Halves the stride where Newton fails.
bool PortSolver::continueFromOpen(const Eigen::MatrixXd& Z, const Eigen::VectorXd& v0) {
    v = v0;
    Eigen::VectorXd reachedVolts = v;
    Eigen::MatrixXd scaled = Z;
    double reached = 0, stride = 1e-3;
    for (int attempt = 0; attempt < 400 && reached < 1; ++attempt) {
        const double next = std::min(1.0, reached + stride);
        scaled = next * Z;
        if (iterate(scaled, v0, false, 20)) {
            reached = next;
            reachedVolts = v;
            stride *= 2;
        } else {
            v = reachedVolts;
            stride *= 0.5;
            if (stride < 1e-9) return false;
        }
    }
    return reached >= 1;
}

/// di = g dv with dv = dv0 - Z di: (I + g Z) di = g dv0.
void PortSolver::currentSensitivity(const Eigen::MatrixXd& Z, const Eigen::MatrixXd& dv0, Eigen::MatrixXd& di) {
    di.setZero();
    if (atRest()) return;
    const auto a = std::ssize(active);
    couple(Z, dv0.cols());
    for (Eigen::Index r = 0; r < a; ++r) {
        const Port& row = active[static_cast<std::size_t>(r)];
        auto side = small.side(r);
        side.setZero();
        for (int k = row.first; k < row.first + row.count; ++k)
            if (const double slope = g(row.port, k); slope != 0) side += slope * dv0.row(k);
    }
    small.solve();
    for (Eigen::Index r = 0; r < a; ++r) di.row(active[static_cast<std::size_t>(r)].port) = small.side(r);
}

} // namespace ember::circuit
