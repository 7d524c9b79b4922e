#include "this_valve.h"

#include <Eigen/Dense>
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <limits>
#include <map>

namespace ember {

namespace {

constexpr std::size_t mostValves = 12;

/// Logarithms of the four shares, their usual spread, and how far they may go.
constexpr int shareCount = 4;
constexpr std::array<double, shareCount> usualSpread{0.15, 0.08, 0.15, 0.15};

ValveShares sharesFrom(const Eigen::VectorXd& x) {
    return {std::exp(x[0]), std::exp(x[1]), std::exp(x[2]), std::exp(x[3])};
}

ValveFigures figuresOf(const ValveType& t, const ValveShares& shares, const ValveReading& at) {
    ValveFigures f = figuresAt(lawOf(t.section(at.section).law, shares), at.plate, at.grid, at.screen);
    f.plateAmps *= shares.emission, f.screenAmps *= shares.emission, f.gm *= shares.emission;
    return f;
}

/// By how much of itself an average valve's current changes for a change of all volts by one of them.
double voltsCount(const ValveType& type, const ValveReading& r) {
    const ValveFigures f = figuresOf(type, {}, r);
    return f.plateAmps > 0 ? (f.gm * std::abs(r.grid) + r.plate / std::max(f.rp, 1.0)) / f.plateAmps : 0;
}

/// What the readings may be off by, as shares of their current: its own accuracy, and that of the volts.
std::vector<double> spreadsOf(const ValveType& type, std::span<const ValveReading> readings, double accuracy) {
    std::vector<double> out;
    for (const ValveReading& r : readings) out.push_back(accuracy * std::hypot(1, 0.5 * voltsCount(type, r)));
    return out;
}

/// Errors in units of what they may be: of each reading, its screen where read, and the shares' own.
Eigen::VectorXd residuals(const ValveType& type, std::span<const ValveReading> readings,
                          std::span<const double> spreads, const Eigen::VectorXd& x) {
    std::vector<double> out;
    const ValveShares shares = sharesFrom(x);
    for (std::size_t k = 0; k < readings.size(); ++k) {
        const ValveReading& r = readings[k];
        const ValveFigures f = figuresOf(type, shares, r);
        out.push_back(std::log(std::max(f.plateAmps, 1e-12) / r.plateAmps) / spreads[k]);
        if (type.section(r.section).pentode && r.screenAmps > 0)
            out.push_back(std::log(std::max(f.screenAmps, 1e-12) / r.screenAmps) / (2 * spreads[k]));
    }
    for (int k = 0; k < shareCount; ++k) out.push_back(x[k] / usualSpread[static_cast<std::size_t>(k)]);
    return Eigen::Map<Eigen::VectorXd>(out.data(), std::ssize(out));
}

double rms(const std::vector<double>& all) {
    double sum = 0;
    for (const double v : all) sum += v * v;
    return all.empty() ? 0 : std::sqrt(sum / static_cast<double>(all.size()));
}

std::vector<double> errorsOf(const ValveType& type, std::span<const ValveReading> readings, const ValveShares& shares) {
    std::vector<double> out;
    for (const ValveReading& r : readings) out.push_back(figuresOf(type, shares, r).plateAmps / r.plateAmps - 1);
    return out;
}

std::optional<Problem> absurd(const ValveType& type, std::span<const ValveReading> readings) {
    if (readings.empty()) return Problem{"", "no reading: plate and grid volts and the plate current are needed"};
    for (std::size_t k = 0; k < readings.size(); ++k) {
        const ValveReading& r = readings[k];
        const std::string where = fmt::format("reading {}", k + 1);
        if (!(r.plate > 0 && r.plate <= 5000) || !(std::abs(r.grid) <= 1000) || !(r.screen >= 0 && r.screen <= 5000))
            return Problem{where, "plate volts from 0 to 5000 and grid volts from -1000 to 1000 are expected"};
        if (!(r.plateAmps > 0 && r.plateAmps <= 10) || !(r.screenAmps >= 0 && r.screenAmps <= 10))
            return Problem{where, "a plate current above 0 and below 10 A is expected"};
        if (type.section(r.section).pentode && !(r.screen > 0)) return Problem{where, "the screen's volts are missing"};
        if (r.grid > 1)
            return Problem{where, fmt::format("the grid is read against the cathode, below it: -{:g} V?", r.grid)};
        // Further off than any valve of the type, its cut-off and what the volts leave open included.
        const double average = figuresOf(type, {}, r).plateAmps, most = 5 * std::exp(0.3 * voltsCount(type, r));
        if (!(average > r.plateAmps / most && average < r.plateAmps * most))
            return Problem{where,
                           fmt::format("{:.3g} mA were read where an average valve of the type draws {:.3g} mA: a "
                                       "wrong unit, point or type",
                                       1e3 * r.plateAmps, 1e3 * average)};
    }
    return std::nullopt;
}

} // namespace

circuit::PortLaw lawOf(circuit::PortLaw law, const ValveShares& v) {
    if (auto* t = std::get_if<circuit::TriodeLaw>(&law)) {
        t->mu *= v.mu;
        t->kp *= v.cutoff;
        t->grid.gas = v.gas;
    } else if (auto* p = std::get_if<circuit::PentodeLaw>(&law)) {
        p->mu *= v.mu;
        p->kp *= v.cutoff;
        p->grid.gas = v.gas;
        p->share = std::clamp(1 - (1 - p->share) * v.screen, 0.05, 0.999);
    }
    return law;
}

Expected<ReadValve> readValve(const ValveType& type, std::span<const ValveReading> readings, double accuracy) {
    if (auto problem = absurd(type, readings)) return *problem;
    const std::vector<double> spreads = spreadsOf(type, readings, accuracy);
    Eigen::VectorXd x = Eigen::VectorXd::Zero(shareCount), at = residuals(type, readings, spreads, x);
    Eigen::MatrixXd slopes(at.size(), shareCount);
    // As far as the build's values go: current 0.2 to 1.5, the others 0.4 to 2.5.
    const Eigen::Vector4d most(std::log(1.5), std::log(2.5), std::log(2.5), std::log(2.5)),
        least(std::log(0.2), -std::log(2.5), -std::log(2.5), -std::log(2.5));
    double damping = 1e-3;
    for (int pass = 0; pass < 60; ++pass) { // Levenberg and Marquardt
        for (int k = 0; k < shareCount; ++k) {
            constexpr double step = 1e-5;
            Eigen::VectorXd beside = x;
            beside[k] += step;
            slopes.col(k) = (residuals(type, readings, spreads, beside) - at) / step;
        }
        const Eigen::MatrixXd normal = slopes.transpose() * slopes;
        const Eigen::MatrixXd damped = normal + damping * Eigen::MatrixXd(normal.diagonal().asDiagonal());
        const Eigen::VectorXd change = damped.ldlt().solve(-slopes.transpose() * at);
        const Eigen::VectorXd tried = (x + change).cwiseMax(least).cwiseMin(most);
        const Eigen::VectorXd there = residuals(type, readings, spreads, tried);
        if (!(there.squaredNorm() < at.squaredNorm())) {
            if (damping > 1e6) break;
            damping *= 10;
            continue;
        }
        const bool done = (tried - x).norm() < 1e-9;
        x = tried, at = there;
        damping = std::max(1e-9, damping / 10);
        if (done) break;
    }
    ReadValve out;
    out.shares = sharesFrom(x);
    out.errors = errorsOf(type, readings, out.shares);
    out.error = rms(out.errors);
    out.averageError = rms(errorsOf(type, readings, {}));
    // A share is told where the readings make it clearly surer than its usual spread.
    const Eigen::MatrixXd covariance =
        (slopes.transpose() * slopes).ldlt().solve(Eigen::MatrixXd::Identity(shareCount, shareCount));
    static constexpr std::array<std::pair<const char*, const char*>, shareCount> what{
        {{"its current", "any"},
         {"its amplification", "one at other plate volts"},
         {"its cut-off", "one at a tenth of the current"},
         {"its screen's share", "the screen's current"}}};
    const bool pentode = std::any_of(readings.begin(), readings.end(),
                                     [&](const ValveReading& r) { return type.section(r.section).pentode; });
    for (int k = 0; k < (pentode ? shareCount : shareCount - 1); ++k)
        if (std::sqrt(covariance(k, k)) < 0.7 * usualSpread[static_cast<std::size_t>(k)])
            out.tells[static_cast<std::size_t>(k)] = true;
        else
            out.open.push_back(fmt::format("The readings say little of {}; {} would.",
                                           what[static_cast<std::size_t>(k)].first,
                                           what[static_cast<std::size_t>(k)].second));
    return out;
}

MatchFigures matchFigures(const ValveType& type, const ValveShares& shares, const ValveReading& at) {
    const ValveFigures f = figuresOf(type, shares, at);
    return {f.plateAmps, f.gm};
}

namespace {

MatchedGroup groupOf(std::span<const MatchFigures> valves, std::vector<std::size_t> members) {
    const auto apart = [&](double MatchFigures::*figure) {
        double least = INFINITY, most = 0;
        for (const std::size_t k : members)
            least = std::min(least, valves[k].*figure), most = std::max(most, valves[k].*figure);
        return least > 0 ? most / least - 1 : INFINITY;
    };
    MatchedGroup g;
    g.ampsApart = apart(&MatchFigures::amps), g.gmApart = apart(&MatchFigures::gm);
    g.valves = std::move(members);
    return g;
}

double costOf(const MatchedGroup& g) {
    return g.ampsApart + 0.25 * g.gmApart;
}

/// Best partition of each set of valves, by the bits of its members: the worst group's figure, then the sum.
class Matching {
  public:
    Matching(std::span<const MatchFigures> v, std::size_t groupSize) : valves(v), size(groupSize) {}
    struct Best {
        double worst = 0, sum = 0;
        unsigned group = 0; ///< the first group of it; 0: the least valve is left over
        int left = 0;
    };
    const Best& of(unsigned set) {
        if (const auto known = best.find(set); known != best.end()) return known->second;
        Best out;
        if (static_cast<std::size_t>(std::popcount(set)) >= size) {
            out.worst = out.sum = INFINITY;
            const unsigned lowest = set & (~set + 1);
            const int spare = std::popcount(set) % static_cast<int>(size);
            if (spare > 0) take(out, of(set & ~lowest), 0, {});
            extend(set, lowest, set & ~lowest, out);
        }
        return best[set] = out;
    }
    [[nodiscard]] std::vector<std::size_t> members(unsigned set) const {
        std::vector<std::size_t> out;
        for (std::size_t k = 0; k < valves.size(); ++k)
            if (set >> k & 1) out.push_back(k);
        return out;
    }

  private:
    void extend(unsigned set, unsigned group, unsigned open, Best& out) {
        if (static_cast<std::size_t>(std::popcount(group)) == size)
            return take(out, of(set & ~group), group, groupOf(valves, members(group)));
        for (unsigned rest = open; rest; rest &= rest - 1) {
            const unsigned next = rest & (~rest + 1);
            extend(set, group | next, open & ~next & ~(next - 1), out);
        }
    }
    void take(Best& out, const Best& rest, unsigned group, const MatchedGroup& g) {
        const double cost = group ? costOf(g) : 0, worst = std::max(rest.worst, cost), sum = rest.sum + cost;
        if (worst < out.worst || (worst == out.worst && sum < out.sum)) out = {worst, sum, group, 0};
    }
    std::span<const MatchFigures> valves;
    std::size_t size;
    std::map<unsigned, Best> best;
};

} // namespace

std::vector<MatchedGroup> matched(std::span<const MatchFigures> given, std::size_t size) {
    const std::span<const MatchFigures> valves = given.first(std::min(given.size(), mostValves));
    std::vector<MatchedGroup> out;
    if (size < 2 || valves.size() < size) return out;
    Matching search(valves, size);
    unsigned set = (1U << valves.size()) - 1;
    while (static_cast<std::size_t>(std::popcount(set)) >= size) {
        const unsigned group = search.of(set).group;
        if (group) out.push_back(groupOf(valves, search.members(group)));
        set &= group ? ~group : ~(set & (~set + 1));
    }
    std::sort(out.begin(), out.end(), [](const auto& a, const auto& b) { return costOf(a) < costOf(b); });
    return out;
}

} // namespace ember
