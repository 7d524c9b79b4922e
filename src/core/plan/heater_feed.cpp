#include "heater_feed.h"

#include "supply_circuit.h"

#include <algorithm>
#include <cmath>

namespace ember::plan {

using namespace circuit;

namespace {

constexpr double secondaryInsulation = 1e8; // [ohm] a dry winding to ground, at least
constexpr double regulatorOutput = 0.01;    // [ohm] typical of a three-terminal regulator in regulation

double fixedDrop(const HeaterDc& dc) {
    return dc.regulator == HeaterRegulator::Linear ? dc.dropout * 2 / 3 : 0;
}

void addRectified(Netlist& n, Transformer& iron, const HeaterWinding& w, const HeaterWinding* other,
                  const Catalogue& catalogue, HeaterFeed& feed) {
    const RectifierType& diode = *catalogue.rectifier(w.dc.diode);
    const auto winding = [&](Node a, Node b, double volts, double ohms) {
        feed.windings.push_back(iron.windings.size());
        iron.windings.push_back({a, b, volts, std::max(1e-3, ohms)});
    };
    const auto lead = [&](Node from, const char* name) {
        if (!(w.legResistance > 0)) return from;
        const Node behind = n.node(name + w.id);
        n.add(Resistor{from, behind, w.legResistance});
        return behind;
    };
    feed.reservoir = n.node("heater reservoir " + w.id);
    feed.diodeOhms = diode.seriesOhms;
    Node a = n.node("heater winding a " + w.id), z = n.node("heater winding b " + w.id);
    const bool bridge = w.rectifier == HeaterRectifier::Bridge;
    if (bridge) {
        Node end = z;
        if (other) {
            end = n.node("heater winding between " + w.id);
            const Node from = other->opposed ? z : end, to = other->opposed ? end : z;
            iron.windings.push_back({from, to, other->volts, other->resistance});
        }
        winding(a, end, w.volts, w.resistance);
        n.add(Resistor{a, ground, secondaryInsulation});
    } else {
        winding(a, ground, w.volts / 2, w.resistance / 2);
        winding(ground, z, w.volts / 2, w.resistance / 2);
    }
    a = lead(a, "heater lead a ");
    z = lead(z, "heater lead b ");
    for (const Node end : {a, z}) feed.diodes.push_back(addRectifier(n, diode, 1, 1, end, feed.reservoir));
    if (bridge)
        for (const Node end : {a, z}) feed.diodes.push_back(addRectifier(n, diode, 1, 1, ground, end));
    feed.capacitor = n.add(Capacitor{feed.reservoir, ground, w.dc.reservoir, w.dc.reservoirEsr});
    feed.input = feed.reservoir;
    if (w.dc.series > 0) {
        feed.input = n.node("heater filter " + w.id);
        n.add(Resistor{feed.reservoir, feed.input, w.dc.series});
        if (w.dc.second > 0) n.add(Capacitor{feed.input, ground, w.dc.second, w.dc.reservoirEsr});
    }
    feed.out = feed.input;
    if (w.dc.regulator == HeaterRegulator::None) return;
    feed.out = n.node("heater " + w.id);
    const PortLaw law = regulatorLaw(w.dc);
    feed.regulator =
        n.add(w.dc.regulator == HeaterRegulator::CurrentSource ? NonlinearDevice{{feed.input, feed.out}, law}
                                                               : NonlinearDevice{{feed.input, ground, feed.out}, law});
}

} // namespace

circuit::PortLaw regulatorLaw(const HeaterDc& dc) {
    if (dc.regulator == HeaterRegulator::CurrentSource)
        return SinkLaw{dc.amps, dc.dropout / std::log(100.0)}; // a hundredth is missing at the dropout
    const double fixed = fixedDrop(dc);
    return RegulatorLaw{dc.volts, regulatorOutput, fixed, (dc.dropout - fixed) / dc.mostAmps, dc.mostAmps};
}

double dropoutAt(const HeaterDc& dc, double amps) {
    if (dc.regulator == HeaterRegulator::CurrentSource) return dc.dropout;
    return fixedDrop(dc) + (dc.dropout - fixedDrop(dc)) * amps / dc.mostAmps;
}

double feedOhms(const PowerTransformer& t, const HeaterWinding& w) {
    const HeaterWinding* other = inSeriesWith(t, w);
    return w.resistance + (other ? other->resistance : 0) + 2 * w.legResistance;
}

HeaterFeed addHeaterFeed(Netlist& n, Transformer& iron, const PowerTransformer& t, std::size_t k,
                         const Catalogue& catalogue) {
    HeaterFeed feed;
    const HeaterWinding& w = t.heaters[k];
    if (mainWindingOf(t, w)) return feed;
    const HeaterWinding* other = inSeriesWith(t, w);
    if (w.rectified()) {
        addRectified(n, iron, w, other, catalogue, feed);
        return feed;
    }
    feed.out = n.node("heater " + w.id);
    Node top = feed.out, end = ground;
    if (w.legResistance > 0) {
        top = n.node("heater winding " + w.id);
        n.add(Resistor{top, feed.out, 2 * w.legResistance});
    }
    if (other) {
        end = n.node("heater winding between " + w.id);
        const Node from = other->opposed ? ground : end, to = other->opposed ? end : ground;
        iron.windings.push_back({from, to, other->volts, other->resistance});
    }
    feed.windings.push_back(iron.windings.size());
    iron.windings.push_back({top, end, w.volts, w.resistance});
    return feed;
}

} // namespace ember::plan
