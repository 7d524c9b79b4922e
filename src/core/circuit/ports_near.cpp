// Ports of successive points of a run: as a rule one evaluation of the device laws for each point.
#include "ports.h"

#include <algorithm>
#include <cmath>

namespace ember::circuit {

namespace {

constexpr int mostPasses = 8;
/// A correction larger than this share of the distance to the point evaluated before: the laws are evaluated again.
constexpr double within = 0.5;
/// Slope times own impedance below which a port's current counts as constant in a correction: a grid far below onset.
constexpr double negligible = 1e-6;

} // namespace

/// Estimated error [V] of currents extrapolated linearly over dv: half the change of slope, taken from the point
/// evaluated before, times dv, times each port's own impedance. Infinite where dv is too large to tell.
double PortSolver::bentBy(const Eigen::MatrixXd& Z) const {
    double most = 0;
    for (const PortDevice& d : ports) {
        double step = 0, way = 0;
        for (int k = d.first; k < d.first + d.count; ++k) {
            step = std::max(step, std::abs(dv[k]));
            way = std::max(way, std::abs(seen[k] - seenBefore[k]));
        }
        if (step <= 1e-9) continue;
        if (step > within * way) return INFINITY;
        for (int r = d.first; r < d.first + d.count; ++r) {
            double change = 0;
            for (int c = d.first; c < d.first + d.count; ++c)
                change += std::abs(g(r, c) - slopesBefore(r, c)) * std::abs(dv[c]);
            most = std::max(most, 0.5 * change * step / way * std::abs(Z(r, r)));
        }
    }
    return most;
}

bool PortSolver::solveNear(const Eigen::MatrixXd& Z, const Eigen::VectorXd& v0, double good) {
    for (int pass = 0; pass < mostPasses; ++pass) {
        seenBefore.swap(seen);
        slopesBefore.swap(g);
        seen = v;
        evaluateAt(v);
        formResidual(Z, v0, v);
        std::erase_if(active, [&](const Port& p) {
            double slope = 0;
            for (int k = p.first; k < p.first + p.count; ++k) slope = std::max(slope, std::abs(g(p.port, k)));
            return slope * std::abs(Z(p.port, p.port)) < negligible;
        });
        correction(Z);
        if (!dv.allFinite()) return false;
        bool limited = false;
        trial = v + dv;
        limitSteps(v, trial, limited);
        v.swap(trial);
        if (limited || bentBy(Z) > good) continue;
        for (Eigen::Index r = 0; r < std::ssize(active); ++r)
            i[active[static_cast<std::size_t>(r)].port] += small.side(r, 0);
        return true;
    }
    return false;
}

} // namespace ember::circuit
