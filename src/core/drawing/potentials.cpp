#include "potentials.h"

#include <cmath>

namespace ember::drawing {

using namespace schematic;

namespace {

struct Link {
    int a, b;
    double siemens;
};

std::vector<Link> linksOf(const Subject& subject) {
    std::vector<Link> out;
    const auto& parts = subject.schematic->parts();
    for (std::size_t k = 0; k < parts.size(); ++k) {
        if (subject.hidden[k]) continue;
        const Part& p = parts[k];
        const auto net = [&](int pin) { return p.pins[static_cast<std::size_t>(pin)].net.index; };
        const auto link = [&](int a, int b, double siemens) {
            if (a >= 0 && b >= 0 && a != b) out.push_back({a, b, siemens});
        };
        if (const auto* bottle = std::get_if<Bottle>(&p.element)) {
            for (const ValveSection& s : bottle->sections) {
                const bool pentode = s.pins.size() == 4;
                link(net(s.pins[pentode ? 2 : 1]), net(s.pins[pentode ? 3 : 2]), 1);
                if (pentode) link(net(s.pins[1]), net(s.pins[3]), 0.1);
            }
        } else if (const auto* iron = std::get_if<Windings>(&p.element)) {
            for (const Coil& c : iron->coils) link(net(c.a), net(c.b), 1);
        } else if (!std::holds_alternative<Capacitance>(p.element)) {
            for (std::size_t j = 1; j < p.pins.size(); ++j)
                link(net(static_cast<int>(j) - 1), net(static_cast<int>(j)), 1);
        }
    }
    return out;
}

} // namespace

std::vector<double> potentials(const Subject& subject) {
    const auto& nets = subject.schematic->nets();
    std::vector<double> out(nets.size(), 0);
    std::vector<bool> held(nets.size(), false);
    held[0] = true;
    for (std::size_t k = 1; k < nets.size(); ++k) {
        if (!subject.flagged[k]) continue;
        held[k] = true;
        out[k] = nets[k].kind == NetKind::HighVoltage ? 1 : nets[k].kind == NetKind::Bias ? -1 : 0;
    }
    const std::vector<Link> links = linksOf(subject);
    std::vector<double> sum(nets.size()), weight(nets.size());
    for (int round = 0; round < 200; ++round) {
        sum.assign(nets.size(), 0), weight.assign(nets.size(), 0);
        for (const Link& l : links) {
            const auto a = static_cast<std::size_t>(l.a), b = static_cast<std::size_t>(l.b);
            sum[a] += l.siemens * out[b], weight[a] += l.siemens;
            sum[b] += l.siemens * out[a], weight[b] += l.siemens;
        }
        double moved = 0;
        for (std::size_t k = 0; k < nets.size(); ++k) {
            if (held[k] || weight[k] <= 0) continue;
            const double then = 0.5 * out[k] + 0.5 * sum[k] / weight[k];
            moved = std::max(moved, std::abs(then - out[k]));
            out[k] = then;
        }
        if (moved < 1e-7) break;
    }
    return out;
}

} // namespace ember::drawing
