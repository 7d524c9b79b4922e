#include "supply_case.h"

#include "supply_circuit.h"

#include "core/build/build_json.h"

#include <fmt/format.h>

#include <cmath>
#include <numbers>

namespace ember::plan {

using namespace circuit;

SupplyCaseCircuit circuitOf(const SupplyCase& g) {
    SupplyCaseCircuit c;
    Netlist& n = c.netlist;
    c.rails = {n.node("B+1")};
    const Connection connection = g.supply.connection;
    EmfLegs legs = addLegs(n, connection, {{g.emf, g.sourceOhms}}, mainsWave(1, g.frequency, std::numbers::sqrt2));
    c.sources = std::move(legs.sources);
    const Rectifier& own = g.supply.rectifier;
    RectifierBank bank = addRectifiers(n, connection, {g.rectifier, g.silicon, 1, own.inSeries, own.legResistance},
                                       legs.a, legs.b, c.rails[0]);
    c.rectifiers = std::move(bank.devices);
    c.toRail = bank.toRail;
    Supply chain = g.supply;
    for (Section& s : chain.sections) s.amps = 0; // of a choke's core nothing is given
    c.sections = addChain(n, chain, c.rails, connection == Connection::Doubler ? legs.b : ground);
    for (const SupplyCase::Load& l : g.loads) {
        const Node at = c.rails[static_cast<std::size_t>(l.node - 1)];
        if (l.ohms > 0)
            n.add(Resistor{at, ground, l.ohms});
        else
            n.add(CurrentSource{at, ground, {l.amps}});
    }
    const bool halves = connection != Connection::HalfWave && connection != Connection::Doubler; // both halves alike
    c.period = 1 / g.frequency / (halves ? 2 : 1);
    return c;
}

Expected<SupplyCaseFigures> solveCase(const SupplyCase& g) {
    const SupplyCaseCircuit c = circuitOf(g);
    const System sys = assemble(c.netlist);
    PeriodicOptions o;
    o.period = c.period;
    o.steps = 48;
    o.levels = 8;
    o.tolerance = 5e-6;
    o.residual = 1e-6;
    o.swings = 7;
    std::vector<Probe> probes;
    for (const Node r : c.rails) probes.push_back(nodeVolts(sys, r));
    for (const DeviceId d : c.rectifiers) probes.push_back(portAmps(sys, d));
    const std::size_t legAt = probes.size();
    for (const DeviceId s : c.sources) probes.push_back(branchAmps(sys, s));
    const std::size_t chokesAt = probes.size();
    for (std::size_t k = 0; k < c.sections.size(); ++k)
        if (g.supply.sections[k].kind == SectionKind::Choke) probes.push_back(branchAmps(sys, c.sections[k][0]));
    const std::size_t chokesEnd = probes.size();
    for (const DeviceId s : c.sources) {
        const auto& source = std::get<VoltageSource>(c.netlist.devices()[static_cast<std::size_t>(s)]);
        probes.push_back(nodeVolts(sys, source.a));
        probes.push_back(source.b ? nodeVolts(sys, source.b) : nodeVolts(sys, source.a));
    }
    const std::size_t lossAt = probes.size();
    // Every resistance and load, for the energy balance.
    struct Loss {
        Node a, b;
        double ohms, amps;
    };
    std::vector<Loss> losses;
    for (const Device& d : c.netlist.devices()) {
        if (const auto* r = std::get_if<Resistor>(&d)) losses.push_back({r->a, r->b, r->ohms, 0});
        if (const auto* i = std::get_if<CurrentSource>(&d)) losses.push_back({i->from, i->to, 0, i->amps.dc});
    }
    for (const Loss& l : losses)
        for (const Node n : {l.a, l.b})
            if (n) probes.push_back(nodeVolts(sys, n));
    const std::size_t dropsAt = probes.size();
    for (const DeviceId d : c.rectifiers) probes.push_back(portVolts(sys, d));

    Recording r(probes);
    Stepper stepper = periodicStepper(sys, o);
    Eigen::VectorXd guess = Eigen::VectorXd::Zero(sys.states());
    for (std::size_t k = 0; k < c.sections.size(); ++k)
        if (g.supply.sections[k].kind == SectionKind::Choke) {
            guess[sys.stateOf[static_cast<std::size_t>(c.sections[k][0])]] = 0.05;
        } else if (g.supply.sections[k].kind == SectionKind::Capacitor) {
            const double volts = (g.supply.connection == Connection::Doubler ? 2.3 : 1.15) * g.emf;
            for (const DeviceId d : c.sections[k])
                guess[sys.stateOf[static_cast<std::size_t>(d)]] = volts / static_cast<double>(c.sections[k].size());
        }
    const auto solved = periodicSteadyState(stepper, guess, o, &r);
    if (!solved) return Problem{g.name, solved.problem().sentence};
    SupplyCaseFigures f;
    f.passes = solved->passes;
    f.steps = solved->stepsTaken;
    f.residual = solved->residual;
    for (std::size_t k = 0; k < c.rails.size(); ++k)
        f.nodes.push_back({r.mean(k), r.most(k) - r.least(k), r.ripple(k)});
    const std::size_t rect = c.rails.size();
    for (std::size_t k = 0; k < c.rectifiers.size(); ++k) {
        f.rectifierPeak = std::max(f.rectifierPeak, r.most(rect + k));
        if (k < c.toRail) f.rectifierMean += r.mean(rect + k);
    }
    // Legs of a centre tap swap after the half period that is computed: each sees both halves.
    double square = 0;
    for (std::size_t k = 0; k < c.sources.size(); ++k)
        square += std::pow(r.rms(legAt + k), 2) / static_cast<double>(c.sources.size());
    f.windingRms = std::sqrt(square);
    for (std::size_t k = chokesAt; k < chokesEnd; ++k) f.chokeAmps.push_back(r.mean(k));
    for (std::size_t k = 0; k < c.sources.size(); ++k) {
        const auto& source = std::get<VoltageSource>(c.netlist.devices()[static_cast<std::size_t>(c.sources[k])]);
        f.sourceWatts -= r.meanProduct(chokesEnd + 2 * k, legAt + k) -
                         (source.b ? r.meanProduct(chokesEnd + 2 * k + 1, legAt + k) : 0);
    }
    std::size_t at = lossAt;
    for (const Loss& l : losses) {
        const std::size_t pa = l.a ? at++ : 0, pb = l.b ? at++ : 0;
        if (l.ohms > 0) {
            double sum = l.a ? r.meanProduct(pa, pa) : 0;
            if (l.b) sum += r.meanProduct(pb, pb);
            if (l.a && l.b) sum -= 2 * r.meanProduct(pa, pb);
            f.lossWatts += sum / l.ohms;
        } else {
            f.lossWatts += l.amps * ((l.a ? r.mean(pa) : 0) - (l.b ? r.mean(pb) : 0));
        }
    }
    for (std::size_t k = 0; k < c.rectifiers.size(); ++k) f.lossWatts += r.meanProduct(dropsAt + k, rect + k);
    for (std::size_t k = 0; k < c.sections.size(); ++k)
        if (g.supply.sections[k].kind == SectionKind::Choke) {
            std::size_t which = chokesAt;
            for (std::size_t m = 0; m < k; ++m) which += g.supply.sections[m].kind == SectionKind::Choke ? 1 : 0;
            f.lossWatts += std::pow(r.rms(which), 2) * g.supply.sections[k].resistance;
        }
    return f;
}

} // namespace ember::plan
