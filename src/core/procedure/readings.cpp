// What a meter shows at a test point: powered from a solved steady state, unpowered from the cold netlist.
#include "test_points.h"

#include "core/build/build_json.h"
#include "core/build/path.h"
#include "core/circuit/operating_point.h"
#include "core/circuit/small_signal.h"
#include "core/plan/discharge.h"
#include "core/wires/hum.h"

#include <cmath>
#include <deque>

namespace ember::procedure {

using namespace plan;
using namespace circuit;

namespace {

constexpr double insulation = 1e9; // [ohm] a dry winding against the core, at least
constexpr double testAmps = 1e-6;  // [A] of a meter on ohms
constexpr double bond = 5e-3;      // [ohm] star to chassis: a crimp and a bolted lug

/// The net that a valve's point is on.
schematic::NetId netOf(const schematic::ValveUse& v, PointKind kind) {
    switch (kind) {
    case PointKind::Grid: return v.grid;
    case PointKind::Plate: return v.plate;
    case PointKind::Cathode:
    case PointKind::Sense: return v.cathode;
    default: return {};
    }
}

double voltsAt(const ValvePoint& v, PointKind kind) {
    switch (kind) {
    case PointKind::Grid: return v.grid;
    case PointKind::Plate: return v.plate;
    case PointKind::Cathode: return v.cathode;
    case PointKind::Sense: return v.sense();
    default: return unknown;
    }
}

WindingPart part(const TestPoint& point) {
    return static_cast<WindingPart>(point.index);
}

double ofSupply(const Build& b, const Steady& s, const TestPoint& point) {
    switch (point.kind) {
    case PointKind::HeaterVolts: {
        const HeaterWinding& w = b.transformer.heaters[point.index];
        if (const auto feed = s.heaterFeeds.find(w.id); feed != s.heaterFeeds.end()) return feed->second.out;
        return s.primaryVolts * w.volts / b.transformer.primaryVolts; // its own, of one in series with another
    }
    case PointKind::LegVolts: return part(point) == WindingPart::Ends ? 2 * s.legVolts : s.legVolts;
    case PointKind::Ripple: return s.nodes.empty() ? unknown : s.nodes[0].rippleRms;
    case PointKind::Node:
        return point.index >= 1 && point.index <= s.nodes.size() ? s.nodes[point.index - 1].mean : unknown;
    case PointKind::StringVolts: { // equal ones share evenly: the tolerance of the parts is the range's
        const Section& string = b.supply.sections[point.index];
        const auto node = static_cast<std::size_t>(nodeOfSection(b.supply, point.index));
        return node <= s.nodes.size() ? s.nodes[node - 1].mean / string.inSeries : unknown;
    }
    default: return unknown;
    }
}

/// The amplifier with the plug out and every socket empty, as far as ohms go.
struct ColdCircuit {
    Netlist n;
    Node line, neutral, legA, legB = ground;
    std::vector<Node> rails, heaters; ///< one end of each heater winding

    ColdCircuit(const Build& b, const Catalogue& catalogue) {
        const PowerTransformer t = asComputed(b.transformer);
        line = n.node("line"), neutral = n.node("neutral"), legA = n.node("leg a");
        n.add(Resistor{line, neutral, t.primaryResistance});
        n.add(Resistor{line, ground, insulation});
        rails = {n.node("B+1")};
        const bool floating = floatingWinding(b.supply.connection);
        legB = floating || b.supply.connection == Connection::CentreTapped ? n.node("leg b") : ground;
        n.add(Resistor{legA, floating ? legB : ground, t.plateResistance});
        if (!floating && legB) n.add(Resistor{legB, ground, t.plateResistance});
        n.add(Resistor{legA, ground, insulation});
        const RectifierType& type = *catalogue.rectifier(b.supply.rectifier.type);
        if (!type.vacuum) {
            addRectifiers(n, b.supply.connection,
                          {type, *catalogue.rectifier("silicon"), 1, b.supply.rectifier.inSeries,
                           b.supply.rectifier.legResistance},
                          legA, legB, rails[0]);
        } else if (b.supply.connection == Connection::HybridBridge) { // its two silicon diodes stay
            const RectifierType& silicon = *catalogue.rectifier("silicon");
            addRectifier(n, silicon, 1, 1, ground, legA);
            addRectifier(n, silicon, 1, 1, ground, legB);
        }
        Supply cold = b.supply; // what draws a current does so only when it is powered
        for (SupplyLoad& load : cold.loads) load.amps = 0;
        addChain(n, cold, rails, b.supply.connection == Connection::Doubler ? legB : ground);
        for (const HeaterWinding& h : b.transformer.heaters) addHeater(b, catalogue, h);
    }

  private:
    void addHeater(const Build& b, const Catalogue& catalogue, const HeaterWinding& h) {
        const Node a = n.node("heater a"), z = n.node("heater b");
        heaters.push_back(a);
        // Of direct current the minus side; diodes part it from the winding, and the heaters are not in.
        n.add(Resistor{a, z, h.rectified() ? insulation : std::max(1e-3, h.resistance)});
        n.add(Resistor{a, ground, insulation});
        const RectifierType* main = catalogue.rectifier(b.supply.rectifier.type);
        if (h.feeds == "rectifier" && main && main->cathodeOnHeater) n.add(Resistor{a, rails[0], 1e-3});
        if (h.feeds != "signal") return;
        Node reference = ground;
        if (h.referenceNode > 0 && h.referenceNode <= static_cast<int>(rails.size())) {
            reference = n.node("heater reference");
            n.add(Resistor{rails[static_cast<std::size_t>(h.referenceNode) - 1], reference, h.lift.top});
            n.add(Resistor{reference, ground, h.lift.bottom});
        }
        switch (h.reference) {
        case HeaterReference::Resistors:
        case HeaterReference::Potentiometer: {
            const double each = h.referenceOhms / (h.reference == HeaterReference::Potentiometer ? 2 : 1);
            n.add(Resistor{a, reference, each});
            n.add(Resistor{z, reference, each});
            break;
        }
        case HeaterReference::CentreTap:
            if (!h.rectified()) n.add(Resistor{a, reference, std::max(1e-3, h.resistance) / 2 + bond});
            if (h.rectifier == HeaterRectifier::FullWave) n.add(Resistor{a, reference, bond});
            break;
        case HeaterReference::OneSide: n.add(Resistor{a, reference, bond}); break;
        case HeaterReference::Floating: break;
        }
    }
};

/// From an adjuster's wiper to ground with no power: down its own track, and up it and down all the others'.
double wiperOhms(const Build& b, int adjuster) {
    const auto all = adjustersOf(b);
    if (adjuster < 0 || adjuster >= static_cast<int>(all.size())) return 0;
    const double p = all[static_cast<std::size_t>(adjuster)].position, track = b.bias.adjuster;
    const double down = p * track + b.bias.floor;
    double up = (1 - p) * track;
    if (b.bias.failSafe > 0) up = up * b.bias.failSafe / (up + b.bias.failSafe);
    if (all.size() < 2) return down;
    up += (track + b.bias.floor) / static_cast<double>(all.size() - 1);
    return down * up / (down + up);
}

/// Resistances from valves' electrodes to chassis, each channel's circuit solved once, with no valve drawing current.
class SocketOhms {
  public:
    SocketOhms(const Build& build, const Catalogue& types, const Miswiring& wires)
        : b(build),
          catalogue(types),
          wiring(wires) {}

    double at(const TestPoint& point) {
        if (channels.empty()) solve();
        for (const Solved& c : channels)
            for (const schematic::ValveUse& v : c.held.valves) {
                if (v.bottle != point.index || v.section != point.section) continue;
                const schematic::NetId net = point.kind == PointKind::GridOhms ? v.grid : v.cathode;
                if (net.index <= 0) return 0;
                if (!c.signal) return unknown;
                const double ohms =
                    std::abs(c.signal->impedance(c.circuit.nodes[static_cast<std::size_t>(net.index)], 0));
                return point.kind == PointKind::GridOhms ? ohms + wiperOhms(b, v.adjuster) : ohms;
            }
        return unknown;
    }

  private:
    struct Solved {
        HeldChannel held;
        schematic::Circuit circuit;
        System system;
        std::optional<SmallSignal> signal;
    };
    void solve() {
        ChannelSupply off;
        off.emission.assign(b.bottles.size(), 0.0);
        for (std::size_t k = 0; k < b.channels.size(); ++k) {
            HeldChannel held = heldChannel(b, catalogue, k, off, {}, wiring);
            // Nothing is plugged in: the generator that drives the circuit elsewhere is taken off its input.
            const schematic::Schematic bare = held.schematic.with(schematic::Open{{held.source, 0}});
            schematic::Circuit circuit = schematic::circuitOf(bare, schematic::Electrodes::WithoutCapacitance);
            System system = assemble(circuit.netlist);
            Solved& c =
                channels.emplace_back(Solved{std::move(held), std::move(circuit), std::move(system), std::nullopt});
            if (const auto op = operatingPoint(c.system)) c.signal.emplace(c.system, op->portVolts);
        }
    }
    const Build& b;
    const Catalogue& catalogue;
    const Miswiring& wiring;
    std::deque<Solved> channels; // SmallSignal may keep its system: no address changes
};

} // namespace

std::vector<double> humReadings(const Build& b, const Catalogue& catalogue, const Conditions& c,
                                const SteadyOptions& options) {
    std::vector<double> out(b.channels.size(), unknown);
    SteadyOptions o = options;
    o.cycle = true; // with the ripple's harmonics
    const auto steady = solveSteady(b, catalogue, c, o);
    if (!steady) return out;
    Figures f;
    f.nominal = *steady;
    for (const wires::ChannelHum& h : wires::wireFigures(b, catalogue, f).hum.channels) out[h.channel] = h.rms;
    return out;
}

std::vector<double> trueReadings(const Build& b, const Steady& s, const std::vector<TestPoint>& points) {
    std::vector<double> out(points.size(), unknown);
    for (std::size_t k = 0; k < points.size(); ++k) {
        if (!isValvePoint(points[k].kind)) {
            out[k] = ofSupply(b, s, points[k]);
            continue;
        }
        for (const ChannelPoint& channel : s.channels)
            for (const ValvePoint& v : channel.valves)
                if (points[k].index == v.bottle && points[k].section == v.section) out[k] = voltsAt(v, points[k].kind);
    }
    return out;
}

std::vector<double> readings(const Build& b, const Catalogue& catalogue, const Steady& s,
                             const std::vector<TestPoint>& points) {
    std::vector<double> out = trueReadings(b, s, points);
    const ChannelSupply supply = supplyOf(b, s);
    for (std::size_t channel = 0; channel < s.channels.size(); ++channel) {
        std::optional<HeldChannel> held;
        std::optional<schematic::Circuit> circuit;
        std::optional<System> system;
        std::optional<SmallSignal> signal;
        for (const ValvePoint& v : s.channels[channel].valves)
            for (std::size_t k = 0; k < points.size(); ++k) {
                if (!isValvePoint(points[k].kind) || points[k].index != v.bottle || points[k].section != v.section)
                    continue;
                if (!held) {
                    held = heldChannel(b, catalogue, channel, supply);
                    circuit = schematic::circuitOf(held->schematic, schematic::Electrodes::WithoutCapacitance);
                    system = assemble(circuit->netlist);
                    if (const auto op = operatingPoint(*system)) signal.emplace(*system, op->portVolts);
                }
                if (!signal) continue;
                for (const schematic::ValveUse& use : held->valves) {
                    if (use.bottle != v.bottle || use.section != v.section) continue;
                    const schematic::NetId net = netOf(use, points[k].kind);
                    if (net.index <= 0) continue;
                    const double ohms =
                        std::abs(signal->impedance(circuit->nodes[static_cast<std::size_t>(net.index)], 0));
                    if (std::isfinite(ohms)) out[k] *= b.meter.inputResistance / (b.meter.inputResistance + ohms);
                }
            }
    }
    return out;
}

double reading(const Build& b, const Catalogue& catalogue, const Steady& s, const TestPoint& point) {
    return readings(b, catalogue, s, {point})[0];
}

namespace {

double coldOhms(const Build& b, const Catalogue& catalogue, const TestPoint& point) {
    ColdCircuit cold(b, catalogue);
    Netlist& n = cold.n;
    Node red = ground, black = ground;
    switch (point.kind) {
    case PointKind::Earth:
        // 0.25 m of 1.5 mm2 copper (0.01724e-6 ohm m) from the inlet to the bolt, a crimp and a bolted lug of 3 mohm
        // each.
        red = n.node("earth pin");
        n.add(Resistor{red, ground, 0.01724e-6 * 0.25 / 1.5e-6 + 2 * 3e-3});
        break;
    case PointKind::LineChassis: red = cold.line; break;
    case PointKind::NeutralChassis: red = cold.neutral; break;
    case PointKind::PrimaryOhms: red = cold.line, black = cold.neutral; break;
    case PointKind::PrimarySecondary: red = cold.line, black = cold.legA; break;
    case PointKind::LegOhms:
        red = part(point) == WindingPart::LegB ? cold.legB : cold.legA;
        if (floatingWinding(b.supply.connection) || part(point) == WindingPart::Ends) black = cold.legB;
        break;
    case PointKind::WindingChassis: red = cold.legA; break;
    case PointKind::RailOhms: red = cold.rails[0]; break;
    case PointKind::HeaterChassis: red = cold.heaters[point.index]; break;
    case PointKind::LoadOhms:
        red = n.node("load");
        if (const ResistorPart* load = schematic::loadResistor(b.channels[point.index].stages))
            n.add(Resistor{red, ground, load->resistance});
        break;
    default: return unknown;
    }
    n.add(CurrentSource{black, red, {testAmps}});
    const auto op = operatingPoint(assemble(n));
    return op ? (op->volts(red) - op->volts(black)) / testAmps : unknown;
}

} // namespace

std::vector<double> coldReadings(const Build& b, const Catalogue& catalogue, const std::vector<TestPoint>& points,
                                 const Miswiring& wiring) {
    SocketOhms sockets(b, catalogue, wiring);
    std::vector<double> out;
    out.reserve(points.size());
    for (const TestPoint& p : points)
        out.push_back(p.kind == PointKind::Held                                           ? 0
                      : p.kind == PointKind::GridOhms || p.kind == PointKind::CathodeOhms ? sockets.at(p)
                                                                                          : coldOhms(b, catalogue, p));
    return out;
}

double coldReading(const Build& b, const Catalogue& catalogue, const TestPoint& point) {
    return coldReadings(b, catalogue, {point})[0];
}

} // namespace ember::procedure
