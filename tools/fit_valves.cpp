// Fits the model of every valve in a catalogue file to its published points and operation, and writes the parameters
// and the errors that remain back into it. Usage: fit-valves data/catalogue/valves.json [TYPE]

#include "core/catalogue/catalogue.h"

#include <Eigen/Dense>
#include <fmt/format.h>
#include <nlohmann/json.hpp>
#include <unsupported/Eigen/NonLinearOptimization>
#include <unsupported/Eigen/NumericalDiff>

#include <cmath>
#include <complex>
#include <fstream>
#include <numbers>

using namespace ember;
using nlohmann::ordered_json;

namespace {

struct Swing {
    double power = 0, thd = 0;
};

/// Single-ended class A through an ideal transformer: the plate rides on `plate` volts, va = plate - load (ia - mean).
Swing swing(const circuit::PortLaw& law, const ValvePoint& p, double load, double drive) {
    constexpr int n = 32;
    double mean = p.plateAmps;
    Eigen::VectorXd ia(n);
    for (int round = 0; round < 15; ++round) {
        for (int k = 0; k < n; ++k) {
            const double grid = p.grid + drive * std::sin(2 * std::numbers::pi * k / n);
            double low = 0, high = p.plate + load * mean; // va falls monotonically with ia: bisect
            for (int b = 0; b < 36; ++b) {
                const double va = (low + high) / 2;
                const double want = mean + (p.plate - va) / load;
                (figuresAt(law, va, grid, p.screen).plateAmps > want ? high : low) = va;
            }
            ia[k] = mean + (p.plate - (low + high) / 2) / load;
        }
        const double next = ia.mean();
        if (std::abs(next - mean) < 1e-7) break;
        mean = next;
    }
    double harmonics = 0, fundamental = 0;
    for (int h = 1; h <= 10; ++h) {
        std::complex<double> sum = 0;
        for (int k = 0; k < n; ++k) sum += ia[k] * std::polar(2.0 / n, -2 * std::numbers::pi * h * k / n);
        (h == 1 ? fundamental : harmonics) += std::norm(sum);
    }
    return {load * (fundamental + harmonics) / 2, 100 * std::sqrt(harmonics / fundamental)};
}

/// At the published drive, or where the published distortion is reached, at most to zero grid volts.
Swing atOperation(const circuit::PortLaw& law, const ValvePoint& p, const ValveOperation& o) {
    if (o.drive > 0) return swing(law, p, o.load, o.drive);
    double low = 0.2 * -p.grid, high = -p.grid;
    if (swing(law, p, o.load, high).thd <= o.thdPercent) return swing(law, p, o.load, high);
    for (int k = 0; k < 14; ++k) {
        const double mid = (low + high) / 2;
        (swing(law, p, o.load, mid).thd > o.thdPercent ? high : low) = mid;
    }
    return swing(law, p, o.load, low);
}

/// Residuals in units of what each published figure is worth, and weak priors for what the points leave open.
struct Misfit {
    using Scalar = double;
    using InputType = Eigen::VectorXd;
    using ValueType = Eigen::VectorXd;
    using JacobianType = Eigen::MatrixXd;
    enum { InputsAtCompileTime = Eigen::Dynamic, ValuesAtCompileTime = Eigen::Dynamic };

    const ValveType& valve;
    Eigen::VectorXd prior;

    [[nodiscard]] circuit::PortLaw law(const Eigen::VectorXd& q) const {
        const auto e = [&](int k) { return std::exp(q[k]); };
        if (!valve.pentode)
            return circuit::TriodeLaw{e(0), e(1), e(2),
                                      e(3), e(4), std::get<circuit::TriodeLaw>(valve.law).gridPerveance};
        return circuit::PentodeLaw{e(0),
                                   e(1),
                                   e(2),
                                   e(3),
                                   1 / (1 + std::exp(-q[4])),
                                   e(5),
                                   e(6),
                                   std::get<circuit::PentodeLaw>(valve.law).gridPerveance};
    }
    [[nodiscard]] int inputs() const { return static_cast<int>(prior.size()); }
    [[nodiscard]] int values() const { return inputs() + 7 * static_cast<int>(valve.points.size()); }

    int operator()(const Eigen::VectorXd& q, Eigen::VectorXd& r) const {
        const auto model = law(q);
        r.setZero();
        int n = 0;
        const double spread[2][7] = {{1.5, 0.05, 0.7, 0.5, 3, 3, 3}, {1.0, 0.12, 0.6, 3, 3, 0.8, 3}};
        for (int k = 0; k < inputs(); ++k) r[n++] = (q[k] - prior[k]) / spread[valve.pentode ? 1 : 0][k];
        for (const ValvePoint& p : valve.points) {
            const auto f = figuresAt(model, p.plate, p.grid, p.screen);
            const auto miss = [&](double have, double want, double worth) {
                r[n++] = want > 0 ? std::log(std::max(have, 1e-12) / want) / worth : 0;
            };
            miss(f.plateAmps, p.plateAmps, 0.02);
            miss(f.screenAmps, p.screenAmps, 0.02);
            miss(f.gm, p.gm, 0.03);
            miss(f.mu, p.mu, 0.03);
            miss(f.rp, p.rp, 0.03);
            if (valve.operation.load > 0) {
                const Swing s = atOperation(model, p, valve.operation);
                miss(s.power, valve.operation.power, 0.02);
                miss(s.thd, valve.operation.thdPercent, valve.operation.drive > 0 ? 0.5 : 5);
            } else {
                n += 2;
            }
        }
        return 0;
    }
};

Eigen::VectorXd priorFor(const ValveType& v) {
    const ValvePoint& p = v.points.front();
    Eigen::VectorXd q(v.pentode ? 7 : 5);
    if (!v.pentode) {
        q << std::log(p.mu), std::log(1.4), std::log(6 * p.mu + 30), std::log(300.0), std::log(1000.0);
    } else {
        const double mu = 12 + 60 * p.gm; // screen-grid mu: unpublished here; between 10 and 20 for output valves
        q << std::log(mu), std::log(1.35), std::log(60.0), std::log(500.0), std::log(p.plateAmps / p.screenAmps),
            std::log(15.0), std::log(1e-4);
    }
    return q;
}

} // namespace

int main(int argc, char** argv) {
    if (argc < 2) {
        fmt::print(stderr, "usage: fit-valves VALVES.json [TYPE]\n");
        return 2;
    }
    std::ifstream in(argv[1]);
    ordered_json file = ordered_json::parse(in, nullptr, false);
    if (file.is_discarded()) {
        fmt::print(stderr, "{} is not JSON\n", argv[1]);
        return 2;
    }
    const auto catalogue = Catalogue::read(file.dump(), R"({"rectifiers":[],"silicon":[]})",
                                           R"({"lamps":[{"volts":1,"watts":1,"kelvin":1,"timeConstant":1}]})");
    if (!catalogue) {
        fmt::print(stderr, "{}\n", catalogue.problem().text());
        return 2;
    }
    for (std::size_t k = 0; k < catalogue->valves.size(); ++k) {
        const ValveType& valve = catalogue->valves[k];
        if (argc > 2 && valve.type != argv[2]) continue;
        Misfit misfit{valve, priorFor(valve)};
        Eigen::NumericalDiff<Misfit, Eigen::Central> slopes(misfit, 1e-6);
        Eigen::LevenbergMarquardt<decltype(slopes)> solver(slopes);
        solver.parameters.maxfev = 800;
        Eigen::VectorXd q = misfit.prior;
        solver.minimize(q);
        const auto model = misfit.law(q);
        const ValvePoint& p = valve.points.front();
        const auto f = figuresAt(model, p.plate, p.grid, p.screen);
        const auto percent = [](double have, double want) { return std::round(1000 * (have / want - 1)) / 10; };
        ordered_json fit = {{"plateAmpsPercent", percent(f.plateAmps, p.plateAmps)},
                            {"gmPercent", percent(f.gm, p.gm)}};
        if (p.screenAmps > 0) fit["screenAmpsPercent"] = percent(f.screenAmps, p.screenAmps);
        if (p.mu > 0) fit["muPercent"] = percent(f.mu, p.mu);
        if (p.rp > 0) fit["rpPercent"] = percent(f.rp, p.rp);
        if (valve.operation.load > 0) {
            const Swing s = atOperation(model, p, valve.operation);
            fit["powerPercent"] = percent(s.power, valve.operation.power);
            fit["thdThere"] = std::round(10 * s.thd) / 10;
        }
        file["valves"][k]["model"] = ordered_json(lawToJson(model));
        file["valves"][k]["fit"] = fit;
        fmt::print("{:8} {}\n         {}\n", valve.type, fit.dump(), lawToJson(model).dump());
    }
    std::ofstream(argv[1]) << file.dump(1) << '\n';
    return 0;
}
