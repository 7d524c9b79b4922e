#include "system.h"

#include <cmath>

namespace ember::circuit {

namespace {

/// Counts first, then fills: the matrices have their final size before the first stamp.
struct Sizes {
    int unknowns, states = 0, sources = 0, ports = 0;
};

Sizes measure(const Netlist& netlist) {
    Sizes s{netlist.nodeCount() - 1};
    for (const Device& d : netlist.devices()) {
        if (const auto* c = std::get_if<Capacitor>(&d)) {
            s.unknowns += c->esr > 0 ? 1 : 0;
            ++s.states;
        } else if (std::holds_alternative<Inductor>(d)) {
            ++s.unknowns, ++s.states;
        } else if (std::holds_alternative<VoltageSource>(d)) {
            ++s.unknowns, ++s.sources;
        } else if (std::holds_alternative<CurrentSource>(d)) {
            ++s.sources;
        } else if (const auto* t = std::get_if<Transformer>(&d)) {
            s.unknowns += static_cast<int>(t->windings.size()) + 1;
            if (t->ratedFlux > 0) ++s.unknowns, ++s.ports;
            if (t->lossOhms > 0) ++s.unknowns;
            ++s.states;
            for (const Winding& w : t->windings) s.states += w.leakage > 0 ? 1 : 0;
        } else if (const auto* n = std::get_if<NonlinearDevice>(&d)) {
            s.ports += portCount(n->law);
        }
    }
    return s;
}

class Stamper {
  public:
    Stamper(System& target, const Netlist& netlist) : sys(target), nextUnknown(netlist.nodeCount() - 1) {}

    int stamp(const Resistor& r) {
        conductance(r.a, r.b, 1 / r.ohms);
        return -1;
    }

    int stamp(const Transconductance& t) {
        for (const auto& [node, out] : {std::pair{t.from, 1.0}, std::pair{t.to, -1.0}})
            for (const auto& [control, sign] : {std::pair{t.plus, 1.0}, std::pair{t.minus, -1.0}})
                if (node != ground && control != ground) sys.G(row(node), row(control)) += out * sign * t.siemens;
        return -1;
    }

    int stamp(const Capacitor& c) {
        if (c.leakageOhms > 0) conductance(c.a, c.b, 1 / c.leakageOhms);
        int inner = row(c.a);
        if (c.esr > 0) {
            inner = nextUnknown++;
            conductanceRows(row(c.a), inner, 1 / c.esr);
            sys.G(inner, inner) += gmin;
        }
        const int k = newState(1.0);
        incidence(sys.L, inner, row(c.b), k, c.farads);
        incidence(sys.R, inner, row(c.b), k, 1);
        return -1;
    }

    int stamp(const Inductor& l) {
        const int branch = nextUnknown++;
        incidence(sys.G, row(l.a), row(l.b), branch, 1);
        if (l.a) sys.G(branch, row(l.a)) -= 1;
        if (l.b) sys.G(branch, row(l.b)) += 1;
        sys.G(branch, branch) += l.ohms;
        const int k = newState(1e-3);
        sys.L(branch, k) = l.henries;
        sys.R(branch, k) = 1;
        return branch;
    }

    int stamp(const VoltageSource& v) {
        const int branch = nextUnknown++;
        incidence(sys.G, row(v.a), row(v.b), branch, 1);
        if (v.a) sys.G(branch, row(v.a)) += 1;
        if (v.b) sys.G(branch, row(v.b)) -= 1;
        sys.S(branch, nextSource()) = 1;
        sys.sources.push_back(v.volts);
        return branch;
    }

    int stamp(const CurrentSource& s) {
        incidence(sys.S, row(s.from), row(s.to), nextSource(), -1);
        sys.sources.push_back(s.amps);
        return -1;
    }

    /// Winding k: va - vb = R i + Lleak i' + turns e; core: Lm y' = e, per turn of the first winding, y the
    /// ampere-turns that the constant inductance takes: what is left of sum turns i when saturation and loss have had
    /// theirs.
    int stamp(const Transformer& t) {
        const int first = nextUnknown;
        const int core = first + static_cast<int>(t.windings.size());
        nextUnknown = core + 1;
        const double perTurn = t.inductance / (t.windings.front().turns * t.windings.front().turns);
        const int magnetising = newState(1e-3);
        sys.L(core, magnetising) = perTurn;
        sys.G(core, core) = -1;
        int branch = first;
        for (const Winding& w : t.windings) {
            incidence(sys.G, row(w.a), row(w.b), branch, 1);
            if (w.a) sys.G(branch, row(w.a)) -= 1;
            if (w.b) sys.G(branch, row(w.b)) += 1;
            sys.G(branch, branch) += w.ohms;
            sys.G(branch, core) += w.turns;
            sys.R(branch, magnetising) = w.turns;
            if (w.leakage > 0) {
                const int k = newState(1e-3);
                sys.L(branch, k) = w.leakage;
                sys.R(branch, k) = 1;
            }
            ++branch;
        }
        const double turns = t.windings.front().turns;
        if (t.lossOhms > 0) {
            const int loss = nextUnknown++;
            sys.G(loss, loss) = t.lossOhms;
            sys.G(loss, core) = -turns;
            sys.R(loss, magnetising) = -turns;
        }
        if (t.ratedFlux > 0) {
            const int drawn = nextUnknown++;
            sys.G(drawn, drawn) = 1;
            sys.P(drawn, nextPort) = -1;
            sys.R(drawn, magnetising) = -turns;
            sys.Q.col(nextPort) = 100 * turns * perTurn / t.ratedFlux * sys.R.col(magnetising);
            sys.ports.push_back({t.saturation, 1, nextPort++, 1, -1, {}});
        }
        return first;
    }

    int stamp(const NonlinearDevice& n) {
        const int count = portCount(n.law);
        const Node reference = n.terminals.back();
        PortDevice device{n.law, n.emission, nextPort, count};
        if (std::holds_alternative<DiodeLaw>(n.law)) conductance(n.terminals[0], reference, junctionLeak);
        for (int k = 0; k < count; ++k) {
            for (Eigen::MatrixXd* m : {&sys.P, &sys.Q})
                incidence(*m, row(n.terminals[static_cast<std::size_t>(k)]), row(reference), nextPort, 1);
            ++nextPort;
        }
        sys.ports.push_back(device);
        return -1;
    }

    /// Nodes that join valves alone: see PortDevice::shunt.
    void anchorNodes(const Netlist& netlist) {
        std::vector<bool> joined(static_cast<std::size_t>(netlist.nodeCount()), false);
        const auto join = [&](Node n) { joined[static_cast<std::size_t>(n)] = true; };
        join(ground);
        for (const Device& d : netlist.devices()) {
            if (const auto* r = std::get_if<Resistor>(&d)) join(r->a), join(r->b);
            if (const auto* c = std::get_if<Capacitor>(&d); c && c->leakageOhms > 0) join(c->a), join(c->b);
            if (const auto* l = std::get_if<Inductor>(&d)) join(l->a), join(l->b);
            if (const auto* v = std::get_if<VoltageSource>(&d)) join(v->a), join(v->b);
            if (const auto* t = std::get_if<Transformer>(&d))
                for (const Winding& w : t->windings) join(w.a), join(w.b);
        }
        constexpr double typical = 1e-4; // [S] of a small valve's plate
        for (PortDevice& port : sys.ports) {
            if (port.count < 2) continue; // rectifiers have their own way to be off
            const auto& n = std::get<NonlinearDevice>(netlist.devices()[static_cast<std::size_t>(port.device)]);
            const int plate = port.count - 1;
            const Node at = n.terminals[static_cast<std::size_t>(plate)], reference = n.terminals.back();
            if (joined[static_cast<std::size_t>(at)] && joined[static_cast<std::size_t>(reference)]) continue;
            port.shunt[static_cast<std::size_t>(plate)] = typical;
            sys.shuntOf[static_cast<std::size_t>(port.first + plate)] = typical;
            conductance(at, reference, typical);
            join(at), join(reference);
        }
    }

    [[nodiscard]] int stateCount() const { return nextStateIndex; }
    [[nodiscard]] int portCountSoFar() const { return nextPort; }
    [[nodiscard]] int sourceCount() const { return static_cast<int>(sys.sources.size()); }

  private:
    static int row(Node n) { return n - 1; }

    static void incidence(Eigen::MatrixXd& m, int a, int b, int column, double value) {
        if (a >= 0) m(a, column) += value;
        if (b >= 0) m(b, column) -= value;
    }
    void conductance(Node a, Node b, double g) { conductanceRows(row(a), row(b), g); }
    void conductanceRows(int a, int b, double g) {
        if (a >= 0) sys.G(a, a) += g;
        if (b >= 0) sys.G(b, b) += g;
        if (a >= 0 && b >= 0) {
            sys.G(a, b) -= g;
            sys.G(b, a) -= g;
        }
    }
    int newState(double floor) {
        sys.stateFloor.push_back(floor);
        return nextStateIndex++;
    }
    [[nodiscard]] int nextSource() const { return static_cast<int>(sys.sources.size()); }

    System& sys;
    int nextUnknown, nextStateIndex = 0, nextPort = 0;
};

} // namespace

void System::sourceValues(double t, Eigen::VectorXd& u) const {
    for (std::size_t k = 0; k < sources.size(); ++k) u[static_cast<Eigen::Index>(k)] = sources[k].at(t);
}

System assemble(const Netlist& netlist) {
    const Sizes n = measure(netlist);
    System sys;
    sys.G = Eigen::MatrixXd::Zero(n.unknowns, n.unknowns);
    sys.L = Eigen::MatrixXd::Zero(n.unknowns, n.states);
    sys.R = Eigen::MatrixXd::Zero(n.unknowns, n.states);
    sys.S = Eigen::MatrixXd::Zero(n.unknowns, n.sources);
    sys.P = sys.Q = Eigen::MatrixXd::Zero(n.unknowns, n.ports);
    for (int k = 0; k < netlist.nodeCount() - 1; ++k) sys.G(k, k) = gmin;
    Stamper stamper(sys, netlist);
    for (const Device& d : netlist.devices()) {
        const int state = stamper.stateCount(), port = stamper.portCountSoFar(), source = stamper.sourceCount();
        sys.branchOf.push_back(std::visit([&](const auto& device) { return stamper.stamp(device); }, d));
        sys.stateOf.push_back(stamper.stateCount() > state ? state : -1);
        sys.portOf.push_back(stamper.portCountSoFar() > port ? port : -1);
        sys.sourceOf.push_back(stamper.sourceCount() > source ? source : -1);
        if (sys.portOf.back() >= 0) sys.ports.back().device = static_cast<DeviceId>(sys.portOf.size()) - 1;
    }
    sys.shuntOf.assign(static_cast<std::size_t>(n.ports), 0);
    stamper.anchorNodes(netlist);
    return sys;
}

} // namespace ember::circuit
