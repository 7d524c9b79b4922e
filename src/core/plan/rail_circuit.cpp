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
    const PowerTransformer t = asComputed(b.transformer);
    const RectifierType& type = *catalogue.rectifier(b.supply.rectifier.type);
    Node middle = ground;
    std::map<std::size_t, TapEnds> taps;
    if (powered) {
        const Connection connection = b.supply.connection;
        // The primary's copper as the whole leg and each tap with it see it: Rp n1 n2 between a stretch and the leg.
        auto stretches = stretchesOf(b.supply, t);
        for (Stretch& s : stretches) {
            s.ohms += t.primaryResistance * s.emf * t.plateVolts / (t.primaryVolts * t.primaryVolts);
            s.emf *= mainsVolts / t.primaryVolts;
        }
        const Waveform ofOneVolt = mainsWave(1, b.mains.frequency, b.mains.crest);
        EmfLegs legs = addLegs(n, connection, stretches, ofOneVolt);
        c.sources = std::move(legs.sources);
        const auto order = tapsOf(b.supply);
        for (std::size_t k = 0; k < order.size(); ++k) {
            if (connection == Connection::CentreTapped) {
                taps[order[k]] = legs.taps[k];
                continue;
            }
            const Section tap = asComputed(b.supply.sections[order[k]]);
            const double ratio = tap.volts / t.primaryVolts;
            const EmfLegs own =
                addLegs(n, Connection::Bridge,
                        {{mainsVolts * ratio, tap.resistance + t.primaryResistance * ratio * ratio}}, ofOneVolt);
            c.sources.insert(c.sources.end(), own.sources.begin(), own.sources.end());
            taps[order[k]] = {own.a, own.b};
        }
        c.rectifiers = addRectifiers(n, connection,
                                     {type, *catalogue.rectifier("silicon"), 1, b.supply.rectifier.inSeries,
                                      b.supply.rectifier.legResistance},
                                     legs.a, legs.b, c.rails[0])
                           .devices;
        if (connection == Connection::Doubler) middle = legs.b;
    }
    c.sections = addChain(n, b.supply, c.rails, middle, taps, tapRectifiers(catalogue, {}));
    for (const RailLoad& l : loads) {
        Node foot = ground;
        if (l.cutOff > 0) {
            foot = n.node("cut-off");
            n.add(VoltageSource{foot, ground, {l.cutOff}});
        }
        const double above = l.volts - l.cutOff;
        c.loads.push_back(
            n.add(NonlinearDevice{{c.rails[l.node], foot}, VacuumLaw{l.amps / (above * std::sqrt(above))}}));
    }
    return c;
}

void startAt(const Build& b, const Steady& steady, const System& sys, const RailCircuit& c, State& state) {
    for (std::size_t k = 0; k < c.sections.size(); ++k) {
        const Section section = asComputed(b.supply.sections[k]);
        if (section.kind == SectionKind::Capacitor) {
            const double volts = steady.nodes[static_cast<std::size_t>(nodeOfSection(b.supply, k) - 1)].mean;
            for (const DeviceId d : c.sections[k])
                state.y[sys.stateOf[static_cast<std::size_t>(d)]] = volts / static_cast<double>(c.sections[k].size());
        } else if (section.kind == SectionKind::Choke) {
            state.y[sys.stateOf[static_cast<std::size_t>(c.sections[k][0])]] =
                chokeState(chokeOf(section), steady.chokeAmps.at(section.id));
        }
    }
}

} // namespace ember::plan
