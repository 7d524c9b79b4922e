#include "schematic.h"

#include "core/base/overloaded.h"

#include <fmt/format.h>

#include <algorithm>
#include <numeric>

namespace ember::schematic {

namespace {

/// Which nets hang together for direct current: resistors, inductors, windings, sources and what flows from a valve's
/// plate to its cathode join them.
class DcPaths {
  public:
    explicit DcPaths(const Schematic& s) : group(s.nets().size()) {
        std::iota(group.begin(), group.end(), 0);
        for (const Part& p : s.parts()) {
            const auto join = [&](int a, int b) {
                unite(p.pins[static_cast<std::size_t>(a)].net, p.pins[static_cast<std::size_t>(b)].net);
            };
            std::visit(Overloaded{[&](const Resistance&) { join(0, 1); }, [&](const Inductance&) { join(0, 1); },
                                  [&](const Track&) { join(0, 1), join(1, 2); },
                                  [&](const CurrentSink&) { join(0, 1); }, [&](const Diode&) { join(0, 1); },
                                  [&](const Zener&) { join(0, 1); }, [&](const Voltage&) { join(0, 1); },
                                  [&](const Inverter&) { unite(p.pins[1].net, Schematic::ground); },
                                  [](const Connector&) {},
                                  [&](const Contacts& c) {
                                      for (int k = 0; k < c.poles; ++k) join(2 * k, 2 * k + 1);
                                  },
                                  [&](const Windings& w) {
                                      for (const Coil& c : w.coils) join(c.a, c.b);
                                  },
                                  [&](const Capacitance& c) {
                                      if (c.leakageOhms > 0) join(0, 1);
                                  },
                                  [&](const Bottle& b) {
                                      for (const ValveSection& section : b.sections)
                                          join(section.pins[section.pins.size() - 2], section.pins.back());
                                  }},
                       p.element);
        }
    }
    [[nodiscard]] bool grounded(NetId n) { return root(n.index) == root(0); }

  private:
    int root(int k) {
        while (group[static_cast<std::size_t>(k)] != k) k = group[static_cast<std::size_t>(k)];
        return k;
    }
    void unite(NetId a, NetId b) {
        if (a.index >= 0 && b.index >= 0) group[static_cast<std::size_t>(root(a.index))] = root(b.index);
    }
    std::vector<int> group;
};

} // namespace

Schematic::Schematic() : netList{{"ground", NetKind::Return}} {}

NetId Schematic::net(std::string_view name, NetKind kind) {
    if (const auto found = findNet(name)) return *found;
    netList.push_back({std::string(name), kind});
    return {static_cast<int>(netList.size()) - 1};
}

PartId Schematic::add(Part part) {
    all.push_back(std::move(part));
    return {static_cast<int>(all.size()) - 1};
}

std::optional<PartId> Schematic::find(std::string_view id) const {
    for (std::size_t k = 0; k < all.size(); ++k)
        if (all[k].id == id) return PartId{static_cast<int>(k)};
    return std::nullopt;
}

std::optional<NetId> Schematic::findNet(std::string_view name) const {
    for (std::size_t k = 0; k < netList.size(); ++k)
        if (netList[k].name == name) return NetId{static_cast<int>(k)};
    return std::nullopt;
}

std::optional<PinId> Schematic::pin(std::string_view part, std::string_view wanted) const {
    const auto at = find(part);
    if (!at) return std::nullopt;
    const auto& pins = (*this)[*at].pins;
    for (std::size_t k = 0; k < pins.size(); ++k)
        if (pins[k].name == wanted || (pins[k].number > 0 && std::to_string(pins[k].number) == wanted))
            return PinId{*at, static_cast<int>(k)};
    return std::nullopt;
}

Schematic Schematic::with(const Variation& variation) const {
    Schematic out = *this;
    const auto pinOf = [&](PinId id) -> Pin& {
        return out.all[static_cast<std::size_t>(id.part.index)].pins[static_cast<std::size_t>(id.pin)];
    };
    const auto open = [&](PinId id) {
        const std::string name = fmt::format("{} {}, open", out[id.part].id, pinOf(id).name);
        pinOf(id).net = out.net(name, NetKind::Signal);
    };
    std::visit(
        Overloaded{[&](const Value& v) { out.set(v.part, v.value); }, [&](const Open& o) { open(o.pin); },
                   [&](const Leak& l) { out.add(resistor(fmt::format("leak {}", out.all.size()), l.a, l.b, l.ohms)); },
                   [&](const Swapped& s) { std::swap(pinOf(s.a).net, pinOf(s.b).net); },
                   [&](const OtherLaws& o) {
                       auto& bottle = std::get<Bottle>(out.all[static_cast<std::size_t>(o.part.index)].element);
                       for (std::size_t k = 0; k < std::min(bottle.sections.size(), o.laws.size()); ++k)
                           if (o.laws[k].index() == bottle.sections[k].law.index()) bottle.sections[k].law = o.laws[k];
                   },
                   [&](const Reversed& r) {
                       Coil& coil = std::get<Windings>(out.all[static_cast<std::size_t>(r.part.index)].element)
                                        .coils[static_cast<std::size_t>(r.coil)];
                       std::swap(coil.a, coil.b);
                   },
                   [&](const Moved& m) { pinOf(m.pin).net = m.to; },
                   [&](const Missing& m) {
                       for (std::size_t k = 0; k < (*this)[m.part].pins.size(); ++k)
                           open({m.part, static_cast<int>(k)});
                   }},
        variation);
    return out;
}

void Schematic::set(PartId part, double value) {
    std::visit(Overloaded{[&](Resistance& r) { r.ohms = value; }, [&](Capacitance& c) { c.farads = value; },
                          [&](Inductance& l) { l.idleHenries *= value / l.henries, l.henries = value; },
                          [&](Track& t) { t.ohms = value; }, [&](CurrentSink& s) { s.amps = value; }, [](Diode&) {},
                          [&](Zener& z) { z.volts = value; }, [&](Voltage& u) { u.volts.dc = value; }, [](Inverter&) {},
                          [](Connector&) {}, [&](Contacts& c) { c.ohms = value; },
                          [&](Windings& w) { w.inductance = value; }, [&](Bottle& b) { b.emission = value; }},
               all[static_cast<std::size_t>(part.index)].element);
}

void Schematic::setWave(PartId source, const circuit::Waveform& volts) {
    std::get<Voltage>(all[static_cast<std::size_t>(source.index)].element).volts = volts;
}

std::vector<Problem> Schematic::defects() const {
    std::vector<Problem> out;
    std::vector<int> count(netList.size(), 0);
    for (const Part& p : all)
        for (const Pin& pin : p.pins)
            if (pin.net.index >= 0) count[static_cast<std::size_t>(pin.net.index)] += pin.spare ? 2 : 1;
    for (std::size_t k = 1; k < netList.size(); ++k)
        if (count[k] == 1)
            out.push_back({netList[k].name, "only one pin is on this net: it leads nowhere; join it or take it away"});
    DcPaths paths(*this);
    for (const Part& p : all)
        if (const auto* b = std::get_if<Bottle>(&p.element))
            for (const ValveSection& s : b->sections) {
                const Pin& grid = p.pins[static_cast<std::size_t>(s.pins.front())];
                if (grid.net.index < 0 || !paths.grounded(grid.net))
                    out.push_back(
                        {p.id, fmt::format("its {} has no DC path to ground: grid current drives it anywhere; "
                                           "it needs a grid leak",
                                           grid.name)});
            }
    return out;
}

std::vector<bool> groundedNets(const Schematic& s) {
    DcPaths paths(s);
    std::vector<bool> out;
    for (std::size_t k = 0; k < s.nets().size(); ++k) out.push_back(paths.grounded({static_cast<int>(k)}));
    return out;
}

bool alike(const Schematic& a, const Schematic& b) {
    return a.nets().size() == b.nets().size() &&
           std::equal(a.parts().begin(), a.parts().end(), b.parts().begin(), b.parts().end(),
                      [](const Part& x, const Part& y) {
                          return x.element == y.element &&
                                 std::equal(x.pins.begin(), x.pins.end(), y.pins.begin(), y.pins.end(),
                                            [](const Pin& p, const Pin& q) { return p.net == q.net; });
                      });
}

namespace {

Part between(std::string id, NetId a, NetId b, Element element) {
    Part p;
    p.id = std::move(id);
    p.element = std::move(element);
    p.pins = {{"1", a}, {"2", b}};
    return p;
}

} // namespace

Part resistor(std::string id, NetId a, NetId b, double ohms) {
    return between(std::move(id), a, b, Resistance{ohms});
}

Part capacitor(std::string id, NetId a, NetId b, double farads) {
    return between(std::move(id), a, b, Capacitance{farads});
}

Part voltage(std::string id, NetId plus, NetId minus, circuit::Waveform volts) {
    Part p;
    p.id = std::move(id);
    p.element = Voltage{volts};
    p.pins = {{"+", plus}, {"-", minus}};
    return p;
}

Part valve(std::string id, circuit::PortLaw law, const std::vector<NetId>& nets) {
    Part p;
    p.id = std::move(id);
    const auto& names = electrodes(law);
    ValveSection section{law, {}};
    for (std::size_t k = 0; k < names.size(); ++k) {
        p.pins.push_back({names[k], nets[k]});
        section.pins.push_back(static_cast<int>(k));
    }
    p.element = Bottle{"", 1, {std::move(section)}};
    return p;
}

const std::vector<std::string>& electrodes(const circuit::PortLaw& law) {
    static const std::vector<std::string> triode{"grid", "plate", "cathode"},
        pentode{"grid", "screen", "plate", "cathode"};
    return std::holds_alternative<circuit::PentodeLaw>(law) ? pentode : triode;
}

} // namespace ember::schematic
