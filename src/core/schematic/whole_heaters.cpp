#include "whole_heaters.h"

#include "path_schematic.h"

#include <fmt/format.h>

#include <algorithm>

namespace ember::schematic {

namespace {

class HeaterParts {
  public:
    HeaterParts(Schematic& to, const Build& build, const Catalogue& types, Part& power, const HeaterWinding& winding,
                const PutPart& take)
        : s(to),
          b(build),
          catalogue(types),
          iron(power),
          w(winding),
          put(take),
          a(s.net(heaterNet(w.id, 'a'), NetKind::Heater)),
          z(s.net(heaterNet(w.id, 'b'), NetKind::Heater)) {}

    void add() {
        const bool plain = !w.rectified() && !(w.legResistance > 0);
        const NetId one = plain ? a : tags("1"), two = plain ? z : tags("2");
        coils(one, two);
        if (plain)
            centre(reference());
        else if (w.rectified())
            rectified(lead(one, "1", {}), lead(two, "2", {}));
        else {
            (void)lead(one, "1", a);
            (void)lead(two, "2", z);
            centre(reference());
        }
        if (w.feeds == "signal") tie();
    }

  private:
    [[nodiscard]] NetId tags(const char* which) const {
        return s.net(fmt::format("heater winding {} {}", w.id, which), NetKind::Winding);
    }
    PartId part(const std::string& suffix, Element element, std::vector<Pin> pins, const char* role,
                Serves serves = Serves::HeaterSupply) const {
        Part p;
        p.id = w.id + "-" + suffix;
        p.element = std::move(element);
        p.pins = std::move(pins);
        p.role = role;
        return put(serves, std::move(p));
    }
    void coil(const std::string& id, NetId from, NetId to, double volts, double ohms) const {
        const int at = static_cast<int>(iron.pins.size());
        iron.pins.push_back({id + " 1", from});
        iron.pins.push_back({id + " 2", to});
        std::get<Windings>(iron.element).coils.push_back({at, at + 1, volts, ohms});
    }
    /// End 2 of this winding meets end 2 of one against it, end 1 of one that adds to it.
    void coils(NetId one, NetId two) const {
        const HeaterWinding* other = inSeriesWith(b.transformer, w);
        if (!other) return coil(w.id, one, two, w.volts, w.resistance);
        const NetId between = s.net(fmt::format("heater winding {} to {}", w.id, other->id), NetKind::Winding);
        coil(w.id, one, between, w.volts, w.resistance);
        const bool opposed = other->opposed;
        coil(other->id, opposed ? two : between, opposed ? between : two, other->volts, other->resistance);
    }
    /// A resistor in a lead; without one the lead itself. `to`: the heaters' net, or none for one of its own.
    [[nodiscard]] NetId lead(NetId from, const char* which, NetId to) const {
        if (!(w.legResistance > 0)) return from;
        if (to.index < 0) to = s.net(fmt::format("heater lead {} {}", w.id, which), NetKind::Winding);
        part(fmt::format("leg{}", which), Resistance{w.legResistance}, {{"1", from}, {"2", to}}, "heater lead");
        return to;
    }
    void rectified(NetId one, NetId two) const {
        const HeaterDc& d = w.dc;
        const bool regulated = d.regulator != HeaterRegulator::None, filtered = d.series > 0;
        const NetId reservoir = regulated || filtered ? s.net("heater reservoir " + w.id, NetKind::Winding) : a,
                    input = !filtered   ? reservoir
                            : regulated ? s.net("heater filter " + w.id, NetKind::Winding)
                                        : a;
        // First what the heaters' wires begin at.
        if (regulated)
            part("reg", Connector{}, {{"input", input}, {"reference", z}, {"output", a}}, "heater regulator");
        const auto capacitor = [&](const char* suffix, double farads, NetId at) {
            part(suffix, Capacitance{farads, d.reservoirEsr}, {{"+", at}, {"-", z}}, "heater supply");
        };
        if (filtered && d.second > 0) capacitor("c2", d.second, input);
        capacitor("c1", d.reservoir, reservoir);
        if (filtered) part("r", Resistance{d.series}, {{"1", reservoir}, {"2", input}}, "heater filter");
        const RectifierType* type = catalogue.rectifier(d.diode);
        const Diode law = type ? Diode{type->junction, type->seriesOhms} : Diode{};
        const auto diode = [&](const char* suffix, NetId anode, NetId cathode) {
            part(suffix, law, {{"anode", anode}, {"cathode", cathode}}, "heater rectifier");
        };
        diode("d1", one, reservoir);
        diode("d2", two, reservoir);
        if (w.rectifier == HeaterRectifier::Bridge) {
            diode("d3", z, one);
            diode("d4", z, two);
        } else {
            iron.pins.push_back({w.id + " centre", z});
        }
    }
    [[nodiscard]] NetId reference() const {
        return w.referenceVolts != 0 || w.referenceNode > 0 ? s.net("heater reference " + w.id, NetKind::Bias)
                                                            : Schematic::ground;
    }
    void centre(NetId at) const {
        if (w.feeds == "signal" && w.reference == HeaterReference::CentreTap)
            iron.pins.push_back({w.id + " centre", at});
    }
    void tie() const {
        const NetId at = reference();
        const auto to = [&](const char* suffix, Element element, std::vector<Pin> pins) {
            part(suffix, std::move(element), std::move(pins), "heater reference", Serves::HeaterReference);
        };
        if (w.reference == HeaterReference::Resistors) {
            to("r1", Resistance{w.referenceOhms}, {{"1", a}, {"2", at}});
            to("r2", Resistance{w.referenceOhms}, {{"1", z}, {"2", at}});
        } else if (w.reference == HeaterReference::Potentiometer) {
            to("pot", Track{w.referenceOhms, 0.5}, {{"clockwise", a}, {"wiper", at}, {"other end", z}});
        } else if (w.reference == HeaterReference::OneSide ||
                   (w.rectifier == HeaterRectifier::FullWave && w.reference == HeaterReference::CentreTap)) {
            to("link", Resistance{0}, {{"1", z}, {"2", at}});
        }
        if (w.referenceNode < 1) return;
        to("lift1", Resistance{w.lift.top}, {{"1", s.net(nodeNet(w.referenceNode), NetKind::HighVoltage)}, {"2", at}});
        to("lift2", Resistance{w.lift.bottom}, {{"1", at}, {"2", Schematic::ground}});
        if (w.lift.capacitance > 0) to("liftc", Capacitance{w.lift.capacitance}, {{"+", at}, {"-", Schematic::ground}});
    }

    Schematic& s;
    const Build& b;
    const Catalogue& catalogue;
    Part& iron;
    const HeaterWinding& w;
    const PutPart& put;
    NetId a, z;
};

} // namespace

void addHeaterWindings(Schematic& s, const Build& b, const Catalogue& catalogue, Part& iron, const PutPart& put) {
    for (const HeaterWinding& w : b.transformer.heaters)
        if (!mainWindingOf(b.transformer, w)) HeaterParts(s, b, catalogue, iron, w, put).add();
}

std::pair<std::string, std::string> heaterNetsOf(const Build& b, const Valve& v, std::size_t winding) {
    const std::string& id = b.transformer.heaters[winding].id;
    const auto string = heaterStringOf(b, v, winding);
    const auto joint = [&](std::size_t at) { return fmt::format("heater string {} {}", v.heaterString, at); };
    return {string.place == 0 ? heaterNet(id, 'a') : joint(string.place),
            string.place + 1 == string.length ? heaterNet(id, 'b') : joint(string.place + 1)};
}

void addHeaterPins(Schematic& s, const Build& b, const Catalogue& catalogue) {
    for (const Valve& v : b.bottles) {
        const auto part = s.find(v.id);
        const ValveType* type = catalogue.valve(v.type);
        const auto winding = heaterWindingOf(b, v);
        if (!part || !type || !winding) continue;
        const auto [first, last] = heaterNetsOf(b, v, *winding);
        const auto net = [&s, &first = first, &last = last](char side) {
            const std::string& name = side == 'a' ? first : last;
            return s.net(name, name.starts_with("heater string") ? NetKind::Winding : NetKind::Heater);
        };
        // With a tap: the way whose volts are nearest to what it gets.
        std::vector<int> one, other;
        if (type->heaterPins.size() == 2) one = {type->heaterPins[0]}, other = {type->heaterPins[1]};
        const Heater wired = type->heater.wiredFor(heaterVoltsOf(b, v, *winding));
        for (const HeaterWiring& x : type->heater.wirings)
            if (x.volts == wired.volts && !x.one.empty()) one = x.one, other = x.other;
        Part& p = s.edit(*part);
        if (one.empty()) { // pins that the catalogue does not know are still two ends to wire
            p.pins.push_back({"heater 1", net('a')});
            p.pins.push_back({"heater 2", net('b')});
            continue;
        }
        for (const auto& [pins, side] : {std::pair{&one, 'a'}, {&other, 'b'}})
            for (const int number : *pins) {
                bool found = false;
                for (Pin& pin : p.pins)
                    if (pin.number == number && pin.name == "heater") pin.net = net(side), found = true;
                if (!found) p.pins.push_back({"heater", net(side), number});
            }
    }
}

} // namespace ember::schematic
