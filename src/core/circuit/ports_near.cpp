// Ports of successive points of a run: as a rule one evaluation of the device laws for each point.
#include "ports.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numeric>
#include <utility>

namespace ember::circuit {

namespace {

constexpr int mostPasses = 8;
/// A correction larger than this share of the distance to the point evaluated before: the device is evaluated again.
constexpr double within = 0.5;
/// Slope times own impedance below which a port's current counts as constant in a correction: a grid far below onset.
constexpr double negligible = 1e-6;
/// A correction with slopes of an earlier point is taken, and another follows, while its estimated error is no more
/// than this share of it; else the equations are factored with the new slopes.
constexpr double chordLeaves = 0.1;
/// After a point whose first correction could not be taken with the slopes of the point before, this is not tried for
/// so many points.
constexpr int afterFailure = 3;

} // namespace

/// Whether the estimated error of a device's currents, extrapolated linearly from where it was evaluated last, is
/// beyond what is allowed at one of its ports: half the change of slope on the way there from the point before, times
/// the distance from there, times the port's own impedance. Also where the distance is too large to tell.
bool PortSolver::bends(const PortDevice& d, const Eigen::MatrixXd& Z, const Eigen::VectorXd& good) const {
    double step = 0, way = 0;
    std::array<double, 3> steps{}, change{};
    for (int k = 0; k < d.count; ++k) {
        const int p = d.first + k;
        steps[static_cast<std::size_t>(k)] = std::abs(v[p] - seen[p]);
        step = std::max(step, steps[static_cast<std::size_t>(k)]);
        way = std::max(way, std::abs(seen[p] - seenBefore[p]));
    }
    if (step <= 1e-9) return false;
    if (step > within * way) return true;
    for (int c = 0; c < d.count; ++c) {
        const double *now = &g(d.first, d.first + c), *before = &slopesBefore(d.first, d.first + c);
        for (int r = 0; r < d.count; ++r)
            change[static_cast<std::size_t>(r)] += std::abs(now[r] - before[r]) * steps[static_cast<std::size_t>(c)];
    }
    for (int r = 0; r < d.count; ++r) {
        const int p = d.first + r;
        if (0.5 * change[static_cast<std::size_t>(r)] * step * std::abs(Z(p, p)) > good[p] * way) return true;
    }
    return false;
}

/// Evaluates the devices in `bent` at `v`. There the equations held with these devices' tangents in place of their
/// laws: f becomes the residual with the laws.
void PortSolver::evaluateBent(const Eigen::MatrixXd& Z) {
    const Eigen::Index n = v.size();
    f.setZero();
    for (const std::size_t k : bent) {
        const PortDevice& d = ports[k];
        for (int p = d.first; p < d.first + d.count; ++p) {
            seenBefore[p] = seen[p], seen[p] = v[p], start[p] = i[p];
            for (int c = d.first; c < d.first + d.count; ++c) slopesBefore(p, c) = g(p, c);
        }
        evaluateDevice(d, v);
        for (int p = d.first; p < d.first + d.count; ++p) {
            const double more = i[p] - start[p];
            for (Eigen::Index r = 0; r < n; ++r) f[r] += more * Z(r, p);
        }
    }
}

/// The correction for the residual f with the equations as they are factored: `dv` of the volts, `amperes` of the
/// active ports' currents.
void PortSolver::byTangents(const Eigen::MatrixXd& Z) {
    const Eigen::Index n = v.size();
    amperes.resize(active.size());
    for (std::size_t k = 0; k < active.size(); ++k) amperes[k] = -alongRow(k, f);
    if (!active.empty()) small.solveAgain(amperes.data());
    for (Eigen::Index r = 0; r < n; ++r) dv[r] = -f[r];
    for (std::size_t k = 0; k < active.size(); ++k)
        for (Eigen::Index r = 0; r < n; ++r) dv[r] -= amperes[k] * Z(r, active[k].port);
}

/// The same (chord method), and an estimate of the residual behind it: the change of slopes of the devices in `bent`
/// since the equations were factored, times dv. The largest, over the largest of dv and over what is allowed.
PortSolver::Left PortSolver::chord(const Eigen::MatrixXd& Z, const Eigen::VectorXd& good) {
    byTangents(Z);
    if (!dv.allFinite()) return {INFINITY, INFINITY};
    Left left;
    double most = 0;
    for (const std::size_t k : bent) {
        const PortDevice& d = ports[k];
        for (int r = d.first; r < d.first + d.count; ++r) {
            double change = 0;
            for (int c = d.first; c < d.first + d.count; ++c)
                change += std::abs(g(r, c) - tangents(r, c)) * std::abs(dv[c]);
            const double volts = change * std::abs(Z(r, r));
            most = std::max(most, volts);
            left.ofGood = std::max(left.ofGood, volts / good[r]);
        }
    }
    left.ofItself = most / dv.lpNorm<Eigen::Infinity>();
    return left;
}

/// Adds the correction of byTangents() to volts and currents.
void PortSolver::take() {
    v += dv;
    for (std::size_t k = 0; k < active.size(); ++k) i[active[k].port] += amperes[k];
}

/// `active` becomes the ports whose slope matters, see `negligible`.
void PortSolver::listActive(const Eigen::MatrixXd& Z) {
    active.clear();
    for (const PortDevice& d : ports)
        for (int r = d.first; r < d.first + d.count; ++r) {
            double slope = 0;
            for (int c = d.first; c < d.first + d.count; ++c) slope = std::max(slope, std::abs(g(r, c)));
            if (slope * std::abs(Z(r, r)) >= negligible) active.push_back({r, d.first, d.count});
        }
}

/// Begins with the volts that the last point's tangents give, if its equations are still factored and are of the same
/// Z.
bool PortSolver::solveNear(const Eigen::MatrixXd& Z, const Eigen::VectorXd& v0, const Eigen::VectorXd& good) {
    const bool factored = std::exchange(solvedWith, &Z) == &Z;
    if (factored) {
        f = solvedFor - v0;
        byTangents(Z);
        v = solvedVolts;
        if (dv.allFinite()) v += dv;
    }
    solvedFor = v0;
    const bool solved = iterateNear(Z, v0, good, factored);
    if (solved)
        solvedVolts = v;
    else
        solvedWith = nullptr;
    return solved;
}

/// `factored`: whether the equations of the point before are, for the first correction to be tried with.
bool PortSolver::iterateNear(const Eigen::MatrixXd& Z, const Eigen::VectorXd& v0, const Eigen::VectorXd& good,
                             bool factored) {
    bool whole = true; // every device is to be evaluated, and not only those that bend
    for (int pass = 0; pass < mostPasses; ++pass) {
        if (whole) {
            seenBefore.swap(seen);
            slopesBefore.swap(g);
            seen = v;
            for (const PortDevice& d : ports) evaluateDevice(d, v);
            evaluated = true;
            formResidual(Z, v0, v);
            if (pass == 0 && factored && newTangents-- <= 0) {
                bent.resize(ports.size());
                std::iota(bent.begin(), bent.end(), std::size_t{0});
                if (chord(Z, good).ofGood <= 1) {
                    newTangents = 0;
                    take();
                    return true;
                }
                newTangents = afterFailure;
            }
        } else {
            evaluateBent(Z);
            const Left left = chord(Z, good);
            if (left.ofGood <= 1 || left.ofItself < chordLeaves) {
                take();
                if (left.ofGood <= 1) return true;
                continue;
            }
        }
        listActive(Z);
        correction(Z);
        if (!dv.allFinite()) return false;
        tangents = g;
        whole = false;
        trial = v + dv;
        limitSteps(v, trial, whole);
        v.swap(trial);
        if (whole) continue;
        bent.clear();
        for (std::size_t k = 0; k < ports.size(); ++k)
            if (bends(ports[k], Z, good)) bent.push_back(k);
        for (Eigen::Index r = 0; r < std::ssize(active); ++r)
            i[active[static_cast<std::size_t>(r)].port] += small.side(r, 0);
        if (bent.empty()) return true;
    }
    return false;
}

} // namespace ember::circuit
