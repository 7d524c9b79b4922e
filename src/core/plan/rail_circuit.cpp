#include "rail_circuit.h"

#include "core/build/build_json.h"

#include <cmath>
#include <numbers>

namespace ember::plan {

using namespace circuit;

RailCircuit railCircuit(const Build& b, const Catalogue& catalogue, double mainsVolts, bool powered,
                        const std::vector<RailLoad>& loads) {
    RailCircuit c;
    Netlist& n = c.netlist;
    c.rails = {n.node("B+1")};
    const PowerTransformer& t = b.transformer;
    const RectifierType& type = *catalogue.rectifier(b.supply.rectifier.type);
    Node middle = ground;
    if (powered) {
        const double ratio = t.plateVolts / t.primaryVolts;
        const double ohms = t.plateResistance + t.primaryResistance * ratio * ratio;
        const Connection connection = b.supply.connection;
        EmfLegs legs = addLegs(n, connection, mainsVolts * ratio, ohms, b.mains.frequency);
        c.sources = std::move(legs.sources);
        c.rectifiers = addRectifiers(n, connection, type, *catalogue.rectifier("silicon"), 1,
                                     b.supply.rectifier.inSeries, legs.a, legs.b, c.rails[0])
                           .devices;
        if (connection == Connection::Doubler) middle = legs.b;
    }
    c.sections = addChain(n, b.supply, c.rails, middle);
    for (const RailLoad& l : loads)
        c.loads.push_back(
            n.add(NonlinearDevice{{c.rails[l.node], ground}, VacuumLaw{l.amps / (l.volts * std::sqrt(l.volts))}}));
    return c;
}

void startAt(const Build& b, const Steady& steady, const System& sys, const RailCircuit& c, State& state) {
    for (std::size_t k = 0; k < c.sections.size(); ++k) {
        const Section& section = b.supply.sections[k];
        if (section.kind == SectionKind::Capacitor) {
            const double volts = steady.nodes[static_cast<std::size_t>(nodeOfSection(b.supply, k) - 1)].mean;
            for (const DeviceId d : c.sections[k])
                state.y[sys.stateOf[static_cast<std::size_t>(d)]] = volts / static_cast<double>(c.sections[k].size());
        } else if (section.kind == SectionKind::Choke) {
            state.y[sys.stateOf[static_cast<std::size_t>(c.sections[k][0])]] = steady.chokeAmps.at(section.id);
        }
    }
}

} // namespace ember::plan
