#include "cvode_supply.h"

#include <cvode/cvode.h>
#include <nvector/nvector_serial.h>
#include <sundials/sundials_context.h>
#include <sunlinsol/sunlinsol_dense.h>
#include <sunmatrix/sunmatrix_dense.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <vector>

namespace ember::bench_peer {

namespace {

/// Capacitor volts and choke currents in the order of the chain; every node has its capacitor.
struct Equations {
    const plan::SupplyCase& g;

    /// Current of one leg of EMF `e` into `v`: e - v = i R + drop(i), monotone, by Newton.
    [[nodiscard]] double leg(double e, double v) const {
        const double over = e - v;
        const int inSeries = g.supply.connection == Connection::Bridge ? 2 : 1;
        if (g.rectifier.vacuum) {
            if (over <= 0) return 0;
            double drop = over; // i = K drop^1.5, drop + R i = over
            for (int k = 0; k < 60; ++k) {
                const double i = g.rectifier.law.perveance * std::pow(drop, 1.5);
                const double step = (drop + g.sourceOhms * i - over) /
                                    (1 + 1.5 * g.sourceOhms * g.rectifier.law.perveance * std::sqrt(drop));
                drop = std::max(1e-12, drop - step);
                if (std::abs(step) < 1e-11 * (1 + drop)) break;
            }
            return g.rectifier.law.perveance * std::pow(drop, 1.5);
        }
        const double nvt = inSeries * g.rectifier.junction.ideality * circuit::thermalVolts,
                     is = g.rectifier.junction.saturation;
        const double r = g.sourceOhms + inSeries * g.rectifier.seriesOhms;
        if (over < -5 * nvt) return -is;
        double i = std::max(1e-12, over / r);
        for (int k = 0; k < 100; ++k) {
            const double step = (r * i + nvt * std::log1p(i / is) - over) / (r + nvt / (is + i));
            i = std::max(-is * 0.999999, i - step);
            if (std::abs(step) < 1e-13 + 1e-11 * std::abs(i)) break;
        }
        return i;
    }

    /// All legs together into a first node at `v`.
    [[nodiscard]] double legs(double t, double v) const {
        const double e = g.emf * std::numbers::sqrt2 * std::sin(2 * std::numbers::pi * g.frequency * t);
        return g.supply.connection == Connection::HalfWave ? leg(e, v)
               : g.supply.connection == Connection::Bridge ? leg(std::abs(e), v)
                                                           : leg(e, v) + leg(-e, v);
    }

    void rates(double t, const double* y, double* d) const {
        const auto& sections = g.supply.sections;
        double into = legs(t, y[0]);
        std::size_t at = 0;
        int node = 1;
        for (std::size_t k = 0; k < sections.size(); k += 2, ++node) { // capacitor, then what leads on
            double out = 0;
            for (const auto& l : g.loads)
                if (l.node == node) out += l.ohms > 0 ? y[at] / l.ohms : l.amps;
            double onward = 0;
            std::size_t next = at + 1;
            if (k + 1 < sections.size()) {
                const Section& s = sections[k + 1];
                if (s.kind == SectionKind::Choke) {
                    onward = y[at + 1];
                    d[at + 1] = (y[at] - s.resistance * onward - y[at + 2]) / s.inductance;
                    next = at + 2;
                } else {
                    onward = (y[at] - y[at + 1]) / s.resistance;
                }
            }
            d[at] = (into - out - onward) / sections[k].capacitance;
            into = onward;
            at = next;
        }
    }
};

int rightHandSide(realtype t, N_Vector y, N_Vector d, void* user) {
    static_cast<const Equations*>(user)->rates(t, N_VGetArrayPointer(y), N_VGetArrayPointer(d));
    return 0;
}

} // namespace

namespace {

/// CVODE with everything that it owns.
class Integrator {
  public:
    Integrator(const plan::SupplyCase& supply, double relative) : equations{supply} {
        for (const Section& s : supply.supply.sections) n += s.kind != SectionKind::Resistor ? 1 : 0;
        SUNContext_Create(nullptr, &context);
        y = N_VNew_Serial(n, context);
        N_VConst(0, y);
        solver = CVodeCreate(CV_BDF, context);
        CVodeInit(solver, rightHandSide, 0, y);
        CVodeSStolerances(solver, relative, 0.1 * relative);
        CVodeSetUserData(solver, &equations);
        CVodeSetMaxNumSteps(solver, 1000000);
        CVodeSetMaxStep(solver, 1 / supply.frequency / 20);
        matrix = SUNDenseMatrix(n, n, context);
        linear = SUNLinSol_Dense(y, matrix, context);
        CVodeSetLinearSolver(solver, linear, matrix);
    }
    ~Integrator() {
        CVodeFree(&solver);
        SUNLinSolFree(linear);
        SUNMatDestroy(matrix);
        N_VDestroy(y);
        SUNContext_Free(&context);
    }
    Integrator(const Integrator&) = delete;
    Integrator& operator=(const Integrator&) = delete;

    bool to(double seconds) { return CVode(solver, seconds, y, &t, CV_NORMAL) >= 0; }
    [[nodiscard]] double state(long k) const { return N_VGetArrayPointer(y)[k]; }
    [[nodiscard]] long states() const { return n; }
    /// All legs together, now.
    [[nodiscard]] double rectifierAmps() const { return equations.legs(t, state(0)); }

    /// Period after period of `samples` until one repeats within `within`; the number of periods, 0: it did not.
    int settle(int samples, double within, double& mean) {
        std::vector<double> before(static_cast<std::size_t>(n), 0);
        const double frequency = equations.g.frequency;
        for (int period = 1; period < 20000; ++period) {
            double sum = 0;
            for (int k = 1; k <= samples; ++k) {
                if (!to((period - 1 + static_cast<double>(k) / samples) / frequency)) return 0;
                sum += state(0);
            }
            double change = 0;
            for (std::size_t k = 0; k < before.size(); ++k) {
                const double now = state(static_cast<long>(k));
                change = std::max(change, std::abs(now - before[k]) / (std::abs(now) + 1e-3));
                before[k] = now;
            }
            mean = sum / samples;
            if (change < within) return period;
        }
        return 0;
    }

  private:
    Equations equations;
    long n = 0;
    SUNContext context = nullptr;
    N_Vector y = nullptr;
    void* solver = nullptr;
    SUNMatrix matrix = nullptr;
    SUNLinearSolver linear = nullptr;
    realtype t = 0;
};

} // namespace

double integrateFromCold(const plan::SupplyCase& supply) {
    Integrator run(supply, 1e-6);
    double mean = NAN;
    return run.settle(40, 3e-6, mean) ? mean : NAN;
}

Integrated integrateFinely(const plan::SupplyCase& supply) {
    Integrator run(supply, 1e-9);
    double mean = NAN;
    const int periods = run.settle(8, 1e-8, mean);
    if (!periods) return {NAN, NAN, NAN, NAN, NAN};
    constexpr int samples = 8000;
    double sum = 0, square = 0, most = -1e300, least = 1e300, peak = 0, amps = 0;
    for (int k = 1; k <= samples; ++k) {
        if (!run.to((periods + static_cast<double>(k) / samples) / supply.frequency)) return {NAN, NAN, NAN, NAN, NAN};
        const double v = run.state(0), i = run.rectifierAmps();
        sum += v;
        square += v * v;
        most = std::max(most, v);
        least = std::min(least, v);
        peak = std::max(peak, i);
        amps += i * i;
    }
    mean = sum / samples;
    return {mean, most - least, std::sqrt(std::max(0.0, square / samples - mean * mean)), peak,
            std::sqrt(amps / samples)};
}

} // namespace ember::bench_peer
