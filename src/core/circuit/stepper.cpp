#include "stepper.h"

#include "small_product.h"

#include <cmath>

namespace ember::circuit {

BaseMatrices::BaseMatrices(const System& s, double largest) : dh0(largest) {
    const auto m = s.unknowns(), r = s.states(), ns = static_cast<int>(s.sources.size()), p = s.portTotal();
    Eigen::MatrixXd A = s.L * s.R.transpose() + dh0 * s.G;
    Eigen::MatrixXd B(m, r + ns + p);
    B << s.L, s.S, s.P;
    // Rows differ by many orders (farads against siemens times a tiny step): equal weight before pivoting.
    for (int k = 0; k < m; ++k) {
        const double weight = 1 / A.row(k).cwiseAbs().maxCoeff();
        A.row(k) *= weight;
        B.row(k) *= weight;
    }
    const Eigen::MatrixXd W = A.partialPivLu().solve(B);
    const Eigen::MatrixXd states = s.R.transpose() * W, atPorts = s.Q.transpose() * W;
    M = states.leftCols(r);
    N = states.rightCols(ns + p);
    portX = atPorts.leftCols(r);
    portY = atPorts.rightCols(ns + p);
    XY = W;
    XY.rightCols(ns + p) *= dh0;
}

StageMatrices::StageMatrices(const BaseMatrices& b, const System& system, double stageStep,
                             const std::vector<int>& watch)
    : dh(stageStep),
      share(stageStep / b.dh0) {
    const auto r = b.M.rows(), p = b.portX.rows(), ns = static_cast<Eigen::Index>(system.sources.size());
    K = (share * Eigen::MatrixXd::Identity(r, r) + (1 - share) * b.M).partialPivLu().inverse();
    const Eigen::MatrixXd KN = K * b.N;
    Eigen::MatrixXd states(r + p, r);
    states << b.M * K, b.portX * K;
    fromStates = padded(states);
    Eigen::MatrixXd rest(r + p, ns + p); // the states' rows are dh0 (I - (1 - s) M K) N without its cancellation
    rest << dh * KN, b.dh0 * (b.portY - (1 - share) * (b.portX * KN));
    fromSources = padded(rest.leftCols(ns));
    Yp = padded(rest.topRightCorner(r, p), r + p);
    Z = rest.bottomRightCorner(p, p);
    const auto rows = static_cast<Eigen::Index>(watch.size());
    if (rows == 0) return;
    Eigen::MatrixXd chosen(rows, r + ns + p);
    for (Eigen::Index k = 0; k < rows; ++k) chosen.row(k) = b.XY.row(watch[static_cast<std::size_t>(k)]);
    const Eigen::MatrixXd states0 = chosen.leftCols(r) * K;
    chosen.rightCols(ns + p) -= (1 - share) * b.dh0 * (states0 * b.N);
    chosen.leftCols(r) = states0;
    chosen.rightCols(p) *= -1; // the currents, as they are
    watched = padded(chosen);
}

Stepper::Stepper(const System& system, double baseStep, int levels)
    : sys(system),
      sources(system.sources),
      base(baseStep),
      levelCount(levels),
      ladder(static_cast<std::size_t>(levels)),
      ports(system) {
    const int r = sys.states(), p = sys.portTotal();
    const auto ns = static_cast<Eigen::Index>(sys.sources.size());
    for (Sample* s : {&middle, &end}) {
        s->yStar = Eigen::VectorXd::Zero(r);
        s->u = Eigen::VectorXd::Zero(ns);
        s->i = s->v = Eigen::VectorXd::Zero(p);
    }
    matrices = std::make_unique<BaseMatrices>(sys, d * base);
    v0 = previousVolts = rise = trend.slope = trend.bend = Eigen::VectorXd::Zero(p);
    previousTrend = trend;
    both = Eigen::VectorXd::Zero(inFours(r + p));
    errors = yNext = yMiddle = dyMiddle = dyNext = Eigen::VectorXd::Zero(r);
    sy = sdy = syStar = Eigen::MatrixXd::Zero(r, r);
    stacked = Eigen::MatrixXd::Zero(inFours(r + p), r);
    dv0 = di = Eigen::MatrixXd::Zero(p, r);
}

const StageMatrices& Stepper::at(int level) {
    auto& place = ladder[static_cast<std::size_t>(level)];
    if (!place) place = std::make_unique<StageMatrices>(*matrices, sys, d * stepAt(level), watchedRows);
    return *place;
}

bool Stepper::solvePorts(const StageMatrices& m) {
    if (portVolts.size() == 0) return ports.solve(m.Z, v0);
    portStart = ports.volts();
    if (ports.solveNear(m.Z, v0, portVolts)) return true;
    ports.volts() = portStart;
    return !shorterLeft && ports.solve(m.Z, v0);
}

bool Stepper::solveStage(const StageMatrices& m, double t, Sample& out, Eigen::VectorXd& y, Eigen::MatrixXd& dYStar) {
    out.stage = &m;
    for (std::size_t k = 0; k < sources.size(); ++k) out.u[static_cast<Eigen::Index>(k)] = sources[k].at(t);
    const auto r = yNext.size(), p = v0.size();
    product(m.fromStates, out.yStar.data(), r, 1, both.data(), Into::Set);
    product(m.fromSources, out.u.data(), out.u.size(), 1, both.data(), Into::Add);
    for (Eigen::Index k = 0; k < p; ++k) v0[k] = both[r + k];
    if (!solvePorts(m)) return false;
    out.i = ports.amps();
    out.v = ports.volts();
    product(m.Yp, out.i.data(), p, 1, both.data(), Into::Subtract);
    for (Eigen::Index k = 0; k < r; ++k) y[k] = both[k];
    if (following) {
        product(m.fromStates, dYStar.data(), r, r, stacked.data(), Into::Set);
        if (p > 0 && !ports.atRest()) {
            dv0 = stacked.middleRows(r, p);
            ports.currentSensitivity(m.Z, dv0, di);
            product(m.Yp, di.data(), p, r, stacked.data(), Into::Subtract);
        }
        dYStar = stacked.topRows(r);
    }
    return true;
}

bool Stepper::begin(State& s) {
    const double tiny = 1e-6 * base;
    if (!opening) opening = std::make_unique<StageMatrices>(*matrices, sys, tiny, watchedRows);
    end.yStar = s.y;
    trend.slope.setZero();
    trend.bend.setZero();
    trend.last = 0;
    shorterLeft = false;
    if (following) {
        sy.setIdentity();
        syStar.setIdentity();
    }
    if (!solveStage(*opening, s.t, end, yNext, syStar)) return false;
    s.dy = (yNext - s.y) / tiny;
    if (following) sdy = (syStar - sy) / tiny;
    return true;
}

bool Stepper::step(State& s, int level) {
    const StageMatrices& m = at(level);
    const double h = stepAt(level);
    shorterLeft = level + 1 < levelCount;
    previousVolts = ports.volts();
    // Trapezoidal to t + gamma h, from the state and its rate.
    middle.yStar.noalias() = s.y + m.dh * s.dy;
    if (following) syStar.noalias() = sy + m.dh * sdy;
    Eigen::MatrixXd& carried = syStar;
    const double first = gamma * h, second = (1 - gamma) * h;
    previousTrend = trend;
    ports.volts().noalias() += first * trend.slope + first * (first + trend.last) * trend.bend;
    if (!solveStage(m, s.t + gamma * h, middle, yMiddle, carried)) {
        ports.volts() = previousVolts;
        return false;
    }
    dyMiddle.noalias() = (yMiddle - middle.yStar) / m.dh;
    // BDF2 over the two points to t + h.
    for (Eigen::Index k = 0; k < previousVolts.size(); ++k) {
        const double slope = (middle.v[k] - previousVolts[k]) / first;
        const double bend = trend.last > 0 ? (slope - trend.slope[k]) / (first + trend.last) : 0;
        ports.volts()[k] += second * slope + second * h * bend;
        rise[k] = slope;
    }
    constexpr double a = 1 / (gamma * (2 - gamma));
    constexpr double b = (1 - gamma) * (1 - gamma) / (gamma * (2 - gamma));
    end.yStar.noalias() = a * yMiddle - b * s.y;
    if (following) {
        carried = a * carried - b * sy;
        sdy = carried; // kept to form the rate's sensitivity below
    }
    if (!solveStage(m, s.t + h, end, yNext, carried)) {
        ports.volts() = previousVolts;
        return false;
    }
    dyNext.noalias() = (yNext - end.yStar) / m.dh;
    if (following) {
        sdy = (carried - sdy) / m.dh;
        sy = carried;
    }
    trend.slope.noalias() = (end.v - middle.v) / second;
    trend.bend.noalias() = (trend.slope - rise) / h;
    trend.last = second;
    constexpr double k = (-3 * gamma * gamma + 4 * gamma - 2) / (12 * (2 - gamma));
    errors.noalias() = 2 * k * h * (s.dy / gamma - dyMiddle / (gamma * (1 - gamma)) + dyNext / (1 - gamma));
    error = relative(errors);
    s.y = yNext;
    s.dy = dyNext;
    s.t += h;
    return true;
}

double Stepper::relative(const Eigen::VectorXd& e) const {
    double most = 0;
    for (Eigen::Index n = 0; n < yNext.size(); ++n) {
        double scale = sys.stateFloor[static_cast<std::size_t>(n)] + std::abs(yNext[n]);
        if (errorCaps.size() > 0) scale = std::min(scale, errorCaps[n]);
        most = std::max(most, std::abs(e[n]) / scale);
    }
    return most;
}

void Stepper::watch(std::vector<int> rows) {
    watchedRows = std::move(rows);
    for (auto& stage : ladder) stage.reset();
    opening.reset();
    seen.resize(inFours(std::ssize(watchedRows)));
}

const Eigen::VectorXd& Stepper::endWatched() {
    given.resize(end.yStar.size() + end.u.size() + end.i.size());
    given << end.yStar, end.u, end.i;
    product(end.stage->watched, given.data(), given.size(), 1, seen.data(), Into::Set);
    return seen;
}

void Stepper::unknowns(const Sample& s, Unknowns& x) const {
    const auto r = s.yStar.size(), ns = s.u.size(), p = s.i.size();
    x.matrix = &matrices->XY;
    x.weights.resize(r + ns + p);
    x.weights.segment(r, ns) = s.u;
    x.weights.tail(p) = -s.i;
    const double reach = (1 - s.stage->share) * matrices->dh0;
    x.right = s.yStar;
    x.right.noalias() -= reach * (matrices->N * x.weights.tail(ns + p));
    x.weights.head(r).noalias() = s.stage->K * x.right;
}

} // namespace ember::circuit
