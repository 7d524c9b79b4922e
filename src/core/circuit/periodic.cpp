#include "periodic.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace ember::circuit {

namespace {

/// Integrates one period after another; picks its steps, or replays the ones it picked before.
class Period {
  public:
    Period(Stepper& s, const PeriodicOptions& o) : stepper(s), options(o) {}

    double tolerance = 0; ///< for the steps that are picked

    bool run(State& state, bool replay, Recording* record) {
        state.t = 0;
        most = least = state.y;
        if (!stepper.begin(state)) return false;
        if (record) {
            record->clear();
            record->begin(stepper, state);
        }
        return replay ? replayGrid(state, record) : pickGrid(state, record);
    }
    [[nodiscard]] int steps() const { return static_cast<int>(grid.size()); }
    /// How far each state went in the last period.
    [[nodiscard]] Eigen::VectorXd swing() const { return most - least; }

  private:
    void accept(State& state, int level, Recording* record) {
        at += 1 << (bottom() - level);
        state.t = at * stepper.stepAt(bottom());
        most = most.cwiseMax(state.y);
        least = least.cwiseMin(state.y);
        if (record) record->add(stepper, state, stepper.stepAt(level));
    }
    [[nodiscard]] int bottom() const { return options.levels - 1; }

    bool replayGrid(State& state, Recording* record) {
        at = 0;
        for (const int level : grid) {
            if (!stepper.step(state, level)) return false;
            accept(state, level, record);
        }
        return true;
    }

    bool pickGrid(State& state, Recording* record) {
        const int total = options.steps << bottom();
        at = 0;
        int level = std::min(1, bottom());
        grid.clear();
        State before = state;
        while (at < total) {
            before = state;
            stepper.keepSensitivity();
            const bool solved = stepper.step(state, level);
            const double error = stepper.localError();
            if (!solved || (error > tolerance && level < bottom())) {
                if (level == bottom()) return false;
                state = before;
                stepper.restoreSensitivity();
                ++level;
                continue;
            }
            grid.push_back(level);
            accept(state, level, record);
            const int length = 1 << (bottom() - level);
            if (level > 0 && error < tolerance / 12 && at % (length * 2) == 0) --level;
        }
        return true;
    }

    Stepper& stepper;
    const PeriodicOptions& options;
    Eigen::VectorXd most, least;
    std::vector<int> grid;
    int at = 0;
};

} // namespace

Stepper periodicStepper(const System& system, const PeriodicOptions& o) {
    return {system, o.period / o.steps, o.levels};
}

Expected<PeriodicSolution> periodicSteadyState(Stepper& stepper, const Eigen::VectorXd& guess, const PeriodicOptions& o,
                                               Recording* record) {
    const System& sys = stepper.system();
    const int r = sys.states();
    Period period(stepper, o);
    Eigen::VectorXd swing;
    const auto distance = [&](const Eigen::VectorXd& a, const Eigen::VectorXd& b) {
        double worst = 0;
        for (int k = 0; k < r; ++k) {
            double scale = sys.stateFloor[static_cast<std::size_t>(k)] + std::abs(b[k]);
            if (swing.size() > 0) scale = std::min(scale, 300 * swing[k]);
            worst = std::max(worst, std::abs(a[k] - b[k]) / scale);
        }
        return worst;
    };
    State state{0, guess, Eigen::VectorXd::Zero(r)};
    PeriodicSolution best{guess, {}, {}, 1e300};
    Eigen::MatrixXd map;
    if (o.chord && o.map && o.map->rows() == r && o.map->cols() == r) map = *o.map;
    bool chord = map.size() > 0;
    double previous = 1e300;
    bool frozen = false;
    int plain = o.leadIn, stalls = 0;
    constexpr int idleMost = 8;
    int idle = 0; // passes since the residual last halved
    Eigen::VectorXd lastStride = Eigen::VectorXd::Zero(r), weight = Eigen::VectorXd::Ones(r);
    bool fullStride = false; // the start of this pass is where the map said that the period would close
    double lastLength = 1e300;
    for (int pass = 1; pass <= o.mostPasses; ++pass) {
        if (o.stop.stop_requested()) return Problem{"", "cancelled"};
        const Eigen::VectorXd y0 = state.y;
        const Eigen::VectorXd ports0 = stepper.portSolver().volts();
        stepper.follow(plain == 0 &&
                       !chord); // a period that leads in needs no Jacobian, and the first ones no fine steps
        const bool leading = pass <= o.leadIn;
        period.tolerance = leading ? std::max(o.tolerance, std::min(1e-4, 30 * o.tolerance)) : o.tolerance;
        // The last period is the one to keep; which it is shows only at its end. By an earlier map each takes off less
        // than Newton's own would.
        const bool kept = record && previous < (chord ? 1e-3 : 1e-2);
        if (!period.run(state, frozen, kept ? record : nullptr))
            return Problem{"",
                           fmt::format("a period was not solved (off by {:.3g} V)", stepper.portSolver().residual())};
        if (o.swings > 0) {
            // A state that does not swing at all is measured against its floor's thousandth.
            swing = period.swing();
            for (int k = 0; k < r; ++k)
                swing[k] = std::max(swing[k], 1e-3 * sys.stateFloor[static_cast<std::size_t>(k)]);
            if (!frozen) stepper.capErrorScale(o.swings * swing);
        }
        const double residual = r ? distance(state.y, y0) : 0;
        idle = residual < 0.5 * best.residual ? 0 : idle + 1;
        if (residual < best.residual) best = {y0, ports0, {}, residual};
        best.passes = pass;
        best.stepsTaken = period.steps();
        if (!std::isfinite(residual)) break;
        if (residual <= o.residual && !leading) {
            best.residual = residual;
            best.y = y0;
            best.map = plain == 0 && !chord ? stepper.sensitivity() : map;
            if (record && !kept) {
                stepper.follow(false);
                state.y = y0;
                if (!period.run(state, true, record)) return Problem{"", "the solved period could not be run again"};
            }
            return best;
        }
        if (plain > 0) {
            --plain; // the period's end is the next start
        } else {
            if (!chord)
                map = stepper.sensitivity();
            else if (fullStride) // what is left after a full stride is what the map got wrong along it (Broyden 1965)
                map += (state.y - y0) * (weight.cwiseProduct(lastStride)).transpose() /
                       weight.cwiseProduct(lastStride).dot(lastStride);
            const Eigen::MatrixXd J = map - Eigen::MatrixXd::Identity(r, r);
            Eigen::VectorXd dy = J.partialPivLu().solve(y0 - state.y);
            double share = 1;
            for (int k = 0; k < r; ++k) {
                const double reach = 0.3 * std::abs(y0[k]) + 30 * sys.stateFloor[static_cast<std::size_t>(k)];
                share = std::min(share, reach / std::max(1e-300, std::abs(dy[k])));
            }
            // A rectifier that conducts on one side of the solution and not on the other sends Newton to and fro:
            // each reversal may go half as far as the stride before it.
            double length = 0, along = 0;
            fullStride = false;
            for (int k = 0; k < r; ++k) {
                const double w = 1 / (sys.stateFloor[static_cast<std::size_t>(k)] + std::abs(y0[k]));
                weight[k] = w * w;
                length = std::max(length, share * std::abs(dy[k]) * w);
                along += dy[k] * w * lastStride[k] * w;
            }
            const bool reversed = along < 0;
            chord = o.chord && (!chord || residual < 0.5 * previous || pass == 1);
            if (reversed && length > 0.5 * lastLength) share *= 0.5 * lastLength / length;
            if (!dy.allFinite()) {
                plain = 3;
            } else if (!reversed && residual > 3 * previous && stalls < 12) {
                plain = 2 + stalls++; // farther than before: let the circuit itself lead for a while
                frozen = false;
            } else {
                state.y = y0 + share * dy;
                lastStride = share * dy;
                fullStride = share == 1 && lastStride.squaredNorm() > 0;
                lastLength = reversed ? std::min(length, 0.5 * lastLength) : length;
                // Near enough, the grid stays: the map is then smooth, and Newton quadratic. From a start of unknown
                // quality three passes pick their grids first; a nearby solution's grid is as good at once.
                // And where picking grids anew keeps Newton going round near the solution, the last one stays as well.
                frozen = (share == 1 && pass > 3 * o.leadIn && distance(state.y, y0) < 0.03) ||
                         (idle >= idleMost && residual < 0.05);
            }
        }
        previous = leading ? 1e300 : residual;
    }
    if (best.residual < o.acceptable) { // the residual is returned with the solution
        if (record) {
            stepper.follow(false);
            stepper.portSolver().volts() = best.portVolts;
            state.y = best.y;
            if (!period.run(state, true, record)) return Problem{"", "the solved period could not be run again"};
        }
        return best;
    }
    return Problem{
        "", fmt::format("no periodic solution within {} periods (residual {:.3g})", o.mostPasses, best.residual)};
}

} // namespace ember::circuit
