#include "channel.h"

#include "core/quantity/letters.h"

#include <fmt/format.h>

#include <cmath>

namespace ember::schematic {

namespace {

int numberOf(const std::vector<int>& pins, std::size_t section) {
    return section < pins.size() ? pins[section] : 0;
}

/// Electrodes of one section with their pins: "plate" of a bottle of one, "plate 2" of the second of several.
void addSection(Part& p, Bottle& bottle, const ValveType& type, std::size_t section, const std::vector<NetId>& nets) {
    const bool pentode = std::holds_alternative<circuit::PentodeLaw>(type.law);
    std::vector<int> numbers{numberOf(type.pins.grid, section)};
    if (pentode) numbers.push_back(numberOf(type.pins.screen, section));
    numbers.push_back(numberOf(type.pins.plate, section));
    numbers.push_back(numberOf(type.pins.cathode, section));
    ValveSection s{type.law, {}};
    const auto& names = electrodes(type.law);
    for (std::size_t k = 0; k < names.size(); ++k) {
        s.pins.push_back(static_cast<int>(p.pins.size()));
        p.pins.push_back({type.sections > 1 ? fmt::format("{} {}", names[k], section + 1) : names[k], nets[k], numbers[k]});
    }
    bottle.sections.push_back(std::move(s));
}

class ChannelBuilder {
  public:
    ChannelBuilder(Schematic& to, const Channel& channel, std::string place, const Catalogue& c)
        : s(to),
          ch(channel),
          catalogue(c),
          at(std::move(place)) {}

    NetId signal(const std::string& name) { return s.net(name, NetKind::Signal); }

    void resistor(const ResistorPart& r, NetId a, NetId b, std::string role, const std::string& key) {
        Part p = schematic::resistor(r.id, a, b, r.resistance);
        p.tolerance = r.tolerance;
        p.ratings.watts = r.watts;
        keep(std::move(p), std::move(role), at + key + "/resistance");
    }
    void capacitor(const CapacitorPart& c, NetId a, NetId b, std::string role, const std::string& key) {
        Part p = schematic::capacitor(c.id, a, b, c.capacitance);
        p.element = Capacitance{c.capacitance, c.esr, c.leakageResistance};
        p.tolerance = c.tolerance;
        p.ratings.volts = c.volts;
        keep(std::move(p), std::move(role), at + key + "/capacitance");
    }
    void bottle(const Valve& v, const std::vector<std::vector<NetId>>& sections, double emission, std::string role,
                const std::string& key) {
        const ValveType& type = *catalogue.valve(v.type);
        Part p;
        p.id = v.id;
        Bottle b{v.type, v.emission * emission, {}};
        for (std::size_t k = 0; k < sections.size(); ++k) addSection(p, b, type, k, sections[k]);
        for (const int heater : type.pins.heater) p.pins.push_back({"heater", {}, heater});
        p.element = std::move(b);
        p.tolerance = v.tolerance;
        p.ratings = {type.limits.plateVolts, type.limits.plateWatts, type.limits.cathodeAmps};
        keep(std::move(p), std::move(role), at + key + "/emission");
    }
    void keep(Part p, std::string role, std::string place) {
        p.role = std::move(role);
        p.channel = ch.id;
        p.place = std::move(place);
        s.add(std::move(p));
    }

    Schematic& s;
    const Channel& ch;
    const Catalogue& catalogue;
    std::string at;
};

struct Side {
    NetId grid, screen, plate, cathode;
};

/// One output valve with its coupling, leak, stopper, screen and sense resistors.
Side addSide(ChannelBuilder& b, bool first, NetId from, NetId screens, NetId bias, NetId plate, double emission) {
    const OutputPair& pair = b.ch.pair;
    const Valve& v = first ? pair.a : pair.b;
    const std::string name = upper(v.id), side = first ? "A" : "B";
    const Side n{b.signal(name + " grid"), b.signal(name + " screen"), plate, b.signal(name + " cathode")};
    const NetId junction = b.signal(name + " grid leak");
    b.capacitor(first ? pair.couplingA : pair.couplingB, from, junction, "coupling to " + name, "/pair/coupling" + side);
    b.resistor(first ? pair.gridLeakA : pair.gridLeakB, junction, bias, "grid leak of " + name, "/pair/gridLeak" + side);
    b.resistor(first ? pair.stopperA : pair.stopperB, junction, n.grid, "grid stopper of " + name, "/pair/stopper" + side);
    b.resistor(first ? pair.screenA : pair.screenB, screens, n.screen, "screen resistor of " + name,
               "/pair/screen" + side);
    b.resistor(first ? pair.senseA : pair.senseB, n.cathode, Schematic::ground, "sense resistor of " + name,
               "/pair/sense" + side);
    b.bottle(v, {{n.grid, n.screen, n.plate, n.cathode}}, emission, "output valve", first ? "/pair/a" : "/pair/b");
    return n;
}

} // namespace

std::string inputNet(const Channel& ch) {
    return ch.name + " input";
}
std::string outputNet(const Channel& ch) {
    return ch.name + " output";
}

void addChannel(Schematic& s, const Channel& ch, const std::string& place, const Catalogue& catalogue,
                const ChannelNets& nets, const ChannelEmissions& emissions) {
    ChannelBuilder b(s, ch, place, catalogue);
    const std::string v = upper(ch.small.id);
    const NetId input = b.signal(inputNet(ch)), plate1 = b.signal(v + " plate 1"), cathode1 = b.signal(v + " cathode 1"),
                plate2 = b.signal(v + " plate 2"), cathode2 = b.signal(v + " cathode 2"), ground = Schematic::ground;
    const VoltageStage& stage = ch.voltageStage;
    b.resistor(stage.gridLeak, input, ground, "grid leak of " + v, "/voltageStage/gridLeak");
    b.resistor(stage.plate, nets.small, plate1, "plate resistor of " + v + ", first section", "/voltageStage/plate");
    b.resistor(stage.cathode, cathode1, ground, "cathode resistor of " + v + ", first section", "/voltageStage/cathode");
    b.capacitor(stage.bypass, cathode1, ground, "cathode bypass of " + v, "/voltageStage/bypass");
    b.resistor(ch.splitLoad.plate, nets.small, plate2, "split load's plate resistor", "/splitLoad/plate");
    b.resistor(ch.splitLoad.cathode, cathode2, ground, "split load's cathode resistor", "/splitLoad/cathode");
    b.bottle(ch.small, {{input, plate1, cathode1}, {plate1, plate2, cathode2}}, emissions.small,
             "voltage stage and split load", "/small");

    const NetId plateA = b.signal(upper(ch.pair.a.id) + " plate"), plateB = b.signal(upper(ch.pair.b.id) + " plate");
    addSide(b, true, plate2, nets.screens, nets.biasA, plateA, emissions.outputs);
    addSide(b, false, cathode2, nets.screens, nets.biasB, plateB, emissions.outputs);

    // Halves from the centre, secondary to the load. Leakage is split over the two halves.
    const OutputTransformer& t = ch.pair.transformer;
    const NetId output = b.signal(outputNet(ch));
    const double half = std::sqrt(t.primaryImpedance / t.loadImpedance) / 2;
    Part iron;
    iron.id = t.id;
    iron.pins = {{"centre", nets.plates}, {"plate a", plateA}, {"plate b", plateB}, {"secondary", output},
                 {"secondary, ground", ground}};
    iron.element = Windings{t.primaryInductance / 4,
                            {{0, 1, half, t.primaryResistanceA, t.leakageInductance / 4},
                             {2, 0, half, t.primaryResistanceB, t.leakageInductance / 4},
                             {3, 4, 1, t.secondaryResistance, 0}}};
    iron.ratings.watts = t.watts;
    b.keep(std::move(iron), "output transformer", b.at + "/pair/transformer/primaryInductance");
    Part load = resistor("load-" + ch.id, output, ground, ch.pair.load);
    b.keep(std::move(load), "load", b.at + "/pair/load");
}

} // namespace ember::schematic
