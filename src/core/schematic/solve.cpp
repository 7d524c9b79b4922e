#include "solve.h"

#include "core/base/overloaded.h"
#include "core/circuit/choke.h"
#include "core/circuit/periodic.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <tuple>

namespace ember::schematic {

using namespace circuit;

namespace {

constexpr double inverterOhms = 1e-3;
/// Of a track's end: the wiper never leaves the last piece of it.
constexpr double trackEndOhms = 1;
/// The junction of a zener string: its knee is sharp, and 0.08 V at 5 mA, which its volts are less by.
constexpr DiodeLaw zenerJunction{1e-9, 0.2};
constexpr double zenerKnee = 0.08;

} // namespace

namespace {

/// What socket and leads add to a valve's own: 2 pF of a pin to the socket's ring, and 10 cm of wire of 1 mm, 10 mm
/// from the metal (2 pi epsilon / acosh(h / r), 15 pF/m); between neighbouring pins 0.3 pF, in a pentode's socket,
/// whose plate lies across from its grid, a tenth of that. The metal is where cathodes stand for signals; a follower's
/// does not, and has less of it than here.
constexpr double pinToMetal = 3.5e-12, pinToPin = 0.3e-12;

void addCapacitances(Netlist& n, const ValveSection& section, Node grid, Node plate, Node cathode) {
    if (section.gridPlate + section.gridCathode + section.plateCathode == 0) return; // not published
    const double across = std::holds_alternative<circuit::PentodeLaw>(section.law) ? pinToPin / 10 : pinToPin;
    for (const auto& [a, b, farads] : {std::tuple{grid, plate, section.gridPlate + across},
                                       {grid, cathode, section.gridCathode + pinToMetal},
                                       {plate, cathode, section.plateCathode + pinToMetal}})
        if (a != b) n.add(Capacitor{a, b, farads});
}

} // namespace

Circuit circuitOf(const Schematic& s, Electrodes electrodes) {
    Circuit c;
    c.nodes.reserve(s.nets().size());
    for (std::size_t k = 0; k < s.nets().size(); ++k)
        c.nodes.push_back(k == 0 ? ground : c.netlist.node(s.nets()[k].name));
    Netlist& n = c.netlist;
    for (const Part& p : s.parts()) {
        const auto node = [&](int pin) {
            const NetId net = p.pins[static_cast<std::size_t>(pin)].net;
            return net.index < 0 ? ground : c.nodes[static_cast<std::size_t>(net.index)];
        };
        std::vector<DeviceId> own;
        std::visit(
            Overloaded{
                [&](const Resistance& r) {
                    own.push_back(n.add(Resistor{node(0), node(1), r.ohms}));
                },
                [&](const Capacitance& x) {
                    own.push_back(n.add(Capacitor{node(0), node(1), x.farads, x.esr, x.leakageOhms}));
                },
                [&](const Inductance& l) {
                    own.push_back(n.add(chokeBetween(node(0), node(1), {l.henries, l.idleHenries, l.amps, l.ohms})));
                },
                [&](const Track& t) {
                    own.push_back(n.add(Resistor{node(0), node(1), std::max(trackEndOhms, (1 - t.share) * t.ohms)}));
                    own.push_back(n.add(Resistor{node(1), node(2), std::max(trackEndOhms, t.share * t.ohms)}));
                },
                [&](const CurrentSink& x) {
                    own.push_back(n.add(NonlinearDevice{{node(0), node(1)}, SinkLaw{x.amps, x.knee}}));
                },
                [&](const Diode& d) { own.push_back(n.addDiode(node(0), node(1), d.law, d.ohms)); },
                [&](const Zener& z) {
                    const Node foot = n.node(p.id + " knee");
                    n.add(VoltageSource{foot, node(1), {z.volts - zenerKnee}});
                    own.push_back(n.addDiode(node(0), foot, zenerJunction, z.ohms));
                },
                [&](const Voltage& v) {
                    own.push_back(n.add(VoltageSource{node(0), node(1), v.volts}));
                },
                [&](const Inverter&) {
                    own.push_back(n.add(Transconductance{node(1), ground, node(0), ground, 1 / inverterOhms}));
                    n.add(Resistor{node(1), ground, inverterOhms});
                },
                [](const Connector&) {},
                [&](const Contacts& x) {
                    for (int k = 0; k < x.poles; ++k)
                        own.push_back(n.add(Resistor{node(2 * k), node(2 * k + 1), x.ohms}));
                },
                [&](const Windings& w) {
                    Transformer t;
                    t.inductance = w.inductance;
                    t.ratedFlux = w.ratedFlux, t.saturation = {w.saturationAmps}, t.lossOhms = w.lossOhms;
                    for (const Coil& coil : w.coils)
                        t.windings.push_back({node(coil.a), node(coil.b), coil.turns, coil.ohms, coil.leakage});
                    own.push_back(n.add(std::move(t)));
                    if (electrodes == Electrodes::WithCapacitance)
                        for (const Coil& coil : w.coils)
                            if (coil.farads > 0) n.add(Capacitor{node(coil.a), node(coil.b), coil.farads});
                },
                [&](const Bottle& b) {
                    for (const ValveSection& section : b.sections) {
                        NonlinearDevice d{{}, section.law, b.emission};
                        for (const int pin : section.pins) d.terminals.push_back(node(pin));
                        const std::vector<Node> at = d.terminals;
                        own.push_back(n.add(std::move(d)));
                        if (electrodes == Electrodes::WithCapacitance)
                            addCapacitances(n, section, at.front(), at[at.size() - 2], at.back());
                    }
                }},
            p.element);
        c.devices.push_back(std::move(own));
    }
    return c;
}

Analysis::Analysis(const Schematic& s)
    : schematic(s),
      made(circuitOf(s, Electrodes::WithCapacitance)),
      assembled(std::make_unique<System>(assemble(made.netlist))) {}

Expected<Point> Analysis::operatingPoint() {
    const System& sys = *assembled;
    const auto op = circuit::operatingPoint(sys);
    if (!op) return op.problem();
    Point out;
    out.portVolts = op->portVolts;
    for (const Node n : made.nodes) out.netVolts.push_back(op->volts(n));
    for (std::size_t k = 0; k < schematic.parts().size(); ++k) {
        const Part& p = schematic.parts()[k];
        std::vector<double> amps(p.pins.size(), 0);
        const auto volts = [&](std::size_t pin) { return out.volts(p.pins[pin].net); };
        const auto through = [&](double i) { amps[0] = i, amps[1] = -i; };
        const auto branch = [&](int offset) {
            return op->x[sys.branchOf[static_cast<std::size_t>(made.devices[k][0])] + offset];
        };
        const auto port = [&] { return op->amps(sys, made.devices[k][0]); };
        std::visit(Overloaded{[&](const Resistance& r) { through((volts(0) - volts(1)) / r.ohms); },
                              [&](const Capacitance& c) {
                                  if (c.leakageOhms > 0) through((volts(0) - volts(1)) / c.leakageOhms);
                              },
                              [&](const Inductance&) { through(branch(0)); },
                              [&](const Track& t) {
                                  const double up = (volts(0) - volts(1)) /
                                                    std::max(trackEndOhms, (1 - t.share) * t.ohms),
                                               down = (volts(1) - volts(2)) / std::max(trackEndOhms, t.share * t.ohms);
                                  amps[0] = up, amps[1] = down - up, amps[2] = -down;
                              },
                              [&](const CurrentSink&) { through(port()); }, [&](const Diode&) { through(port()); },
                              [&](const Zener&) { through(port()); }, [&](const Voltage&) { through(branch(0)); },
                              [](const Inverter&) {}, [](const Connector&) {},
                              [&](const Contacts& x) {
                                  for (std::size_t e = 0; e < amps.size(); e += 2) {
                                      amps[e] = (volts(e) - volts(e + 1)) / x.ohms;
                                      amps[e + 1] = -amps[e];
                                  }
                              },
                              [&](const Windings& w) {
                                  int n = 0;
                                  for (const Coil& c : w.coils) {
                                      const double i = branch(n++);
                                      amps[static_cast<std::size_t>(c.a)] += i;
                                      amps[static_cast<std::size_t>(c.b)] -= i;
                                  }
                              },
                              [&](const Bottle& b) {
                                  for (std::size_t section = 0; section < b.sections.size(); ++section) {
                                      const auto& pins = b.sections[section].pins;
                                      for (std::size_t e = 0; e + 1 < pins.size(); ++e) {
                                          const double i = op->amps(sys, made.devices[k][section], static_cast<int>(e));
                                          amps[static_cast<std::size_t>(pins[e])] += i;
                                          amps[static_cast<std::size_t>(pins.back())] -= i;
                                      }
                                  }
                              }},
                   p.element);
        double watts = 0;
        for (std::size_t pin = 0; pin < amps.size(); ++pin) watts += amps[pin] * volts(pin);
        out.pinAmps.push_back(std::move(amps));
        out.partWatts.push_back(watts);
    }
    return out;
}

Complex Analysis::gain(const Point& at, PartId source, NetId to, double hertz) const {
    return SmallSignal(*assembled, at.portVolts)
        .gain(made.devices[static_cast<std::size_t>(source.index)][0], made.nodes[static_cast<std::size_t>(to.index)],
              hertz);
}

Complex Analysis::impedance(const Point& at, NetId net, double hertz) const {
    return SmallSignal(*assembled, at.portVolts).impedance(made.nodes[static_cast<std::size_t>(net.index)], hertz);
}

std::optional<circuit::Growth> Analysis::growth(const Point& at) const {
    return circuit::growth(circuit::poles(*assembled, at.portVolts));
}

namespace {

Eigen::VectorXd vectorOf(const std::vector<double>& v) {
    return Eigen::Map<const Eigen::VectorXd>(v.data(), static_cast<Eigen::Index>(v.size()));
}

/// Harmonics 1 .. 10 as RMS, from one period of samples.
std::vector<double> harmonicsOf(const std::vector<double>& period) {
    const auto count = static_cast<double>(period.size());
    std::vector<double> out;
    for (int h = 1; h <= 10; ++h) {
        Complex sum = 0;
        for (std::size_t k = 0; k < period.size(); ++k)
            sum += period[k] *
                   std::polar(std::numbers::sqrt2 / count, -2 * std::numbers::pi * h * static_cast<double>(k) / count);
        out.push_back(std::abs(sum));
    }
    return out;
}

/// Far overdriven the grids charge their capacitors: come from below, each level from the one before.
Expected<PeriodicSolution> fromBelow(Stepper& stepper, const System& sys, const Eigen::VectorXd& rest,
                                     const PeriodicOptions& o, Recording& record) {
    Expected<PeriodicSolution> solved = Problem{"", "the tone was not solved at this level; lower it"};
    Eigen::VectorXd start = rest;
    double reached = 0, stride = 0.25;
    while (reached < 1 && stride > 0.01 && !o.stop.stop_requested()) {
        const double next = std::min(1.0, reached + stride);
        for (std::size_t k = 0; k < sys.sources.size(); ++k) {
            Waveform part = sys.sources[k];
            part.amplitude *= next;
            stepper.setSource(static_cast<int>(k), part);
        }
        auto level = periodicSteadyState(stepper, start, o, &record);
        if (level) {
            reached = next;
            start = level->y;
            if (reached >= 1) solved = std::move(level);
        } else {
            stride *= 0.5;
        }
    }
    return solved;
}

} // namespace

Expected<ToneResult> steadyTone(const Schematic& s, double hertz, NetId output, const ToneResult* start,
                                std::stop_token stop, ToneAccuracy accuracy) {
    const Circuit c =
        circuitOf(s, hertz < capacitancesFrom ? Electrodes::WithoutCapacitance : Electrodes::WithCapacitance);
    const System sys = assemble(c.netlist);
    PeriodicOptions o;
    o.period = 1 / hertz;
    o.steps = 32;
    o.levels = 6;
    // Volts to 1e-5, distortion to a thousandth of itself against a tolerance of 1e-6; where there is more of it, as
    // the nearby tone says, longer steps tell it as well.
    o.tolerance = start ? std::clamp(1e-3 * start->thdPercent, 1e-4, 1e-3) : 1e-4;
    o.residual = 1e-7;
    o.acceptable = 1e-6; // of high gain, where rounding is amplified on its way round
    if (accuracy == ToneAccuracy::Draft) o.tolerance *= 5, o.residual = o.acceptable = 1e-4;
    o.mostPasses = 60;
    o.chord = true;
    o.stop = stop;
    std::vector<Probe> probes{nodeVolts(sys, c.nodes[static_cast<std::size_t>(output.index)])};
    std::vector<std::size_t> sources;
    for (std::size_t k = 0; k < s.parts().size(); ++k)
        if (std::holds_alternative<Voltage>(s.parts()[k].element)) {
            sources.push_back(k);
            probes.push_back(branchAmps(sys, c.devices[k][0]));
        }
    Recording record(probes);
    Stepper stepper = periodicStepper(sys, o);
    Expected<PeriodicSolution> solved = Problem{};
    if (start && static_cast<int>(start->states.size()) == sys.states()) {
        stepper.portSolver().volts() = vectorOf(start->portVolts);
        PeriodicOptions near = o;
        near.leadIn = 0;
        near.map = &start->map;
        solved = periodicSteadyState(stepper, vectorOf(start->states), near, &record);
    }
    if (!solved && !stop.stop_requested()) {
        // The operating point is the natural start: a tone's waveform has its DC.
        const auto still = circuit::operatingPoint(sys);
        if (!still) return still.problem();
        stepper.portSolver().volts() = still->portVolts;
        solved = periodicSteadyState(stepper, still->y, o, &record);
        if (!solved && !stop.stop_requested()) solved = fromBelow(stepper, sys, still->y, o, record);
    }
    if (!solved) return solved.problem();
    ToneResult out;
    out.states.assign(solved->y.begin(), solved->y.end());
    out.portVolts.assign(solved->portVolts.begin(), solved->portVolts.end());
    out.map = std::move(solved->map);
    out.samples = record.evenly(0, 0, o.period, 256);
    out.sourceAmps.assign(s.parts().size(), 0);
    // A source's branch current runs into it; what it gives is the opposite.
    for (std::size_t k = 0; k < sources.size(); ++k) out.sourceAmps[sources[k]] = -record.mean(k + 1);
    const double mean = record.mean(0); // direct volts at the output are no signal
    out.outputRms = std::sqrt(std::max(0.0, record.rms(0) * record.rms(0) - mean * mean));
    out.harmonics = harmonicsOf(out.samples);
    double distortion = 0;
    for (std::size_t h = 1; h < out.harmonics.size(); ++h) distortion += out.harmonics[h] * out.harmonics[h];
    out.thdPercent = 100 * std::sqrt(distortion) / out.harmonics[0];
    return out;
}

} // namespace ember::schematic
