#include "fit.h"

#include <unsupported/Eigen/NonLinearOptimization>
#include <unsupported/Eigen/NumericalDiff>

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <variant>

namespace ember {

namespace {

using circuit::PentodeLaw;
using circuit::PortLaw;
using circuit::TriodeLaw;

/// A parameter of a law in the fit: kept in bounds by its scale, held near what valves of its kind have.
enum class FitScale { Log, Share, Plain };
struct FitParameter {
    double start, spread; ///< on the scale
    FitScale scale;
};

double onScale(double v, FitScale s) {
    if (s == FitScale::Log) return std::log(v);
    return s == FitScale::Share ? std::log(v / (1 - v)) : v;
}
double fromScale(double q, FitScale s) {
    if (s == FitScale::Log) return std::exp(std::clamp(q, -40.0, 40.0));
    return s == FitScale::Share ? 1 / (1 + std::exp(-q)) : q;
}

PortLaw fromVector(const PortLaw& like, const Eigen::VectorXd& v) {
    if (const auto* t = std::get_if<TriodeLaw>(&like)) return TriodeLaw{v[0], v[1], v[2], v[3], v[4], t->grid, v[5]};
    return PentodeLaw{v[0], v[1], v[2], v[3], v[4], v[5], v[6], std::get<PentodeLaw>(like).grid, v[7], v[8], v[9]};
}

/// What a typical valve with this first point would have.
std::vector<FitParameter> priors(const PortLaw& start, const PublishedData& data) {
    const auto fallback = PublishedPoint{250, 250, -2, 0.01, 0.002, 0.004, 20, 5000, false, false, {}};
    const auto found = std::find_if(data.points.begin(), data.points.end(), [](const auto& p) { return !p.cutoff; });
    const PublishedPoint& p = found == data.points.end() ? fallback : *found;
    const auto logarithm = [](double v, double spread) { return FitParameter{std::log(v), spread, FitScale::Log}; };
    if (std::holds_alternative<TriodeLaw>(start)) {
        const double mu = p.mu > 0 ? p.mu : p.gm > 0 && p.rp > 0 ? p.gm * p.rp : 20;
        return {logarithm(mu, 1),      logarithm(1.4, 0.06), logarithm(6 * mu + 30, 0.7),
                logarithm(300.0, 0.6), logarithm(1000.0, 3), {0.2, 0.4, FitScale::Plain}};
    }
    const double mu = p.strapped && p.mu > 0 ? p.mu : p.screen > 0 && p.grid < 0 ? 0.7 * p.screen / -p.grid : 12;
    const double share = p.screenAmps > 0 ? p.plateAmps / (p.plateAmps + p.screenAmps) : 0.85;
    return {logarithm(mu, 0.5),
            logarithm(1.38, 0.08),
            logarithm(60.0, 0.6),
            logarithm(500.0, 3),
            {onScale(share, FitScale::Share), 0.6, FitScale::Share},
            logarithm(12.0, 0.7),
            logarithm(1e-4, 2),
            {0.2, 0.4, FitScale::Plain},
            {0.0, 1.2, FitScale::Share},
            logarithm(0.6, 0.8)};
}

std::string voltText(double v) {
    return fmt::format("{:.4g} V", v);
}

std::string inWords(const PublishedPoint& p) {
    if (p.strapped) return fmt::format("as a triode, plate {}, grid {}", voltText(p.plate), voltText(p.grid));
    if (p.screen > 0)
        return fmt::format("plate {}, screen {}, grid {}", voltText(p.plate), voltText(p.screen), voltText(p.grid));
    return fmt::format("plate {}, grid {}", voltText(p.plate), voltText(p.grid));
}

std::string inWords(const PublishedOperation& o) {
    return fmt::format(
        "{}{}, {}, {}, {:.4g} ohm", o.pushPull ? "push-pull" : "single-ended",
        o.strapped        ? " as triodes"
        : o.screenTap > 0 ? " ultralinear"
                          : "",
        o.plate > 0 ? "plate " + voltText(o.plate) : "supply " + voltText(o.supply),
        o.cathodeOhms > 0 ? fmt::format("cathode {:.4g} ohm", o.cathodeOhms) : "grid " + voltText(o.grid), o.load);
}

std::string inWords(const PublishedStage& s) {
    return fmt::format("stage, supply {}, plate {:.4g} ohm, cathode {:.4g} ohm, next leak {:.4g} ohm",
                       voltText(s.supply), s.plateOhms, s.cathodeOhms, s.nextLeakOhms);
}

/// `each(figure, where, published, computed)` for every published figure.
template <typename F>
void eachFigure(const PortLaw& law, const PublishedData& data, F each) {
    const auto add = [&](Figure f, const auto& where, double published, double computed) {
        if (published != 0) each(f, where, published, std::isfinite(computed) ? computed : 1e9);
    };
    for (const PublishedPoint& p : data.points) {
        if (p.cutoff) {
            add(Figure::CutoffVolts, p, p.grid, gridForCurrent(law, p));
            continue;
        }
        const ValveFigures f = figuresAt(law, p);
        add(Figure::PlateAmps, p, p.plateAmps, f.plateAmps);
        add(Figure::ScreenAmps, p, p.screenAmps, f.screenAmps);
        add(Figure::Gm, p, p.gm, f.gm);
        add(Figure::Mu, p, p.mu, f.mu);
        add(Figure::Rp, p, p.rp, f.rp);
    }
    for (const PublishedOperation& o : data.operations) {
        const Operation done = operate(law, o);
        add(Figure::Power, o, o.power, done.power);
        add(Figure::PlateAmps, o, o.plateAmpsRest, done.plateAmpsRest);
        add(Figure::ScreenAmps, o, o.screenAmpsRest, done.screenAmpsRest);
        add(Figure::PlateAmpsFull, o, o.plateAmpsFull, done.plateAmpsFull);
        add(Figure::ScreenAmpsFull, o, o.screenAmpsFull, done.screenAmpsFull);
        // Only where the drive is published: else the operation is driven until its distortion is the published one.
        if (o.drive > 0) add(Figure::Thd, o, o.thdPercent, done.thdPercent);
    }
    for (const PublishedStage& s : data.stages) {
        const Amplified done = amplify(law, s);
        add(Figure::PlateAmps, s, s.plateAmps, done.plateAmps);
        add(Figure::Gain, s, s.gain, done.gain);
    }
}

struct Misfit {
    using Scalar = double;
    using InputType = Eigen::VectorXd;
    using ValueType = Eigen::VectorXd;
    using JacobianType = Eigen::MatrixXd;
    enum { InputsAtCompileTime = Eigen::Dynamic, ValuesAtCompileTime = Eigen::Dynamic };

    const PortLaw& like;
    const PublishedData& data;
    std::vector<FitParameter> prior;
    int figures;

    Misfit(const PortLaw& start, const PublishedData& d) : like(start), data(d), prior(priors(start, d)), figures(0) {
        eachFigure(start, d, [&](Figure, const auto&, double, double) { ++figures; });
    }

    [[nodiscard]] PortLaw law(const Eigen::VectorXd& q) const {
        Eigen::VectorXd v(q.size());
        for (Eigen::Index k = 0; k < q.size(); ++k) v[k] = fromScale(q[k], prior[static_cast<std::size_t>(k)].scale);
        return fromVector(like, v);
    }
    [[nodiscard]] int inputs() const { return static_cast<int>(prior.size()); }
    [[nodiscard]] int values() const { return inputs() + figures; }

    int operator()(const Eigen::VectorXd& q, Eigen::VectorXd& r) const {
        Eigen::Index n = 0;
        for (const FitParameter& p : prior) r[n] = 0.3 * (q[n] - p.start) / p.spread, ++n;
        eachFigure(law(q), data, [&](Figure figure, const auto&, double published, double computed) {
            const double miss = std::log(std::max(computed / published, 1e-6)) / kindOf(figure).allowed;
            // Beyond what is allowed an outlier's residual grows with the power 0.6 of its error only, so that it does
            // not spoil the rest.
            r[n++] = (kindOf(figure).judged ? 2 : 1.2) * miss / std::pow(1 + miss * miss, 0.2);
        });
        return 0;
    }
};

} // namespace

const FigureKind& kindOf(Figure f) {
    // Allowances: currents 10 %, slopes 15 %, cut-off 20 %, gain of a stage 8 %, power and currents of an operation 12
    // %.
    static const std::array<FigureKind, 11> kinds{{{"plate current", "plate_current", 0.10},
                                                   {"screen current", "screen_current", 0.10},
                                                   {"gm", "gm", 0.15},
                                                   {"mu", "mu", 0.15},
                                                   {"rp", "rp", 0.15},
                                                   {"cut-off volts", "grid", 0.20},
                                                   {"gain", "gain", 0.08},
                                                   {"power", "power", 0.12},
                                                   {"plate current at full signal", "plate_current_max_signal", 0.12},
                                                   {"screen current at full signal", "screen_current_max_signal", 0.12},
                                                   {"distortion at full signal", "thd_percent", 0.5, false}}};
    return kinds[static_cast<std::size_t>(f)];
}

std::string inWords(Figure f, double v) {
    switch (f) {
    case Figure::PlateAmps:
    case Figure::ScreenAmps:
    case Figure::PlateAmpsFull:
    case Figure::ScreenAmpsFull: return fmt::format("{:.4g} mA", 1e3 * v);
    case Figure::Gm: return fmt::format("{:.4g} mA/V", 1e3 * v);
    case Figure::Rp: return fmt::format("{:.4g} kohm", 1e-3 * v);
    case Figure::CutoffVolts: return fmt::format("{:.4g} V", v);
    case Figure::Power: return fmt::format("{:.4g} W", v);
    case Figure::Thd: return fmt::format("{:.3g} %", v);
    case Figure::Mu:
    case Figure::Gain: return fmt::format("{:.4g}", v);
    }
    return {};
}

bool Compared::met() const {
    return !kindOf(figure).judged || std::abs(error()) <= kindOf(figure).allowed;
}

std::vector<Compared> compare(const PortLaw& law, const PublishedData& data) {
    std::vector<Compared> out;
    eachFigure(law, data, [&](Figure f, const auto& where, double published, double computed) {
        out.push_back({f, inWords(where), published, computed});
    });
    return out;
}

PortLaw fitLaw(const PortLaw& start, const PublishedData& data) {
    const PublishedData points{data.points, {}, data.stages};
    Misfit misfit(start, points);
    Eigen::VectorXd q(misfit.inputs());
    for (int k = 0; k < q.size(); ++k) q[k] = misfit.prior[static_cast<std::size_t>(k)].start;
    // The current's scale first: it spans decades, and the search should not have to find it.
    const auto point = std::find_if(data.points.begin(), data.points.end(), [](const auto& p) { return !p.cutoff; });
    if (point != data.points.end()) {
        const double have = figuresAt(misfit.law(q), *point).plateAmps;
        const int scale = std::holds_alternative<TriodeLaw>(start) ? 4 : 3;
        if (have > 0) q[scale] += std::log(have / point->plateAmps);
        misfit.prior[static_cast<std::size_t>(scale)].start = q[scale];
    }
    const auto minimise = [&](const Misfit& of, int iterations) {
        Eigen::NumericalDiff<Misfit, Eigen::Central> slopes(of, 1e-9);
        Eigen::LevenbergMarquardt<decltype(slopes)> solver(slopes);
        solver.parameters.maxfev = iterations * (2 * of.inputs() + 1); // a Jacobian counts as its evaluations
        solver.parameters.ftol = solver.parameters.xtol = 1e-6;
        solver.minimize(q);
    };
    minimise(misfit, 60);
    if (!data.operations.empty()) { // costly, and of use only near a law that has the points right
        Misfit all(start, data);
        all.prior = misfit.prior;
        minimise(all, 40);
        return all.law(q);
    }
    return misfit.law(q);
}

FitError errorOf(const PortLaw& law, const PublishedData& data, bool withPrediction) {
    FitError out;
    double sum = 0;
    auto all = compare(law, data);
    std::erase_if(all, [](const Compared& c) { return !kindOf(c.figure).judged; });
    for (const Compared& c : all) sum += std::pow(std::log(std::max(c.computed / c.published, 1e-6)), 2);
    if (!all.empty()) out.fitted = std::sqrt(sum / static_cast<double>(all.size()));
    if (!withPrediction) return out;
    // Points of full current and stages, each left out once.
    sum = 0;
    int count = 0;
    const auto missed = [&](double have, double published) {
        sum += std::pow(std::log(std::max(have, 1e-9) / published), 2);
        ++count;
    };
    const bool several =
        std::count_if(data.points.begin(), data.points.end(), [](const auto& p) { return !p.cutoff; }) +
            static_cast<std::ptrdiff_t>(data.stages.size()) >=
        2;
    for (std::size_t left = 0; several && left < data.points.size(); ++left) {
        if (data.points[left].cutoff) continue;
        PublishedData rest = data;
        rest.points.erase(rest.points.begin() + static_cast<std::ptrdiff_t>(left));
        missed(figuresAt(fitLaw(law, rest), data.points[left]).plateAmps, data.points[left].plateAmps);
    }
    for (std::size_t left = 0; several && left < data.stages.size(); ++left) {
        PublishedData rest = data;
        rest.stages.erase(rest.stages.begin() + static_cast<std::ptrdiff_t>(left));
        missed(amplify(fitLaw(law, rest), data.stages[left]).plateAmps, data.stages[left].plateAmps);
    }
    if (count > 0) out.predicted = std::sqrt(sum / count);
    return out;
}

std::vector<std::string> misfits(const PortLaw& law, const PublishedData& data) {
    auto all = compare(law, data);
    if (all.empty()) return {};
    const auto off = [](const Compared& c) { return std::abs(c.error()); };
    std::sort(all.begin(), all.end(), [&](const Compared& a, const Compared& b) { return off(a) > off(b); });
    const double median = off(all[all.size() / 2]);
    std::vector<std::string> out;
    for (const Compared& c : all)
        if (!c.met() && off(c) > 3 * median)
            out.push_back(fmt::format("{}: the {} is {}, the other figures ask for {}", c.at, kindOf(c.figure).name,
                                      inWords(c.figure, c.published), inWords(c.figure, c.computed)));
    return out;
}

} // namespace ember
