#include "netlist_text.h"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <numbers>

namespace ember::circuit {

namespace {

class Deck {
  public:
    explicit Deck(const Netlist& from) : netlist(from) {}

    /// The device that add() is called with next; an empty name: a number.
    void next(const std::string& called) {
        id.clear();
        for (const char c : called) id += std::isalnum(static_cast<unsigned char>(c)) ? c : '_';
        if (id.empty()) id = std::to_string(++number);
    }
    void add(const Resistor& r) { line("R", r.a, r.b, fmt::format("{:.9g}", r.ohms)); }
    void add(const Capacitor& c) {
        if (c.leakageOhms > 0) line("Rleak_", c.a, c.b, fmt::format("{:.9g}", c.leakageOhms));
        if (c.esr <= 0) return line("C", c.a, c.b, fmt::format("{:.9g}", c.farads));
        text += fmt::format("Resr_{0} {1} inner_{0} {2:.9g}\nC{0} inner_{0} {3} {4:.9g}\n", id, name(c.a), c.esr,
                            name(c.b), c.farads);
    }
    void add(const Inductor& l) {
        text += fmt::format("L{0} {1} inner_{0} {2:.9g}\nRcopper_{0} inner_{0} {3} {4:.9g}\n", id, name(l.a), l.henries,
                            name(l.b), std::max(1e-6, l.ohms));
    }
    void add(const VoltageSource& v) {
        if (v.volts.third == 0) return line("V", v.a, v.b, wave(v.volts));
        Waveform third = v.volts;
        third.dc = 0, third.amplitude *= third.third, third.frequency *= 3, third.phase *= 3;
        text += fmt::format("V{0} {1} third_{0} {2}\nVthird_{0} third_{0} {3} {4}\n", id, name(v.a), wave(v.volts),
                            name(v.b), wave(third));
    }
    void add(const CurrentSource& i) { line("I", i.from, i.to, wave(i.amps)); }
    void add(const Transconductance& t) {
        text += fmt::format("G{} {} {} {} {} {:.9g}\n", id, name(t.from), name(t.to), name(t.plus), name(t.minus),
                            t.siemens);
    }
    /// Each winding an inductance behind its copper and leakage; every pair of them coupled.
    void add(const Transformer& t) {
        constexpr double coupling = 0.9999999;
        for (std::size_t k = 0; k < t.windings.size(); ++k) {
            const Winding& w = t.windings[k];
            const double turns = w.turns / t.windings.front().turns;
            text += fmt::format("Rcopper_{0}_{1} {2} w_{0}_{1} {3:.9g}\n", id, k, name(w.a), std::max(1e-6, w.ohms));
            const bool leaks = w.leakage > 0;
            if (leaks) text += fmt::format("Lleakage_{0}_{1} w_{0}_{1} x_{0}_{1} {2:.9g}\n", id, k, w.leakage);
            text += fmt::format("L{0}_{1} {2}_{0}_{1} {3} {4:.9g}\n", id, k, leaks ? "x" : "w", name(w.b),
                                t.inductance * turns * turns);
        }
        const std::string inner = fmt::format("{}_{}_0", t.windings.front().leakage > 0 ? "x" : "w", id),
                          other = name(t.windings.front().b);
        if (t.lossOhms > 0) text += fmt::format("Rloss_{} {} {} {:.9g}\n", id, inner, other, t.lossOhms);
        if (t.ratedFlux > 0) { // the flux at the first winding, by what the inductances carry
            std::string carried;
            for (std::size_t k = 0; k < t.windings.size(); ++k)
                carried += fmt::format("{}{:.9g}*I(L{}_{})", k ? "+" : "",
                                       t.windings[k].turns / t.windings.front().turns, id, k);
            text += fmt::format("Bflux_{0} flux_{0} 0 V={1:.9g}*({2})\n", id, t.inductance / t.ratedFlux, carried);
            const std::string share = fmt::format("V(flux_{})", id);
            const std::string within = fmt::format("max(min({},2),-2)", share);
            text += fmt::format("Bcore_{0} {1} {2} I={3:.9g}*pow(abs({4}),8)*({4}+9*({5}-{4}))\n", id, inner, other,
                                t.saturation.amps, within, share);
        }
        for (std::size_t a = 0; a < t.windings.size(); ++a)
            for (std::size_t b = a + 1; b < t.windings.size(); ++b)
                text += fmt::format("K{0}_{1}_{2} L{0}_{1} L{0}_{2} {3}\n", id, a, b, coupling);
    }
    void add(const NonlinearDevice& d) {
        const std::string a = name(d.terminals.front()), b = name(d.terminals.back());
        if (const auto* vacuum = std::get_if<VacuumLaw>(&d.law)) {
            text += fmt::format("B{0} {1} {2} I={3:.9g}*pow(max(V({1},{2})-{4:.9g},0),1.5)\n", id, a, b,
                                vacuum->perveance * d.emission, vacuum->threshold);
        } else if (const auto* diode = std::get_if<DiodeLaw>(&d.law)) {
            text += fmt::format("D{0} {1} {2} junction{0}\n.model junction{0} D(IS={3:.9g} N={4:.9g})\n", id, a, b,
                                diode->saturation, diode->ideality);
        } else if (const auto* contact = std::get_if<ContactLaw>(&d.law)) {
            text += fmt::format("R{} {} {} {:.9g}\n", id, a, b, contact->ohms);
        } else if (const auto* sink = std::get_if<SinkLaw>(&d.law)) {
            text += fmt::format("B{0} {1} {2} I={3:.9g}*(1-exp(-max(V({1},{2}),0)/{4:.9g}))\n", id, a, b,
                                sink->amps * d.emission, sink->kneeVolts);
        } else if (const auto* reg = std::get_if<RegulatorLaw>(&d.law)) {
            const double width = 1e-3 * reg->limitAmps;
            const auto lesser = [&](const std::string& x, const std::string& y) {
                return fmt::format("(({0}+{1}-sqrt(pow({0}-{1},2)+{2:.9g}))/2)", x, y, width * width);
            };
            const std::string asked = fmt::format("(({:.9g}-V({},{}))/{:.9g})", reg->volts, b, name(d.terminals[1]),
                                                  reg->outputOhms),
                              possible = fmt::format("((V({},{})-{:.9g})/{:.9g})", a, b, reg->fixedDrop, reg->dropOhms);
            const std::string least = lesser(lesser(asked, possible), fmt::format("{:.9g}", reg->limitAmps));
            text += fmt::format("B{0} {1} {2} I=-({3})\n", id, a, b, lesser("(-" + least + ")", "0"));
        } else if (const auto* lamp = std::get_if<IncandescentLaw>(&d.law)) {
            text += fmt::format("R{} {} {} {:.9g}\n", id, a, b, lamp->ohms());
        } else if (const auto* triode = std::get_if<TriodeLaw>(&d.law)) {
            const std::string p = name(d.terminals[1]), vp = fmt::format("V({},{})", p, b),
                              vg = fmt::format("(V({},{})+{:.9g})", a, b, triode->contact);
            grid(a, b, triode->grid, d.emission);
            const std::string reach = fmt::format("{0:.9g}*({1:.9g}+{2}/sqrt({3:.9g}+{4}*{4}))", triode->kp,
                                                  1 / triode->mu, vg, triode->kvb, vp);
            const std::string plate =
                fmt::format("{0}>0 ? {1:.9g}*pow(max({0},1e-9)/{2:.9g}*{3},{4:.9g}) : 0", vp, d.emission / triode->kg,
                            triode->kp, softplus(reach), triode->exponent);
            text += fmt::format("B{}_plate {} {} I={}\n", id, p, b, plate);
            gas(a, b, triode->grid, plate);
        } else {
            const auto& pentode = std::get<PentodeLaw>(d.law);
            const std::string s = name(d.terminals[1]), p = name(d.terminals[2]);
            const std::string vs = fmt::format("max(V({},{}),1e-6)", s, b), vp = fmt::format("max(V({},{}),0)", p, b);
            grid(a, b, pentode.grid, d.emission);
            const std::string e1 =
                fmt::format("({}/{:.9g}*{})", vs, pentode.kp,
                            softplus(fmt::format("{0:.9g}*({1:.9g}+(V({2},{3})+{4:.9g})/{5})", pentode.kp,
                                                 1 / pentode.mu, a, b, pentode.contact, vs)));
            const std::string space =
                fmt::format("{:.9g}*pow({},{:.9g})*(1-exp(-{}))", d.emission / pentode.kg, e1, pentode.exponent, vs);
            const std::string knees = pentode.kneeRise > 0 ? fmt::format("({}/({:.9g}+{:.9g}*{}))", vp,
                                                                         pentode.kneeVolts, pentode.kneeRise, e1)
                                                           : fmt::format("({}/{:.9g})", vp, pentode.kneeVolts);
            std::string reach =
                fmt::format("{:.12g}*atan({})", pentode.share * (1 - pentode.beam) * 2 / std::numbers::pi, knees);
            if (pentode.beam > 0)
                reach = fmt::format("({}+{:.12g}*tanh({}))", reach, pentode.share * pentode.beam, knees);
            text += fmt::format("B{0}_screen {1} {2} I={3}*(1-{4})\nB{0}_plate {5} {2} I={3}*{4}*(1+{6:.9g}*{7})\n", id,
                                s, b, space, reach, p, pentode.slope, vp);
            gas(a, b, pentode.grid, fmt::format("{0}*(1-{1}+{1}*(1+{2:.9g}*{3}))", space, reach, pentode.slope, vp));
        }
    }
    std::string text;

  private:
    [[nodiscard]] std::string name(Node n) const { return nodeText(netlist, n); }
    void grid(const std::string& a, const std::string& b, const GridLaw& law, double emission) {
        const double perveance = law.perveance * emission;
        const std::string over = fmt::format("(V({},{})-{:.9g})", a, b, law.onset);
        text += law.width > 0
                    ? fmt::format("B{0}_grid {1} {2} I={3:.9g}*pow({4:.9g}*{5},1.5)\n", id, a, b, perveance, law.width,
                                  softplus(fmt::format("{}/{:.9g}", over, law.width)))
                    : fmt::format("B{0}_grid {1} {2} I={3:.9g}*pow(max({4},0),1.5)\n", id, a, b, perveance, over);
    }
    void gas(const std::string& a, const std::string& b, const GridLaw& law, const std::string& cathode) {
        if (law.gas > 0) text += fmt::format("B{}_gas {} {} I={:.9g}*({})\n", id, b, a, law.gas, cathode);
    }
    /// ln(1 + exp(x)) that does not overflow on a simulator's way to its solution.
    static std::string softplus(const std::string& x) { return fmt::format("(max({0},0)+ln(1+exp(-abs({0}))))", x); }
    static std::string wave(const Waveform& w) {
        if (w.amplitude == 0) return fmt::format("DC {:.12g}", w.dc);
        return fmt::format("DC {0:.12g} AC 1 SIN({0:.12g} {1:.9g} {2:.9g} 0 0 {3:.9g})", w.dc, w.amplitude, w.frequency,
                           w.phase * 180 / std::numbers::pi);
    }
    void line(const char* letter, Node a, Node b, const std::string& value) {
        text += fmt::format("{}{} {} {} {}\n", letter, id, name(a), name(b), value);
    }
    const Netlist& netlist;
    std::string id;
    int number = 0;
};

} // namespace

std::string nodeText(const Netlist& netlist, Node n) {
    if (n == ground) return "0";
    std::string s = netlist.nodeName(n);
    for (char& c : s) {
        c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
        if (!std::isalnum(static_cast<unsigned char>(c))) c = '_';
    }
    return fmt::format("{}_{}", s, n);
}

std::string elementsText(const Netlist& netlist, const std::map<DeviceId, std::string>& names) {
    Deck deck(netlist);
    DeviceId id = 0;
    for (const Device& d : netlist.devices()) {
        const auto called = names.find(id++);
        deck.next(called == names.end() ? "" : called->second);
        std::visit([&](const auto& device) { deck.add(device); }, d);
    }
    return deck.text;
}

} // namespace ember::circuit
