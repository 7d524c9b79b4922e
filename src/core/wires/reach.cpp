#include "reach.h"

#include "core/base/overloaded.h"
#include "core/build/path.h"
#include "core/quantity/letters.h"
#include "core/quantity/weighting.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <memory>
#include <set>

namespace ember::wires {

using namespace schematic;
using circuit::Complex;

namespace {

constexpr std::size_t harmonicCount = 12;
constexpr double boltzmann = 1.380649e-23, warm = 310; // [J/K]; inside a chassis [K]

/// The channel with each of its returns on a net of its own, and a source in each grid's lead.
struct Opened {
    plan::HeldChannel held;
    std::vector<std::pair<std::size_t, PartId>> grounds; ///< ground points and the sources that hold them
    std::vector<PartId> grids;                           ///< by valve
    std::size_t outPoint = std::size_t(-1);
};

class Opener {
  public:
    Opener(const Build& build, const Harness& harness, Opened& to) : b(build), h(harness), o(to), s(to.held.schematic) {
        for (std::size_t k = 0; k < h.points.size(); ++k)
            for (const PinId pin : h.points[k].pins) {
                const Part& p = h.terminals.whole.schematic[pin.part];
                pointOf.emplace(terminalName(p, p.pins[static_cast<std::size_t>(pin.pin)]), k);
            }
    }
    void open(std::size_t channel) {
        const Channel& ch = b.channels[channel];
        const std::size_t count = s.parts().size();
        std::set<std::string> outside; // what hangs on the output's terminals returns to them
        for (const Stage& stage : ch.stages)
            for (const StagePart& p : stage.parts)
                if (p.slot == "load") outside.insert(idOf(p.part));
        for (std::size_t k = 0; k < count; ++k) {
            const PartId id{static_cast<int>(k)};
            for (std::size_t pin = 0; pin < s[id].pins.size(); ++pin) {
                if (s[id].pins[pin].net != Schematic::ground) continue;
                std::string name = terminalName(s[id], s[id].pins[pin]);
                if (id == o.held.source) name = inputPart(ch) + ".sleeve";
                if (outside.contains(s[id].id)) name = outputPart(ch) + ".-";
                if (const auto at = pointOf.find(name); at != pointOf.end())
                    s.edit(id).pins[pin].net = held(at->second);
            }
        }
        for (const HeldNode& n : o.held.nodes)
            if (static_cast<std::size_t>(n.node) < h.terminals.whole.reservoirs.size())
                hold(n.source, h.terminals.whole.reservoirs[static_cast<std::size_t>(n.node)]);
        for (const HeldLine& l : o.held.lines)
            if (const auto filter = h.terminals.whole.schematic.find(b.bias.second.id)) hold(l.source, *filter);
        if (const auto at = pointOf.find(outputPart(ch) + ".-"); at != pointOf.end()) o.outPoint = at->second;
        for (const ValveUse& u : o.held.valves) {
            const int pin = std::get<Bottle>(s[u.part].element).sections[static_cast<std::size_t>(u.system)].pins[0];
            const NetId lead = s.net(fmt::format("grid lead {}", o.grids.size()));
            Part& bottle = s.edit(u.part);
            const NetId before = bottle.pins[static_cast<std::size_t>(pin)].net;
            bottle.pins[static_cast<std::size_t>(pin)].net = lead;
            o.grids.push_back(s.add(voltage(fmt::format("grid emf {}", o.grids.size()), lead, before, {})));
        }
    }

  private:
    NetId held(std::size_t point) {
        const NetId net = s.net(fmt::format("return {}", point), NetKind::Return);
        if (std::none_of(o.grounds.begin(), o.grounds.end(), [&](const auto& g) { return g.first == point; }))
            o.grounds.emplace_back(point,
                                   s.add(voltage(fmt::format("return source {}", point), net, Schematic::ground, {})));
        return net;
    }
    /// A source's other end at the return of a capacitor.
    void hold(PartId source, PartId capacitor) {
        if (capacitor.index < 0) return;
        const Part& c = h.terminals.whole.schematic[capacitor];
        for (const Pin& pin : c.pins)
            if (pin.net == Schematic::ground)
                if (const auto at = pointOf.find(terminalName(c, pin)); at != pointOf.end())
                    s.edit(source).pins[1].net = held(at->second);
    }
    const Build& b;
    const Harness& h;
    Opened& o;
    Schematic& s;
    std::map<std::string, std::size_t> pointOf; // by terminal
};

/// Resistors, and each valve as a resistor at its grid.
struct NoiseSource {
    circuit::Node a = 0, b = 0; ///< of a resistor
    double squareAmps = 0;      ///< [A2/Hz]
    std::size_t grid = 0;
    double squareVolts = 0; ///< [V2/Hz] of a valve, above the flicker corner
};

std::vector<NoiseSource> noiseSources(const Opened& o, const Analysis& analysis, const Point& point) {
    std::vector<NoiseSource> out;
    const Schematic& s = o.held.schematic;
    const auto& nodes = analysis.circuit().nodes;
    const auto node = [&](NetId n) { return nodes[static_cast<std::size_t>(n.index)]; };
    const auto resistor = [&](NetId a, NetId z, double ohms) {
        if (ohms > 0) out.push_back({node(a), node(z), 4 * boltzmann * warm / ohms, 0, 0});
    };
    for (const Part& p : s.parts()) {
        if (const auto* r = std::get_if<Resistance>(&p.element)) resistor(p.pins[0].net, p.pins[1].net, r->ohms);
        if (const auto* t = std::get_if<Track>(&p.element)) {
            resistor(p.pins[0].net, p.pins[1].net, (1 - t->share) * t->ohms);
            resistor(p.pins[1].net, p.pins[2].net, t->share * t->ohms);
        }
    }
    for (std::size_t k = 0; k < o.held.valves.size(); ++k) {
        const ValveUse& u = o.held.valves[k];
        const circuit::DeviceId device =
            analysis.circuit().devices[static_cast<std::size_t>(u.part.index)][static_cast<std::size_t>(u.system)];
        for (const circuit::PortDevice& d : analysis.system().ports) {
            if (d.device != device) continue;
            std::array<double, 3> amps{};
            std::array<double, 9> slopes{};
            circuit::evaluate(d.law, d.emission, point.portVolts.data() + d.first, amps.data(), slopes.data());
            const auto plate = static_cast<std::size_t>(d.count - 1);
            const double gm = slopes[plate * static_cast<std::size_t>(d.count)], screen = d.count == 3 ? amps[1] : 0;
            if (!(gm > 0)) continue;
            double ohms = 2.5 / gm;
            if (screen > 0) ohms = amps[plate] / (amps[plate] + screen) * (2.5 / gm + 20 * screen / (gm * gm));
            out.push_back({0, 0, 0, k, 4 * boltzmann * 290 * ohms});
        }
    }
    return out;
}

/// The places that a valve's grid loop passes: see GridLoop.
std::vector<Vector> gridPath(const Build& b, const Harness& h, const ChannelSchematic& held, std::size_t channel,
                             const ValveUse& u) {
    const Channel& ch = b.channels[channel];
    const Schematic& whole = h.terminals.whole.schematic;
    const auto at = [&](const std::string& part, std::string_view pin) -> const Terminal* {
        for (const Terminal& t : h.terminals.list)
            if (h.terminals.part(t).id == part &&
                whole[t.pin.part].pins[static_cast<std::size_t>(t.pin.pin)].name == pin)
                return &t;
        return nullptr;
    };
    const auto electrode = [&](const ValveUse& of, std::size_t which) -> const Terminal* {
        const Part& p = held.schematic[of.part];
        const auto& pins = std::get<Bottle>(p.element).sections[static_cast<std::size_t>(of.system)].pins;
        const auto pin = static_cast<std::size_t>(pins[which == 0 ? 0 : pins.size() - which]);
        return at(p.id, p.pins[pin].name);
    };
    const auto lug = [&](std::size_t stage) -> std::optional<Vector> {
        const GroundPoint* best = nullptr;
        for (const GroundPoint& g : h.points)
            if (g.channel == ch.id && g.what == Returns::Stage && (!best || g.node == ch.stages[stage].node)) best = &g;
        return best ? std::optional(best->at) : std::nullopt;
    };
    const Terminal* grid = electrode(u, 0);
    if (!grid) return {};
    std::vector<Vector> path;
    const ValveUse* driver = nullptr;
    for (const ValveUse& other : held.valves)
        if (other.stage < u.stage && (!driver || other.stage > driver->stage)) driver = &other;
    if (driver) {
        if (const auto from = lug(driver->stage)) path.push_back(*from);
        if (const Terminal* plate = electrode(*driver, 2)) path.push_back(plate->at);
    } else if (const Terminal* jack = at(inputPart(ch), "tip")) {
        path.push_back(jack->at);
        for (std::size_t k = 0; k < held.schematic.parts().size(); ++k) // by way of its controls
            if (const Part& p = held.schematic.parts()[k]; std::holds_alternative<Track>(p.element))
                for (const auto& [part, stage] : held.stageOf)
                    if (part.index == static_cast<int>(k) && stage < u.stage)
                        if (const Terminal* wiper = at(p.id, "wiper")) path.push_back(wiper->at);
    }
    path.push_back(grid->at);
    if (const auto own = lug(u.stage)) path.push_back(*own);
    return path.size() > 1 ? path : std::vector<Vector>{};
}

/// What one circuit says, whatever its nets are called: the reach of its output at each harmonic, and its noise.
struct Answer {
    Schematic circuit;
    std::vector<Eigen::VectorXcd> reaching;
    std::optional<Analysis> analysis;
    std::unique_ptr<circuit::SmallSignal> small; // the next keeps a reference to it
    std::optional<circuit::OutputReach> reach;
    Eigen::VectorXcd signal; ///< reach at 1 kHz
    double noise = plan::unknown, weightedNoise = plan::unknown;
};

/// By the trapezoid rule over the logarithm of frequency, two points an octave.
void addNoise(Answer& a, const Opened& o, const Point& point) {
    const auto sources = noiseSources(o, *a.analysis, point);
    const int steps = 20;
    const double ratio = std::pow(1000.0, 1.0 / steps);
    double sum = 0, weighted = 0, before = 0, beforeWeighted = 0, hertz = 20;
    for (int k = 0; k <= steps; ++k, hertz *= ratio) {
        const auto reaching = a.reach->at(hertz);
        double density = 0; // [V2/Hz]
        for (const NoiseSource& s : sources)
            density +=
                s.squareAmps > 0
                    ? s.squareAmps * std::norm(a.reach->fromAmps(reaching, s.a) - a.reach->fromAmps(reaching, s.b))
                    : s.squareVolts * (1 + flickerCorner / hertz) *
                          std::norm(a.reach->fromVolts(
                              reaching,
                              a.analysis->circuit().devices[static_cast<std::size_t>(o.grids[s.grid].index)][0]));
        density *= hertz; // per unit of ln f
        const double heard = density * weightA(hertz) * weightA(hertz);
        if (k > 0) {
            sum += 0.5 * (density + before) * std::log(ratio);
            weighted += 0.5 * (heard + beforeWeighted) * std::log(ratio);
        }
        before = density, beforeWeighted = heard;
    }
    a.noise = std::sqrt(sum);
    a.weightedNoise = std::sqrt(weighted);
}

std::optional<Answer> answer(const Build& b, const Opened& o) {
    Answer a;
    a.circuit = o.held.schematic;
    a.analysis.emplace(o.held.schematic);
    const auto point = a.analysis->operatingPoint();
    if (!point) return std::nullopt;
    a.small = std::make_unique<circuit::SmallSignal>(a.analysis->system(), point->portVolts);
    const circuit::Node output = a.analysis->circuit().nodes[static_cast<std::size_t>(o.held.output.index)];
    a.reach.emplace(*a.small, output);
    for (std::size_t k = 1; k <= harmonicCount; ++k)
        a.reaching.push_back(a.reach->at(b.mains.frequency * static_cast<double>(k)));
    a.signal = a.reach->at(signalHertz);
    addNoise(a, o, *point);
    return a;
}

ReachAt reachAt(const Harness& h, const Opened& o, const Answer& a, const Eigen::VectorXcd& reaching, double hertz,
                const plan::Steady& nominal) {
    ReachAt r;
    r.hertz = hertz;
    const auto& made = a.analysis->circuit();
    const auto volts = [&](PartId source) {
        return a.reach->fromVolts(reaching, made.devices[static_cast<std::size_t>(source.index)][0]);
    };
    const auto amps = [&](NetId net) {
        return net.index > 0 ? a.reach->fromAmps(reaching, made.nodes[static_cast<std::size_t>(net.index)])
                             : Complex(0);
    };
    r.input = volts(o.held.source);
    r.grounds.assign(h.points.size(), 0);
    for (const auto& [at, source] : o.grounds) r.grounds[at] = volts(source);
    if (o.outPoint < r.grounds.size()) r.grounds[o.outPoint] -= 1.0;
    r.nodes.assign(nominal.nodes.size(), 0);
    for (const HeldNode& n : o.held.nodes)
        if (static_cast<std::size_t>(n.node) <= r.nodes.size())
            r.nodes[static_cast<std::size_t>(n.node) - 1] += volts(n.source);
    r.wipers.assign(nominal.wipers.size(), 0);
    for (const HeldLine& l : o.held.lines)
        if (l.adjuster < r.wipers.size()) r.wipers[l.adjuster] += volts(l.source);
    for (std::size_t p = 0; p < o.held.schematic.parts().size(); ++p)
        if (const auto* w = std::get_if<Windings>(&o.held.schematic.parts()[p].element)) {
            // The core's equation, volts a turn, stands behind those of its windings.
            const int first = a.analysis->system().branchOf[static_cast<std::size_t>(made.devices[p][0])];
            r.iron.push_back(reaching[first + static_cast<int>(w->coils.size())]);
        }
    for (std::size_t v = 0; v < o.held.valves.size(); ++v) {
        r.grids.push_back(volts(o.grids[v]));
        r.gridAmps.push_back(amps(o.held.valves[v].grid));
        r.cathodeAmps.push_back(amps(o.held.valves[v].cathode));
    }
    return r;
}

/// A source's branch current runs from its first node through itself; what the parts send into the return is that.
ReturnReach returnReach(const Harness& h, const Opened& o, const Answer& a, const plan::Steady& nominal) {
    const auto& made = a.analysis->circuit();
    const auto device = [&](PartId source) { return made.devices[static_cast<std::size_t>(source.index)][0]; };
    ReturnReach out{reachAt(h, o, a, a.signal, signalHertz, nominal), {}};
    out.amps.assign(h.points.size(), 0);
    const Eigen::VectorXcd x = a.small->driven(device(o.held.source), signalHertz);
    const Complex gain = x[a.analysis->system().row(made.nodes[static_cast<std::size_t>(o.held.output.index)])];
    if (std::abs(gain) < 1e-9) return out;
    for (const auto& [at, source] : o.grounds)
        out.amps[at] += x[a.analysis->system().branchOf[static_cast<std::size_t>(device(source))]] / gain;
    return out;
}

} // namespace

std::vector<GridLoop> gridLoops(const Build& b, const Catalogue& catalogue, const Harness& h, std::size_t channel) {
    std::vector<GridLoop> out;
    const ChannelSchematic c = channelSchematic(b, catalogue, channel);
    for (const ValveUse& u : c.valves) {
        const std::string name = upper(b.bottles[u.bottle].id);
        const ValveType* type = catalogue.valve(b.bottles[u.bottle].type);
        out.push_back({type && type->sections() > 1 ? fmt::format("{}/{}", name, u.section) : name, u.bottle,
                       gridPath(b, h, c, channel, u)});
    }
    return out;
}

std::vector<ChannelReach> reachesOf(const Build& b, const Catalogue& catalogue, const Harness& h,
                                    const plan::Steady& nominal) {
    std::vector<ChannelReach> out;
    std::vector<Answer> known;
    for (std::size_t channel = 0; channel < b.channels.size(); ++channel) {
        Opened o{plan::heldChannel(b, catalogue, channel, plan::supplyOf(b, nominal)), {}, {}, std::size_t(-1)};
        Opener(b, h, o).open(channel);
        out.emplace_back().channel = channel;
        for (const Part& p : o.held.schematic.parts())
            if (const auto* w = std::get_if<Windings>(&p.element)) {
                out.back().iron.push_back(p.id);
                out.back().ironHenries.push_back(w->inductance);
                out.back().ironTurns.push_back(w->coils.front().turns);
            }
        auto at = std::find_if(known.begin(), known.end(),
                               [&](const Answer& a) { return alike(a.circuit, o.held.schematic); });
        if (at == known.end()) {
            auto fresh = answer(b, o);
            if (!fresh) continue;
            known.push_back(std::move(*fresh));
            at = std::prev(known.end());
        }
        for (std::size_t k = 0; k < harmonicCount; ++k)
            out.back().harmonics.push_back(
                reachAt(h, o, *at, at->reaching[k], b.mains.frequency * static_cast<double>(k + 1), nominal));
        out.back().signal = returnReach(h, o, *at, nominal);
        out.back().noise = at->noise;
        out.back().weightedNoise = at->weightedNoise;
    }
    return out;
}

} // namespace ember::wires
