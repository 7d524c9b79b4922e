#include "continuity.h"

#include "ground_network.h"

#include "core/quantity/letters.h"

#include <Eigen/Dense>
#include <fmt/format.h>

#include <cmath>
#include <limits>

namespace ember::wires {

using namespace schematic;

namespace {

/// Of a net: what is joined without a wire has one number.
std::size_t placeOf(const Terminal& t) {
    constexpr std::size_t spots = 100'000; // more than there are placed parts
    return t.spot + spots * static_cast<std::size_t>(t.joined);
}
constexpr double joint = 2e-3; ///< [ohm] of a soldered end, as ground_network.h has it
constexpr std::size_t nowhere = static_cast<std::size_t>(-1);
} // namespace

ContinuityNetwork::ContinuityNetwork(const Build& b, const Harness& h) : harness(h) {
    const Schematic& s = h.terminals.whole.schematic;
    chassis = count++;
    // A net's pins at one place are one node: of the returns the points of the ground network, else the placed part.
    std::map<PinId, std::size_t> place;
    for (const Terminal& t : h.terminals.list) place[t.pin] = placeOf(t);
    for (std::size_t k = 0; k < h.points.size(); ++k)
        for (const PinId& pin : h.points[k].pins) place[pin] = k;
    std::map<int, std::size_t> anyPlace; // what has no place of its own hangs at the net's first
    for (const auto& [pin, at] : place) anyPlace.try_emplace(s.at(pin).index, at);
    for (std::size_t k = 0; k < s.parts().size(); ++k) {
        pinNodes.emplace_back();
        for (std::size_t n = 0; n < s.parts()[k].pins.size(); ++n) {
            const PinId pin{{static_cast<int>(k)}, static_cast<int>(n)};
            if (s.parts()[k].id == earthPart) { // its bolt is in the metal
                pinNodes.back().push_back(chassis);
                continue;
            }
            const int net = s.at(pin).index;
            const auto at = place.find(pin);
            const auto any = anyPlace.find(net);
            pinNodes.back().push_back(net < 0 ? -1
                                              : made(net, at != place.end()       ? at->second
                                                          : any != anyPlace.end() ? any->second
                                                                                  : nowhere));
        }
    }
    for (std::size_t k = 0; k < s.parts().size(); ++k) addPart({static_cast<int>(k)});
    std::map<std::size_t, double> returns; // of a ground wire with what is in it: a lifted bond's resistor
    for (const GroundBranch& g : groundNetwork(b, h).branches) returns[g.run] = g.ohms;
    for (std::size_t k = 0; k < h.runs.size(); ++k) {
        const Run& r = h.runs[k];
        const int from = nodeOf(r.wire.from, r.fromPoint), to = nodeOf(r.wire.to, r.toPoint);
        const auto own = returns.find(k);
        if (from >= 0 && to >= 0 && from != to)
            wires.push_back({&r, from, to, own != returns.end() ? own->second : r.ohms + 2 * joint});
    }
    // The star is where the first reservoir's return stands.
    star = chassis;
    for (std::size_t k = 0; k < h.points.size(); ++k)
        if (star == chassis || (h.points[k].what == Returns::Reservoir && h.points[k].node == 1))
            star = made(Schematic::ground.index, k);
}

int ContinuityNetwork::made(int net, std::size_t place) {
    const auto [at, fresh] = nodes.try_emplace({net, place}, count);
    if (fresh) ++count;
    return at->second;
}

void ContinuityNetwork::addPart(PartId id) {
    const Part& p = harness.terminals.whole.schematic[id];
    const auto& at = pinNodes[static_cast<std::size_t>(id.index)];
    const auto join = [&](int a, int b, double ohms) {
        if (a < static_cast<int>(at.size()) && b < static_cast<int>(at.size()) &&
            at[static_cast<std::size_t>(a)] >= 0 && at[static_cast<std::size_t>(b)] >= 0)
            parts.push_back({at[static_cast<std::size_t>(a)], at[static_cast<std::size_t>(b)], std::max(1e-3, ohms)});
    };
    if (const auto* r = std::get_if<Resistance>(&p.element)) join(0, 1, r->ohms);
    if (const auto* l = std::get_if<Inductance>(&p.element)) join(0, 1, l->ohms);
    // A capacitor's leakage is of its working volts, not of a meter's.
    if (const auto* t = std::get_if<Track>(&p.element)) {
        join(0, 1, (1 - t->share) * t->ohms);
        join(1, 2, t->share * t->ohms);
    }
    if (const auto* c = std::get_if<Contacts>(&p.element))
        for (int k = 0; k < c->poles; ++k) join(2 * k, 2 * k + 1, c->ohms);
    if (const auto* w = std::get_if<Windings>(&p.element))
        for (const schematic::Coil& c : w->coils) {
            const auto node = [&](int pin) { return at[static_cast<std::size_t>(pin)]; };
            if (node(c.a) < 0 || node(c.b) < 0) continue;
            // A heater winding's centre is a pin of no coil: it halves the one whose ends are called like it.
            int centre = -1;
            const std::string& first = p.pins[static_cast<std::size_t>(c.a)].name;
            for (std::size_t k = 0; k < p.pins.size(); ++k)
                if (p.pins[k].name.ends_with(" centre") &&
                    first == p.pins[k].name.substr(0, p.pins[k].name.size() - 7) + " 1")
                    centre = static_cast<int>(k);
            const auto coil = [&](int a, int b, double ohms) {
                coils.push_back({{id, a}, {id, b}, node(a), node(b), std::max(1e-3, ohms)});
            };
            if (centre >= 0 && node(centre) >= 0)
                coil(c.a, centre, c.ohms / 2), coil(centre, c.b, c.ohms / 2);
            else
                coil(c.a, c.b, c.ohms);
        }
}

int ContinuityNetwork::nodeOf(PinId pin) const {
    return pinNodes[static_cast<std::size_t>(pin.part.index)][static_cast<std::size_t>(pin.pin)];
}

int ContinuityNetwork::nodeOf(const std::string& end, int point) const {
    if (end == chassisEnd || point == -1) return chassis;
    const Terminal* t = harness.terminals.find(end);
    return t ? nodeOf(t->pin) : -1;
}

double ContinuityNetwork::toStar(int node, const Change& change) const {
    if (node == star) return 0;
    Eigen::MatrixXd g = Eigen::MatrixXd::Zero(count, count);
    const auto add = [&](int a, int b, double ohms) {
        const double s = 1 / ohms;
        g(a, a) += s, g(b, b) += s, g(a, b) -= s, g(b, a) -= s;
    };
    for (const Resistor& r : parts)
        if (r.a != r.b) add(r.a, r.b, r.ohms);
    for (const Coil& c : coils)
        if (c.from != c.to) add(c.from, c.to, (c.a == change.shorted || c.b == change.shorted ? 0.5 : 1) * c.ohms);
    for (const Joined& w : wires)
        if (w.run != change.missing) add(w.a, w.b, w.ohms);
    if (change.bridgedA >= 0 && change.bridgedA != change.bridgedB) add(change.bridgedA, change.bridgedB, joint);
    // The star is 0 V; what hangs on nothing is kept from being singular by far more than a meter reads.
    g.diagonal().array() += 1e-12;
    g(star, star) += 1e6;
    Eigen::VectorXd amps = Eigen::VectorXd::Zero(count);
    amps[node] = 1;
    const double ohms = g.ldlt().solve(amps)[node];
    return ohms < openOhms ? ohms : std::numeric_limits<double>::infinity();
}

Continuity ContinuityNetwork::of(const Run& run) const {
    Continuity out;
    const int from = nodeOf(run.wire.from, run.fromPoint), to = nodeOf(run.wire.to, run.toPoint);
    // At the end that the wire brings to the star, which is the one that it is missed at.
    const auto without = [&](int node) { return node < 0 ? 0 : toStar(node, {&run, -1, -1, {}}); };
    const bool first = to < 0 || to == chassis || to == star || without(from) > without(to);
    const int probe = first ? from : to;
    out.at = first ? run.wire.from : run.wire.to;
    if (probe < 0) return out;
    out.ohms = toStar(probe, {});
    const Schematic& s = harness.terminals.whole.schematic;
    for (const Part& p : s.parts())
        if (const auto* c = std::get_if<Capacitance>(&p.element); c && c->farads >= 1e-6)
            for (const int pin : {0, 1}) {
                const PinId own{*s.find(p.id), pin}, other{*s.find(p.id), 1 - pin};
                if (nodeOf(own) >= 0 && s.at(own) != s.at(other) && s[s.at(own)].name == run.net &&
                    s.at(other) == Schematic::ground)
                    out.charging = p.id;
            }
    const auto wrong = [&](std::string cause, double ohms) {
        const bool same =
            std::isinf(ohms) ? std::isinf(out.ohms) : std::abs(ohms - out.ohms) < 0.1 * std::min(ohms, out.ohms) + 0.05;
        if (!same) out.wrong.push_back({std::move(cause), ohms});
    };
    wrong("this wire is not joined", without(probe));
    for (const std::string* end : {&run.wire.from, &run.wire.to}) {
        const Terminal* t = harness.terminals.find(*end);
        if (!t) continue;
        const Part& p = harness.terminals.part(*t);
        if (std::holds_alternative<Windings>(p.element))
            wrong(fmt::format("half the turns of {} shorted", upper(p.id)), toStar(probe, {nullptr, -1, -1, t->pin}));
        const int own = p.pins[static_cast<std::size_t>(t->pin.pin)].number;
        for (std::size_t k = 0; own > 0 && k < p.pins.size(); ++k) {
            const PinId beside{t->pin.part, static_cast<int>(k)};
            if (std::abs(p.pins[k].number - own) != 1 || nodeOf(beside) < 0) continue;
            wrong(fmt::format("a bridge to {}", spoken(terminalName(p, p.pins[k]))),
                  toStar(probe, {nullptr, nodeOf(t->pin), nodeOf(beside), {}}));
        }
    }
    return out;
}

} // namespace ember::wires
