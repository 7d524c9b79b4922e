#include "netlist_text.h"

#include "supply_circuit.h"

#include <fmt/format.h>

#include <algorithm>

namespace ember::plan {

using namespace circuit;

namespace {

class Deck {
  public:
    explicit Deck(const Netlist& from) : netlist(from) {}

    void add(const Resistor& r) { line("R", r.a, r.b, fmt::format("{:g}", r.ohms)); }
    void add(const Capacitor& c) {
        if (c.leakageOhms > 0) line("R", c.a, c.b, fmt::format("{:g}", c.leakageOhms));
        if (c.esr <= 0) return line("C", c.a, c.b, fmt::format("{:g}", c.farads));
        const std::string inner = fmt::format("inner{}", ++number);
        text += fmt::format("R{} {} {} {:g}\n", number, name(c.a), inner, c.esr);
        text += fmt::format("C{} {} {} {:g}\n", number, inner, name(c.b), c.farads);
    }
    void add(const Inductor& l) {
        const std::string inner = fmt::format("inner{}", ++number);
        text += fmt::format("L{} {} {} {:g}\n", number, name(l.a), inner, l.henries);
        text += fmt::format("R{} {} {} {:g}\n", number, inner, name(l.b), std::max(1e-6, l.ohms));
    }
    void add(const VoltageSource& v) { line("V", v.a, v.b, wave(v.volts)); }
    void add(const CurrentSource& i) { line("I", i.from, i.to, wave(i.amps)); }
    void add(const Transconductance& t) {
        text += fmt::format("G{} {} {} {} {} {:g}\n", ++number, name(t.from), name(t.to), name(t.plus), name(t.minus),
                            t.siemens);
    }
    void add(const Transformer& t) {
        const int core = ++number;
        std::string all;
        int k = 0;
        for (const Winding& w : t.windings) {
            const double turns = w.turns / t.windings.front().turns;
            const std::string inner = fmt::format("w{}_{}", core, ++k);
            text += fmt::format("R{}_{} {} {} {:g}\n", core, k, name(w.a), inner, std::max(1e-6, w.ohms));
            text +=
                fmt::format("L{}_{} {} {} {:g}\n", core, k, inner, name(w.b), t.inductance * turns * turns + w.leakage);
            all += fmt::format(" L{}_{}", core, k);
        }
        text += fmt::format("K{}{} 0.99999\n", core, all);
    }
    void add(const NonlinearDevice& d) {
        const std::string a = name(d.terminals.front()), b = name(d.terminals.back());
        ++number;
        if (const auto* vacuum = std::get_if<VacuumLaw>(&d.law)) {
            text += fmt::format("B{0} {1} {2} I=V({1},{2})>0 ? {3:g}*V({1},{2})*sqrt(V({1},{2})) : 0\n", number, a, b,
                                vacuum->perveance * d.emission);
        } else if (const auto* diode = std::get_if<DiodeLaw>(&d.law)) {
            text += fmt::format("D{0} {1} {2} junction{0}\n.model junction{0} D(IS={3:g} N={4:g})\n", number, a, b,
                                diode->saturation, diode->ideality);
        } else if (const auto* contact = std::get_if<ContactLaw>(&d.law)) {
            text += fmt::format("R{} {} {} {:g}\n", number, a, b, contact->ohms);
        } else if (const auto* sink = std::get_if<SinkLaw>(&d.law)) {
            text += fmt::format("B{0} {1} {2} I=V({1},{2})>0 ? {3:g}*(1-exp(-V({1},{2})/{4:g})) : 0\n", number, a, b,
                                sink->amps * d.emission, sink->kneeVolts);
        } else if (const auto* lamp = std::get_if<IncandescentLaw>(&d.law)) {
            text += fmt::format("R{} {} {} {:g}\n", number, a, b, lamp->ohms());
        } else {
            text += fmt::format("* a valve between {} and {} is left out\n", a, b);
        }
    }
    std::string text;

  private:
    /// Letters, digits and underscores only; ground is 0.
    [[nodiscard]] std::string name(Node n) const {
        if (n == ground) return "0";
        std::string s = netlist.nodeName(n);
        std::replace_if(
            s.begin(), s.end(), [](unsigned char c) { return !std::isalnum(c); }, '_');
        return fmt::format("{}_{}", s, n);
    }
    static std::string wave(const Waveform& w) {
        if (w.amplitude == 0) return fmt::format("DC {:g}", w.dc);
        return fmt::format("SIN({:g} {:.9g} {:g} 0 0 {:g})", w.dc, w.amplitude, w.frequency,
                           w.phase * 180 / 3.14159265358979323846);
    }
    void line(const char* letter, Node a, Node b, const std::string& value) {
        text += fmt::format("{}{} {} {} {}\n", letter, ++number, name(a), name(b), value);
    }
    const Netlist& netlist;
    int number = 0;
};

} // namespace

std::string netlistText(const Netlist& netlist, const std::string& title, double seconds, double step) {
    Deck deck(netlist);
    for (const Device& d : netlist.devices()) std::visit([&](const auto& device) { deck.add(device); }, d);
    std::string head = title;
    std::replace(head.begin(), head.end(), '\n', ' ');
    return fmt::format("* {}\n{}.tran {:g} {:g}\n.end\n", head, deck.text, step, seconds);
}

std::string supplyNetlistText(const Build& b, const Catalogue& catalogue, const std::vector<double>& amps) {
    std::vector<NodeLoad> loads;
    loads.reserve(amps.size());
    for (const double a : amps) loads.push_back({a, 0, 0});
    Conditions c;
    c.mainsVolts = b.mains.volts;
    auto heaters = heaterGroups(b, catalogue, c);
    for (HeaterGroup& g : heaters) g.law.kelvin = g.law.hotKelvin;
    const SupplyCircuit s = supplyCircuit(b, catalogue, c, loads, heaters, 293, {});
    return netlistText(s.netlist, b.name + ", supply at nominal mains", 2, 20e-6);
}

} // namespace ember::plan
