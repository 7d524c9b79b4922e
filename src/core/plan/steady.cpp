#include "steady.h"

#include "heater.h"

#include "core/circuit/periodic.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember::plan {

using namespace circuit;

Emissions emissions(const Build& b, const Conditions& c, const std::vector<HeaterGroup>& heaters) {
    Emissions e{1, c.smallIn ? 1.0 : 0, c.outputsIn ? 1.0 : 0};
    for (const HeaterGroup& g : heaters) {
        const double share = emissionAt(g.law.kelvin);
        if (g.type == b.supply.rectifier.type) e.rectifier = share;
        for (const Channel& ch : b.channels) {
            if (g.type == ch.small.type) e.small = share;
            if (g.type == ch.pair.a.type) e.outputs = share;
        }
    }
    return e;
}

namespace {

/// The probes of a supply run, by what they are.
struct Probes {
    std::vector<Probe> list;
    std::vector<std::size_t> rails, heaters, wipers, rectifiers, sections;
    std::size_t legA, legB, primary, mains, mainsAmps, legAmps, primaryAmps, bias, biasRail;
    std::size_t add(Probe p) {
        list.push_back(p);
        return list.size() - 1;
    }
};

Probes probesFor(const SupplyCircuit& s, const System& sys, const Build& b) {
    Probes p;
    const auto node = [&](Node n) { return n ? p.add(nodeVolts(sys, n)) : std::size_t(-1); };
    for (const Node n : s.rails) p.rails.push_back(node(n));
    for (const Node n : s.heaterNodes) p.heaters.push_back(node(n));
    for (const Node n : s.wipers) p.wipers.push_back(node(n));
    for (const DeviceId d : s.rectifiers) p.rectifiers.push_back(p.add(portAmps(sys, d)));
    for (std::size_t k = 0; k < s.sections.size(); ++k) {
        const Section& section = b.supply.sections[k];
        p.sections.push_back(section.kind == SectionKind::Capacitor
                                 ? p.add(capacitorAmps(sys, s.sections[k][0], section.capacitance))
                             : section.kind == SectionKind::Choke ? p.add(branchAmps(sys, s.sections[k][0]))
                                                                  : std::size_t(-1));
    }
    p.legA = node(s.legA);
    p.legB = node(s.legB);
    p.primary = node(s.primary);
    p.mains = node(s.mains);
    p.mainsAmps = p.add(branchAmps(sys, s.source));
    p.primaryAmps = p.add(branchAmps(sys, s.transformer, 0));
    p.legAmps = p.add(branchAmps(sys, s.transformer, s.windingLegA));
    p.bias = node(s.biasReservoir);
    p.biasRail = node(s.biasRail);
    return p;
}

double biggestInverse(const Recording& r, std::size_t leg, std::size_t rail) {
    double worst = 0;
    for (std::size_t k = 0; k < r.times().size(); ++k) worst = std::max(worst, r.of(rail)[k] - r.of(leg)[k]);
    return worst;
}

void readFigures(Steady& out, const SupplyCircuit& s, const Probes& p, const Recording& r, const Build& b) {
    out.nodes.resize(s.rails.size());
    for (std::size_t k = 0; k < s.rails.size(); ++k) {
        NodeFigures& n = out.nodes[k];
        n.mean = r.mean(p.rails[k]);
        n.most = r.most(p.rails[k]);
        n.ripplePp = n.most - r.least(p.rails[k]);
        n.rippleRms = r.ripple(p.rails[k]);
    }
    out.rectifierPeak = out.rectifierMean = 0;
    for (std::size_t k = 0; k < p.rectifiers.size(); ++k) {
        out.rectifierPeak = std::max(out.rectifierPeak, r.most(p.rectifiers[k]));
        if (k < s.toRail) out.rectifierMean += r.mean(p.rectifiers[k]);
    }
    out.inverseVolts = p.rectifiers.empty() ? unknown : biggestInverse(r, p.legA, p.rails[0]);
    out.legVolts = r.rms(p.legA);
    if (floatingWinding(b.supply.connection) && s.legB)
        out.legVolts = std::sqrt(std::max(0.0, r.meanProduct(p.legA, p.legA) - 2 * r.meanProduct(p.legA, p.legB) +
                                                   r.meanProduct(p.legB, p.legB)));
    out.legRms = r.rms(p.legAmps);
    out.primaryRms = r.rms(p.primaryAmps);
    out.primaryVolts = r.rms(p.primary);
    out.mainsWatts = -r.meanProduct(p.mains, p.mainsAmps);
    std::size_t rail = 0;
    for (std::size_t k = 0; k < b.supply.sections.size(); ++k) {
        const Section& section = b.supply.sections[k];
        if (section.kind == SectionKind::Capacitor) {
            out.capacitorRipple[section.id] = r.rms(p.sections[k]);
            continue;
        }
        const auto here = p.rails[rail], next = p.rails[rail + 1];
        ++rail;
        if (section.kind == SectionKind::Choke) {
            const double rms = r.rms(p.sections[k]);
            out.chokeAmps[section.id] = r.mean(p.sections[k]);
            out.partWatts[section.id] = rms * rms * section.resistance;
        } else {
            const double square = r.meanProduct(here, here) - 2 * r.meanProduct(here, next) + r.meanProduct(next, next);
            out.partWatts[section.id] = square / section.resistance;
        }
    }
    for (const Bleeder& bleeder : b.supply.bleeders) {
        const auto at = p.rails[static_cast<std::size_t>(bleeder.node - 1)];
        out.partWatts[bleeder.resistor.id] = r.meanProduct(at, at) / bleeder.resistor.resistance;
    }
    if (s.biasReservoir) {
        out.biasReservoir = r.mean(p.bias);
        out.biasRail = r.mean(p.biasRail);
        out.partWatts[b.bias.series.id] = std::pow(out.biasRail - out.biasReservoir, 2) / b.bias.series.resistance;
    }
    out.wipers.clear();
    for (const auto w : p.wipers) out.wipers.push_back(r.mean(w));
}

void readCycle(Cycle& c, const SupplyCircuit& s, const Probes& p, const Recording& r, double period) {
    constexpr std::size_t count = 240;
    c.seconds.clear();
    for (std::size_t k = 0; k < count; ++k) c.seconds.push_back(period * static_cast<double>(k) / count);
    c.legA = r.evenly(p.legA, 0, period, count);
    c.legB = s.legB ? r.evenly(p.legB, 0, period, count) : std::vector<double>(count, 0.0);
    c.reservoir = r.evenly(p.rails[0], 0, period, count);
    c.primaryAmps = r.evenly(p.primaryAmps, 0, period, count);
    c.rectifierAmps.assign(count, 0);
    for (std::size_t k = 0; k < s.toRail; ++k) {
        const auto leg = r.evenly(p.rectifiers[k], 0, period, count);
        for (std::size_t n = 0; n < count; ++n) c.rectifierAmps[n] += leg[n];
    }
}

/// The ripple's harmonics of the mains, from one period.
void readHarmonics(std::vector<NodeFigures>& nodes, const Probes& p, const Recording& r, double period) {
    constexpr std::size_t count = 256, most = 12;
    for (std::size_t n = 0; n < nodes.size(); ++n) {
        const auto volts = r.evenly(p.rails[n], 0, period, count);
        nodes[n].harmonics.clear();
        for (std::size_t k = 1; k <= most; ++k) {
            double real = 0, imaginary = 0;
            for (std::size_t m = 0; m < count; ++m) {
                const double angle = 2 * std::numbers::pi * static_cast<double>(k * m % count) / count;
                real += volts[m] * std::cos(angle);
                imaginary += volts[m] * std::sin(angle);
            }
            nodes[n].harmonics.push_back(std::hypot(real, imaginary) * std::numbers::sqrt2 / count);
        }
    }
}

/// Tangents of what the channels draw from each node at these volts; a second point 2 % lower gives the slope.
Expected<Done> stageLoads(const Build& b, const Catalogue& catalogue, Steady& s, std::vector<NodeLoad>& loads) {
    std::vector<double> now(s.nodes.size(), 0), lower(s.nodes.size(), 0);
    s.channels.clear();
    for (std::size_t k = 0; k < b.channels.size(); ++k) {
        const Channel& ch = b.channels[k];
        ChannelSupply supply = supplyOf(b, s, k);
        if (supply.smallEmission + supply.outputEmission < 1e-9) {
            ChannelPoint idle;
            s.channels.push_back(idle);
        }
        auto p = channelPoint(ch, catalogue, supply);
        if (!p) return p.problem();
        supply.plate *= 0.98, supply.screen *= 0.98, supply.small *= 0.98;
        const auto q = channelPoint(ch, catalogue, supply);
        if (!q) return q.problem();
        const auto add = [&](std::vector<double>& to, const ChannelPoint& from) {
            to[static_cast<std::size_t>(ch.plateNode - 1)] += from.railPlate;
            to[static_cast<std::size_t>(ch.screenNode - 1)] += from.railScreen;
            to[static_cast<std::size_t>(ch.smallNode - 1)] += from.railSmall;
        };
        add(now, *p);
        add(lower, *q);
        if (s.channels.size() > k)
            s.channels[k] = *p;
        else
            s.channels.push_back(*p);
    }
    loads.resize(s.nodes.size());
    for (std::size_t k = 0; k < s.nodes.size(); ++k) {
        const double v = s.nodes[k].mean;
        s.nodes[k].load = now[k];
        const double slope = v > 1 ? std::max(0.0, (now[k] - lower[k]) / (0.02 * v)) : 0;
        loads[k] = {now[k], slope, v};
    }
    return Done{};
}

/// New temperatures from the volts the heaters and the lamp got; returns the largest relative change.
double settleHeat(const Build& b, const Catalogue& catalogue, const Probes& p, const Recording& r,
                  std::vector<HeaterGroup>& heaters, double& lampKelvin, Steady& s) {
    double change = 0;
    s.heaters.clear();
    for (HeaterGroup& g : heaters) {
        const double volts = r.rms(p.heaters[g.winding]);
        const double before = g.law.kelvin;
        g.law.kelvin = std::max(293.0, g.law.hotKelvin * std::pow(volts / g.law.ratedVolts, 1 / 2.6)); // V ~ T^2.6
        change = std::max(change, std::abs(g.law.kelvin / before - 1));
        s.heaters.push_back({b.transformer.heaters[g.winding].id, g.type, g.count, volts, volts / g.law.ohms(),
                             g.law.kelvin, emissionAt(g.law.kelvin)});
    }
    if (s.conditions.limiter) {
        const double square = r.meanProduct(p.mains, p.mains) - 2 * r.meanProduct(p.mains, p.primary) +
                              r.meanProduct(p.primary, p.primary);
        IncandescentLaw law = limiterLaw(b, catalogue);
        law.kelvin = lampKelvin;
        const double watts = std::max(0.0, square) / law.ohms();
        const double cold = std::pow(293 / law.hotKelvin, 4);
        const double next = law.hotKelvin * std::pow(watts / law.ratedWatts + cold, 0.25);
        change = std::max(change, std::abs(next / lampKelvin - 1));
        lampKelvin = next;
        s.lamp = {std::sqrt(std::max(0.0, square)), watts, next};
    }
    return change;
}

} // namespace

Expected<Steady> solveSteady(const Build& b, const Catalogue& catalogue, const Conditions& conditions,
                             const SteadyOptions& options, WarmStart* warm) {
    Steady out;
    out.conditions = conditions;
    std::vector<HeaterGroup> heaters = heaterGroups(b, catalogue, conditions);
    for (HeaterGroup& g : heaters) g.law.kelvin = conditions.limiter ? 1150 : g.law.hotKelvin;
    double lampKelvin = 1200;
    std::vector<NodeLoad> loads;
    Eigen::VectorXd states;
    if (warm && warm->heaters.size() == heaters.size()) {
        for (std::size_t k = 0; k < heaters.size(); ++k) heaters[k].law.kelvin = warm->heaters[k].law.kelvin;
        lampKelvin = warm->lampKelvin;
        loads = warm->loads;
        states = Eigen::Map<const Eigen::VectorXd>(warm->states.data(), static_cast<Eigen::Index>(warm->states.size()));
    }
    const double crest = (b.supply.connection == Connection::Doubler ? 2 : 1) * b.transformer.plateVolts *
                         conditions.mainsVolts / b.transformer.primaryVolts * 1.414;
    PeriodicOptions period;
    period.period = 1 / b.mains.frequency;
    period.steps = 96;
    period.levels = 5;
    period.residual = 1e-7;
    if (options.rough) {
        period.steps = 40;
        period.tolerance = 5e-4;
        period.residual = 3e-5;
    }
    period.stop = options.stop;
    std::vector<double> last;
    constexpr int rounds = 60;
    for (int round = 0; round < rounds; ++round) {
        const double rectifierEmission = emissions(b, conditions, heaters).rectifier;
        const SupplyCircuit s = supplyCircuit(b, catalogue, conditions, loads, heaters, lampKelvin, rectifierEmission);
        const System sys = assemble(s.netlist);
        const bool nearby = states.size() == sys.states();
        if (!nearby) {
            states = Eigen::VectorXd::Zero(sys.states());
            for (std::size_t k = 0; k < s.sections.size(); ++k)
                if (b.supply.sections[k].kind == SectionKind::Capacitor && !s.rectifiers.empty())
                    for (const DeviceId d : s.sections[k])
                        states[sys.stateOf[static_cast<std::size_t>(d)]] =
                            0.9 * crest * (conditions.limiter ? 0.7 : 1) / static_cast<double>(s.sections[k].size());
        }
        const Probes probes = probesFor(s, sys, b);
        Recording record(probes.list);
        period.leadIn = nearby ? 0 : 1;
        Stepper stepper = periodicStepper(sys, period);
        const auto solved = periodicSteadyState(stepper, states, period, &record);
        if (!solved) return Problem{"supply", solved.problem().sentence};
        states = solved->y;
        out.residual = solved->residual;
        readFigures(out, s, probes, record, b);
        const double heat = settleHeat(b, catalogue, probes, record, heaters, lampKelvin, out);
        if (auto done = stageLoads(b, catalogue, out, loads); !done) return done.problem();
        for (std::size_t k = 0; k < std::min(loads.size(), options.musicAmps.size()); ++k)
            loads[k].amps += options.musicAmps[k];
        double change = heat;
        for (std::size_t k = 0; k < out.nodes.size(); ++k)
            change =
                std::max(change, last.empty() ? 1 : std::abs(out.nodes[k].mean - last[k]) / (1 + std::abs(last[k])));
        last.clear();
        for (const NodeFigures& n : out.nodes) last.push_back(n.mean);
        if (change < options.tolerance) {
            if (options.cycle) {
                readCycle(out.cycle, s, probes, record, period.period);
                readHarmonics(out.nodes, probes, record, period.period);
            }
            if (warm) *warm = {heaters, lampKelvin, loads, std::vector<double>(states.begin(), states.end())};
            return out;
        }
    }
    return Problem{"supply", fmt::format("supply and stages did not agree within {} rounds", rounds)};
}

} // namespace ember::plan
