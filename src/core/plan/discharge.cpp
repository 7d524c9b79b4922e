#include "discharge.h"

#include "supply_circuit.h"

#include "core/build/build_json.h"
#include "core/build/path.h"
#include "core/circuit/transient.h"
#include "core/quantity/letters.h"
#include "core/quantity/quantity.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <numbers>

namespace ember::plan {

using namespace circuit;

namespace {

constexpr double openOhms = 1e12;   // [ohm] an open switch or fuse
constexpr double handSeconds = 5;   // [s] that a short-time overload is tested for (IEC 60115-1)
constexpr double overload = 6.25;   // times the rated watts, there
constexpr double bodyVolts = 500;   // [V] limiting volts of a wirewound body of 5 W
constexpr double longestHold = 120; // [s] that a hand holds clips on one capacitor
constexpr double leastFall = 1e-3;  // share per second: what falls by less is not joined to where the resistor is
constexpr std::size_t mostHolds = 12;
// Dielectric absorption: what an electrolytic capacitor recovers of its volts after a discharge, at most, as IEC
// 60384-1 measures it (charged for an hour, shorted for 10 s, read after 15 minutes); published values are 5 to 10 %.
constexpr double absorbed = 0.10;

/// One capacitor, or a string of equal ones, and where its state is.
struct Followed {
    std::string id;
    int node = 0;
    std::vector<DeviceId> devices = {};
    double farads = 0, start = 0; ///< of the whole string
    Node plus = ground, minus = ground;
};

/// The capacitors with the paths between them that are sure to be there.
struct Charged {
    Netlist n;
    std::vector<Followed> all;
};

Charged chargedNetwork(const Build& b, const Steady& steady) {
    Charged out;
    Netlist& n = out.n;
    std::vector<Node> rails{n.node("B+1")};
    const Supply supply = guaranteedPaths(b.supply);
    const Chain chain = addChain(n, supply, rails);
    for (std::size_t k = 0; k < chain.size(); ++k) {
        const Section& s = supply.sections[k];
        if (s.kind != SectionKind::Capacitor) continue;
        const int node = nodeOfSection(supply, k);
        const auto at = static_cast<std::size_t>(node - 1);
        out.all.push_back({s.id, node, chain[k], s.capacitance / static_cast<double>(chain[k].size()),
                           steady.nodes[at].most, rails[at], ground});
    }
    if (std::isfinite(steady.biasReservoir)) { // its adjusters' tracks are whole whatever their wipers do
        const Node reservoir = n.node("bias reservoir"), rail = n.node("bias rail");
        const auto capacitor = [&](const CapacitorPart& p, Node at, double volts) {
            const double farads = p.capacitance * (1 + p.tolerance);
            out.all.push_back(
                {p.id, 0, {n.add(Capacitor{ground, at, farads, p.esr})}, farads, std::abs(volts), ground, at});
        };
        capacitor(b.bias.reservoir, reservoir, steady.biasReservoir);
        capacitor(b.bias.second, rail, steady.biasRail);
        n.add(Resistor{reservoir, rail, b.bias.series.resistance});
        for (std::size_t k = 0; k < adjustersOf(b).size(); ++k)
            n.add(Resistor{rail, ground, (b.bias.adjuster + b.bias.floor) * 1.2});
    }
    return out;
}

/// A run of the network from volts across each of its capacitors.
class Fall {
  public:
    Fall(const Charged& charged, const std::vector<double>& from)
        : all(charged.all),
          sys(assemble(charged.n)),
          state{0, Eigen::VectorXd::Zero(sys.states()), Eigen::VectorXd::Zero(sys.states())} {
        for (std::size_t k = 0; k < all.size(); ++k)
            for (const DeviceId d : all[k].devices)
                state.y[stateOf(d)] = from[k] / static_cast<double>(all[k].devices.size());
    }
    /// Until `seconds` are over or `goOn`, which is given the time and the volts, says no.
    Expected<Done> run(double seconds, const std::stop_token& stop,
                       const std::function<bool(double, const std::vector<double>&)>& goOn) {
        Stepper stepper(sys, 0.5, 16);
        TransientOptions o;
        o.duration = seconds;
        o.tolerance = 1e-4;
        o.stop = stop;
        if (!goOn(0, volts(state))) return Done{};
        o.onStep = [&](Stepper&, const State& at, double) { return goOn(at.t, volts(at)); };
        if (auto done = runTransient(stepper, state, o); !done) return done.problem();
        return Done{};
    }

  private:
    [[nodiscard]] int stateOf(DeviceId d) const { return sys.stateOf[static_cast<std::size_t>(d)]; }
    [[nodiscard]] std::vector<double> volts(const State& at) const {
        std::vector<double> out;
        for (const Followed& f : all) {
            double sum = 0;
            for (const DeviceId d : f.devices) sum += at.y[stateOf(d)];
            out.push_back(std::abs(sum));
        }
        return out;
    }
    const std::vector<Followed>& all;
    System sys;
    State state;
};

std::vector<double> startsOf(const Charged& charged) {
    std::vector<double> out;
    for (const Followed& f : charged.all) out.push_back(f.start);
    return out;
}

} // namespace

Supply guaranteedPaths(const Supply& given) {
    Supply s = given;
    s.loads.clear();
    for (Section& x : s.sections) {
        switch (x.kind) {
        case SectionKind::Capacitor:
            x.leakageResistance = 0;
            x.capacitance *= 1 + x.tolerance;
            x.balancing *= 1 + 0.05; // resistors of the usual series
            break;
        case SectionKind::Switch:
        case SectionKind::Fuse:
            x.kind = SectionKind::Resistor;
            x.resistance = openOhms;
            break;
        case SectionKind::Resistor: x.resistance *= 1 + x.tolerance; break;
        case SectionKind::Choke:
        case SectionKind::Meter:
        case SectionKind::Tap: break;
        }
    }
    for (Bleeder& x : s.bleeders) x.resistor.resistance *= 1 + x.resistor.tolerance;
    return s;
}

Expected<Discharge> dischargeOf(const Build& b, const Steady& steady, std::stop_token stop) {
    const Charged charged = chargedNetwork(b, steady);
    Discharge out;
    if (charged.all.empty()) return out;
    for (const Followed& f : charged.all)
        out.capacitors.push_back({f.id, f.node, f.farads, f.start, {}, unknown, unknown});
    const auto keep = [&](double t, const std::vector<double>& volts) {
        out.seconds.push_back(t);
        for (std::size_t k = 0; k < volts.size(); ++k) out.capacitors[k].volts.push_back(volts[k]);
        return *std::max_element(volts.begin(), volts.end()) > 2;
    };
    if (auto done = Fall(charged, startsOf(charged)).run(dischargeFollowed, stop, keep); !done) return done.problem();
    for (CapacitorDischarge& c : out.capacitors) {
        const auto below = [&](double wanted) {
            for (std::size_t k = c.volts.size(); k-- > 0;)
                if (c.volts[k] > wanted) {
                    if (k + 1 == c.volts.size()) return unknown;
                    const double share = (c.volts[k] - wanted) / (c.volts[k] - c.volts[k + 1]);
                    return out.seconds[k] + share * (out.seconds[k + 1] - out.seconds[k]);
                }
            return 0.0;
        };
        c.to50 = below(50);
        c.to10 = below(10);
    }
    if (const auto* c = out.slowest(); c && c->start > 50 && !(c->to50 <= slowDischarge))
        if (auto hand = dischargeByHand(b, steady, stop)) out.byHand = std::move(*hand);
    return out;
}

Expected<HandDischarge> dischargeByHand(const Build& b, const Steady& worst, std::stop_token stop) {
    HandDischarge out;
    Charged charged = chargedNetwork(b, worst);
    std::vector<double> volts = startsOf(charged);
    double farads = 0;
    for (const Followed& f : charged.all) farads += f.start > handVolts ? f.farads : 0;
    if (!(farads > 0)) return out;
    const auto most = [&] {
        return static_cast<std::size_t>(std::max_element(volts.begin(), volts.end()) - volts.begin());
    };
    const double highest = out.from = volts[most()];
    out.inSeries = std::max(1, static_cast<int>(std::ceil(highest / bodyVolts)));
    const double constants = std::log(std::max(1.5, highest / handVolts));
    out.ohms = nearest(std::clamp(handSeconds / (farads * constants), 100.0, 100e3) / out.inSeries, Series::E12);
    const double whole = out.ohms * out.inSeries;
    double lasting = 0; // [V] across it after the time that the overload is tested for
    while (volts[most()] > handVolts && out.holds.size() < mostHolds) {
        const std::size_t at = most();
        Charged held = charged;
        held.n.add(Resistor{held.all[at].plus, held.all[at].minus, whole});
        double until = 0;
        const std::vector<double> from = volts;
        const auto goOn = [&](double t, const std::vector<double>& now) {
            until = t;
            volts = now;
            if (t >= handSeconds) lasting = std::max(lasting, now[at]);
            if (now[at] > handVolts) return true;
            for (std::size_t k = 0; k < now.size(); ++k) // whether any that is still charged comes down by this hold
                if (now[k] > handVolts && (t < handSeconds || from[k] - now[k] > leastFall * from[k] * t)) return true;
            return false;
        };
        if (auto done = Fall(held, volts).run(longestHold, stop, goOn); !done) return done.problem();
        out.holds.push_back({held.all[at].id, until});
    }
    out.whole = volts[most()] <= handVolts;
    out.watts = 5;
    const double atOnce = highest * highest / whole / out.inSeries, later = lasting * lasting / whole / out.inSeries;
    for (const double rating : {10.0, 17.0, 25.0, 50.0})
        if (atOnce > overload * out.watts || later > out.watts) out.watts = rating;
    return out;
}

std::string inWords(const std::optional<HandDischarge>& hand) {
    if (!hand || hand->holds.empty()) return "Measure every capacitor before a hand goes in.";
    std::string where;
    for (const HandDischarge::Hold& h : hand->holds)
        where += fmt::format("{}{} for {}", where.empty() ? "" : ", then ", upper(h.capacitor),
                             format(std::max(1.0, h.seconds), Unit::Second, 2));
    const std::string body = fmt::format("{}, {}", formatExact(hand->ohms, Unit::Ohm), format(hand->watts, Unit::Watt));
    return fmt::format(
        "With insulated clips, hold {} across plus and minus of {}.{} Read each again after a minute: up "
        "to {} come back.",
        hand->inSeries > 1 ? fmt::format("{} × {} in series", hand->inSeries, body) : body, where,
        hand->whole ? "" : " Then measure each: some still hold more than 5 V.",
        format(absorbed * hand->from, Unit::Volt, 2));
}

Conditions worstCharged(const Build& b, const Conditions& at) {
    Conditions c = at;
    c.mainsVolts = std::max(at.mainsVolts, b.mains.high);
    c.crest = c.mainsVolts > b.mains.volts ? std::numbers::sqrt2 : at.crest;
    c.limiter = c.smallIn = c.outputsIn = false;
    return c;
}

} // namespace ember::plan
