#include "ground_network.h"

#include "heaters.h"

#include "core/build/build_json.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>
#include <queue>

namespace ember::wires {

using namespace schematic;
using Complex = std::complex<double>;

namespace {

/// Breadth first from each point in turn: the tree's parent branch of every point, and the branches that close loops.
struct Spanning {
    std::vector<int> parent, depth, group; // branch, steps, tree
    std::vector<std::size_t> closing;
};
Spanning span(const GroundNetwork& g) {
    const std::size_t count = g.points + 1;
    Spanning s{std::vector<int>(count, -1), std::vector<int>(count, 0), std::vector<int>(count, -1), {}};
    std::vector<std::vector<std::size_t>> at(count);
    for (std::size_t k = 0; k < g.branches.size(); ++k)
        at[g.branches[k].from].push_back(k), at[g.branches[k].to].push_back(k);
    std::vector<bool> used(g.branches.size(), false);
    for (std::size_t root = 0; root < count; ++root) {
        if (s.group[root] >= 0) continue;
        s.group[root] = static_cast<int>(root);
        std::queue<std::size_t> next({root});
        while (!next.empty()) {
            const std::size_t here = next.front();
            next.pop();
            for (const std::size_t k : at[here]) {
                if (used[k]) continue;
                used[k] = true;
                const std::size_t there = g.branches[k].from == here ? g.branches[k].to : g.branches[k].from;
                if (s.group[there] >= 0) {
                    s.closing.push_back(k);
                    continue;
                }
                s.group[there] = static_cast<int>(root);
                s.parent[there] = static_cast<int>(k);
                s.depth[there] = s.depth[here] + 1;
                next.push(there);
            }
        }
    }
    return s;
}

/// The way from both ends of a branch up the tree to where they meet, as one round.
std::vector<std::size_t> loopOf(const GroundNetwork& g, const Spanning& s, std::size_t closing) {
    std::vector<std::size_t> up{closing}, down;
    std::size_t a = g.branches[closing].to, z = g.branches[closing].from;
    const auto climb = [&](std::size_t& at, std::vector<std::size_t>& way) {
        const auto k = static_cast<std::size_t>(s.parent[at]);
        way.push_back(k);
        at = g.branches[k].from == at ? g.branches[k].to : g.branches[k].from;
    };
    while (a != z) {
        if (s.depth[a] >= s.depth[z])
            climb(a, up);
        else
            climb(z, down);
    }
    up.insert(up.end(), down.rbegin(), down.rend());
    return up;
}

} // namespace

GroundNetwork groundNetwork(const Build& b, const Harness& h) {
    GroundNetwork g;
    g.points = h.points.size();
    for (std::size_t k = 0; k < h.runs.size(); ++k) {
        const Run& r = h.runs[k];
        if (r.kind != RunKind::Ground || r.fromPoint < -1 || r.toPoint < -1 || r.fromPoint == r.toPoint) continue;
        const auto index = [&](int point) { return point < 0 ? g.points : static_cast<std::size_t>(point); };
        GroundBranch x{index(r.fromPoint), index(r.toPoint), k, r.ohms + 2 * jointOhms, wireHenries * r.length};
        const bool chassis = r.fromPoint < 0 || r.toPoint < 0;
        if (chassis) {
            x.ohms += jointOhms;
            // Through the resistor of a lifted bond; its diodes carry only a fault's current.
            if (b.wiring.bond == Bond::Lifted && b.wiring.grounds != GroundScheme::ChassisReturn && !r.own &&
                h.points[std::min(x.from, x.to)].what != Returns::Jack)
                x.ohms += 10;
            if (b.wiring.grounds != GroundScheme::ChassisReturn) g.bonds.push_back(g.branches.size());
        }
        g.branches.push_back(x);
    }
    const Spanning s = span(g);
    for (const std::size_t k : s.closing) g.loops.push_back(loopOf(g, s, k));
    std::size_t first = g.points;
    for (std::size_t k = 0; k < g.points && first == g.points; ++k)
        if (h.points[k].what == Returns::Reservoir) first = k;
    for (std::size_t k = 0; first < g.points && k < g.points; ++k)
        if (s.group[k] != s.group[first]) g.loose.push_back(k);
    return g;
}

std::vector<Eigen::VectorXcd> returnCurrents(const Build& b, const Harness& h, const plan::Steady& n) {
    const std::size_t most = n.nodes.empty() ? 0 : n.nodes.front().ripple.size();
    const Schematic& s = h.terminals.whole.schematic;
    // Which winding a node's charge comes from: that of the last tap before it.
    std::vector<std::string> source{"", b.supply.rectifier.id};
    for (const Section& x : b.supply.sections)
        if (x.kind != SectionKind::Capacitor) source.push_back(x.kind == SectionKind::Tap ? x.id : source.back());
    const auto first =
        static_cast<std::size_t>(std::find_if(b.supply.sections.begin(), b.supply.sections.end(),
                                              [](const Section& x) { return x.kind == SectionKind::Capacitor; }) -
                                 b.supply.sections.begin());
    std::vector<Eigen::VectorXcd> out;
    const auto size = static_cast<Eigen::Index>(h.points.size());
    for (std::size_t k = 0; k < most; ++k) {
        const double omega = 2 * std::numbers::pi * b.mains.frequency * static_cast<double>(k + 1);
        Eigen::VectorXcd amps = Eigen::VectorXcd::Zero(size);
        std::map<std::string, Complex> drawn;
        const auto into = [&](std::size_t point, Complex i) { amps[static_cast<Eigen::Index>(point)] += i; };
        const auto capacitor = [&](std::size_t point, const Complex& volts, double farads, double esr) {
            const Complex admittance = Complex(0, omega * farads) / (1.0 + Complex(0, omega * farads * esr));
            into(point, volts * admittance);
            return volts * admittance;
        };
        for (std::size_t p = 0; p < h.points.size(); ++p)
            for (const PinId pin : h.points[p].pins) {
                const Part& part = s[pin.part];
                if (h.terminals.whole.of(pin.part) == Serves::SupplyCapacitor) {
                    std::size_t node = 0, section = 0;
                    for (std::size_t x = 0; x < b.supply.sections.size(); ++x) {
                        const Section& c = b.supply.sections[x];
                        if (c.kind == SectionKind::Capacitor && (part.id == c.id || part.id.starts_with(c.id + ".")))
                            node = static_cast<std::size_t>(nodeOfSection(b.supply, x)), section = x;
                    }
                    if (node == 0 || node > n.nodes.size()) continue;
                    const Section& c = b.supply.sections[section];
                    // Of a doubler's two the lower one alone meets the ground, and charges once a period.
                    const bool halves = b.supply.connection == Connection::Doubler && k < n.middleRipple.size() &&
                                        c.inSeries == 2 && section == first;
                    drawn[source[node]] += halves ? capacitor(p, n.middleRipple[k], c.capacitance, c.esr)
                                                  : capacitor(p, n.nodes[node - 1].ripple[k],
                                                              c.capacitance / c.inSeries, c.esr * c.inSeries);
                } else if (h.terminals.whole.of(pin.part) == Serves::BiasCapacitor) {
                    const bool reservoir = part.id == b.bias.reservoir.id;
                    const plan::Phasors& ripple = reservoir ? n.biasReservoirRipple : n.biasRailRipple;
                    if (k >= ripple.size()) continue;
                    const CapacitorPart& c = reservoir ? b.bias.reservoir : b.bias.second;
                    drawn["bias"] += capacitor(p, ripple[k], c.capacitance, c.esr);
                }
            }
        for (std::size_t p = 0; p < h.points.size(); ++p) {
            const std::string& part = s[h.points[p].pins.front().part].id;
            std::string from;
            if (h.points[p].what == Returns::BiasWinding)
                from = "bias";
            else if (h.points[p].what == Returns::Winding)
                from = std::holds_alternative<Windings>(s[h.points[p].pins.front().part].element)
                           ? b.supply.rectifier.id
                           : part;
            if (const auto at = drawn.find(from); at != drawn.end()) {
                into(p, -at->second);
                drawn.erase(at);
            }
        }
        out.push_back(std::move(amps));
    }
    return out;
}

Eigen::VectorXcd groundVolts(const GroundNetwork& g, const Eigen::VectorXcd& amps, const Eigen::VectorXcd& emf,
                             double hertz) {
    const auto count = static_cast<Eigen::Index>(g.points + 1);
    const Complex s(0, 2 * std::numbers::pi * hertz);
    Eigen::MatrixXcd Y = Eigen::MatrixXcd::Zero(count, count);
    Eigen::VectorXcd i = Eigen::VectorXcd::Zero(count);
    i.head(count - 1) = amps;
    for (std::size_t k = 0; k < g.branches.size(); ++k) {
        const GroundBranch& b = g.branches[k];
        const auto a = static_cast<Eigen::Index>(b.from), z = static_cast<Eigen::Index>(b.to);
        const Complex y = 1.0 / (b.ohms + s * b.henries), e = emf[static_cast<Eigen::Index>(k)];
        Y(a, a) += y, Y(z, z) += y, Y(a, z) -= y, Y(z, a) -= y;
        i[a] -= e * y; // from a to z flow (Va - Vz + e) y
        i[z] += e * y;
    }
    // What hangs in the air is held by very little; the chassis, or the first point, is the zero.
    for (Eigen::Index k = 0; k < count; ++k) Y(k, k) += 1e-9;
    const Eigen::Index zero =
        g.bonds.empty() && std::none_of(g.branches.begin(), g.branches.end(),
                                        [&](const GroundBranch& b) { return b.to == g.points || b.from == g.points; })
            ? 0
            : count - 1;
    Y(zero, zero) += 1e6;
    Eigen::VectorXcd v = Y.partialPivLu().solve(i);
    const Complex shift = v[zero];
    for (Eigen::Index k = 0; k < count; ++k) v[k] -= shift;
    return v.head(count - 1);
}

Complex branchAmps(const GroundNetwork& g, std::size_t branch, const Eigen::VectorXcd& volts, Complex emf,
                   double hertz) {
    const GroundBranch& b = g.branches[branch];
    const auto at = [&](std::size_t point) {
        return point < g.points ? volts[static_cast<Eigen::Index>(point)] : Complex(0);
    };
    return (at(b.from) - at(b.to) + emf) / (b.ohms + Complex(0, 2 * std::numbers::pi * hertz * b.henries));
}

std::vector<Vector> polygonOf(const GroundNetwork& g, const Harness& h, const std::vector<std::size_t>& loop) {
    std::vector<Vector> out;
    if (loop.empty()) return out;
    std::size_t here = g.branches[loop.front()].from;
    for (const std::size_t k : loop) {
        const GroundBranch& b = g.branches[k];
        std::vector<Vector> path = h.runs[b.run].path;
        if (b.from != here) std::reverse(path.begin(), path.end());
        here = b.from == here ? b.to : b.from;
        out.insert(out.end(), path.begin(), path.end());
    }
    return out;
}

} // namespace ember::wires
