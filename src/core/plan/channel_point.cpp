#include "channel_point.h"

#include "steady.h"

#include <cmath>

namespace ember::plan {

using namespace circuit;

double ChannelPoint::drawn(int node) const {
    double amps = 0;
    for (const NodeDraw& d : draws)
        if (d.node == node) amps += d.amps;
    return amps;
}

double PowerFigures::referenceVolts() const {
    return line() ? 1 : std::sqrt(load);
}

double PowerFigures::clipDraw(int node) const {
    double amps = 0;
    for (const NodeDraw& d : clipMore)
        if (d.node == node) amps += d.amps;
    return amps;
}

double PowerFigures::clipScreens() const {
    double amps = 0;
    for (const NodeDraw& d : clipMore)
        if (d.screens) amps += d.amps;
    return amps;
}

ChannelDc::ChannelDc(const Build& b, const Catalogue& catalogue, std::size_t channel, const Miswiring& wiring)
    : name(b.channels[channel].name),
      held(miswired(schematic::channelSchematic(b, catalogue, channel), wiring)),
      circuit(schematic::circuitOf(held.schematic, schematic::Electrodes::WithoutCapacitance)),
      system(std::make_unique<System>(assemble(circuit.netlist))),
      solver(*system) {
    for (const schematic::ValveUse& v : held.valves) ownEmission.push_back(b.bottles[v.bottle].emission);
}

Expected<ChannelPoint> ChannelDc::at(const ChannelSupply& supply) {
    const System& sys = *system;
    const auto device = [&](schematic::PartId part, int k = 0) {
        return circuit.devices[static_cast<std::size_t>(part.index)][static_cast<std::size_t>(k)];
    };
    const auto of = [](const std::vector<double>& values, std::size_t k, double otherwise) {
        return k < values.size() ? values[k] : otherwise;
    };
    for (const schematic::HeldNode& n : held.nodes)
        solver.setSource(device(n.source), of(supply.nodes, static_cast<std::size_t>(n.node - 1), 0));
    for (const schematic::HeldLine& l : held.lines)
        solver.setSource(device(l.source), of(supply.wipers, l.adjuster, 0));
    for (std::size_t k = 0; k < held.valves.size(); ++k) {
        const schematic::ValveUse& v = held.valves[k];
        solver.ports().setEmission(sys.portOf[static_cast<std::size_t>(device(v.part, v.system))],
                                   ownEmission[k] * of(supply.emission, v.bottle, 1));
    }
    const auto op = solver.solve();
    if (!op) return Problem{name, op.problem().sentence};
    const auto volts = [&](schematic::NetId net) {
        return net.index <= 0 ? 0 : op->volts(circuit.nodes[static_cast<std::size_t>(net.index)]);
    };
    ChannelPoint p;
    p.valves.reserve(held.valves.size());
    for (const schematic::ValveUse& v : held.valves) {
        const schematic::Part& part = held.schematic[v.part];
        const schematic::ValveSection& section =
            std::get<schematic::Bottle>(part.element).sections[static_cast<std::size_t>(v.system)];
        // As it is wired now: a mistake may have put a pin elsewhere.
        const auto pin = [&](std::size_t k) { return volts(part.pins[static_cast<std::size_t>(section.pins[k])].net); };
        const bool pentode = section.pins.size() == 4;
        const DeviceId d = device(v.part, v.system);
        ValvePoint x;
        x.bottle = v.bottle, x.section = v.section, x.stage = v.stage, x.at = v.at, x.duty = v.duty;
        x.grid = pin(0);
        if (pentode) x.screen = pin(1);
        x.plate = pin(pentode ? 2 : 1);
        x.cathode = pin(pentode ? 3 : 2);
        x.gridAmps = op->amps(sys, d, 0);
        if (pentode) x.screenAmps = op->amps(sys, d, 1);
        x.plateAmps = op->amps(sys, d, pentode ? 2 : 1);
        const auto ohms = [&](schematic::PartId id) {
            const auto* r = id.index < 0 ? nullptr : std::get_if<schematic::Resistance>(&held.schematic[id].element);
            return r ? r->ohms : 0;
        };
        x.senseOhms = ohms(v.sense);
        x.foot = volts(v.foot);
        x.selfBiasOhms = ohms(v.selfBias);
        x.sharing = v.sharing;
        x.adjuster = v.adjuster;
        p.valves.push_back(std::move(x));
    }
    // A source's branch current runs into it; what the channel draws is the opposite.
    for (const schematic::HeldNode& n : held.nodes)
        p.draws.push_back({n.node, n.screens, -op->x[sys.branchOf[static_cast<std::size_t>(device(n.source))]]});
    p.output = volts(held.output);
    return p;
}

double Steady::heaterReference(const HeaterWinding& w) const {
    const auto feed = heaterFeeds.find(w.id);
    return feed != heaterFeeds.end() && std::isfinite(feed->second.reference) ? feed->second.reference
                                                                              : w.referenceVolts;
}

ChannelSupply supplyOf(const Build& b, const Steady& s) {
    ChannelSupply out;
    out.nodes.reserve(s.nodes.size());
    for (const NodeFigures& n : s.nodes) out.nodes.push_back(n.mean);
    out.wipers = s.wipers;
    out.emission = bottleEmissions(b, s.conditions, [&](std::size_t winding, const Valve& bottle) {
        const std::string& id = b.transformer.heaters[winding].id;
        for (const HeaterFigures& h : s.heaters)
            if (h.valve == bottle.type && h.winding == id && h.string == bottle.heaterString) return h.emission;
        return bottle.heaterString.empty() ? 1.0 : 0.0; // an empty socket opens its string
    });
    return out;
}

} // namespace ember::plan
