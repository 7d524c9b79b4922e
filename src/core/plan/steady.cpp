#include "steady.h"

#include "channel_point.h"
#include "heater.h"
#include "steady_reading.h"

#include "core/build/build_json.h"
#include "core/build/path.h"
#include "core/circuit/periodic.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <set>

namespace ember::plan {

using namespace circuit;

Emissions emissions(const Build& b, const Conditions&, const std::vector<HeaterGroup>& heaters) {
    Emissions e;
    for (const HeaterGroup& g : heaters) {
        const double share = emissionAt(g.law.kelvin);
        const std::string& feeds = b.transformer.heaters[g.winding].feeds;
        if (feeds == "rectifier")
            e.rectifier = share;
        else if (feeds != "signal")
            e.taps[feeds] = share;
    }
    return e;
}

double heaterCopperWatts(const PowerTransformer& t, const Steady& s) {
    double watts = 0;
    for (const HeaterWinding& w : t.heaters)
        if (const auto feed = s.heaterFeeds.find(w.id); feed != s.heaterFeeds.end()) {
            const HeaterWinding* other = inSeriesWith(t, w);
            watts +=
                feed->second.windingAmps * feed->second.windingAmps * (w.resistance + (other ? other->resistance : 0));
        }
    return watts;
}

double heaterAmps(const Steady& s, const std::string& winding) {
    double amps = 0;
    std::set<std::string> strings;
    for (const HeaterFigures& h : s.heaters)
        if (h.winding == winding && (h.string.empty() || strings.insert(h.string).second)) amps += h.amps;
    return amps;
}

namespace {

/// Tangents of what the channels draw from each node at these volts; points 2 % lower give the slopes, one with the
/// supply lower and one with the bias. With `keepSlopes` those that `loads` has are kept: they lead to the agreement
/// of currents and volts, and do not enter it.
Expected<Done> stageLoads(const Build& b, std::vector<ChannelDc>& channels, bool keepSlopes, Steady& s,
                          std::vector<NodeLoad>& loads) {
    const bool sloped = keepSlopes && loads.size() == s.nodes.size();
    std::vector<double> now(s.nodes.size(), 0), lower(s.nodes.size(), 0), hotter(s.nodes.size(), 0);
    s.channels.clear();
    const auto add = [](std::vector<double>& to, const ChannelPoint& from) {
        for (const NodeDraw& d : from.draws) to[static_cast<std::size_t>(d.node - 1)] += d.amps;
    };
    const ChannelSupply full = supplyOf(b, s);
    ChannelSupply colder = full, less = full;
    for (double& v : colder.wipers) v *= 0.98;
    for (double& v : less.nodes) v *= 0.98;
    for (ChannelDc& channel : channels) {
        auto p = channel.at(full);
        if (!p) return p.problem();
        add(now, *p);
        if (!sloped) {
            const auto r = channel.biased() ? channel.at(colder) : p;
            if (!r) return r.problem();
            const auto q = channel.at(less);
            if (!q) return q.problem();
            add(lower, *q);
            add(hotter, *r);
        }
        s.channels.push_back(std::move(*p));
    }
    loads.resize(s.nodes.size());
    for (std::size_t k = 0; k < s.nodes.size(); ++k) {
        const double v = s.nodes[k].mean;
        s.nodes[k].load = now[k];
        if (sloped) {
            loads[k].amps = now[k], loads[k].at = v, loads[k].biasAt = s.biasRail;
            continue;
        }
        const double slope = v > 1 ? std::max(0.0, (now[k] - lower[k]) / (0.02 * v)) : 0;
        const double perBias = s.biasRail < -0.1 ? (hotter[k] - now[k]) / (-0.02 * s.biasRail) : 0;
        loads[k] = {now[k], slope, v, perBias, s.biasRail};
    }
    return Done{};
}

/// How a round's new temperatures are taken over. Behind the lamp of a shorted supply they run past their aim and back
/// in every round: a step that turns without having halved is halved from then on.
class Easing {
  public:
    /// `now` becomes `wanted`, or a temperature on the way to it. Keeps the largest relative change that was wanted.
    void ease(double& now, double wanted) {
        const double step = std::log(wanted / now);
        if (std::abs(step) > std::abs(largest)) largest = step;
        now = share < 1 ? now * std::exp(share * step) : wanted;
    }
    [[nodiscard]] double change() const { return std::abs(std::expm1(largest)); }
    void nextRound() {
        if (largest * before < 0 && std::abs(largest) > 0.5 * std::abs(before)) share = std::max(0.125, share / 2);
        before = largest, largest = 0;
    }

  private:
    double share = 1, largest = 0, before = 0;
};

/// New temperatures from the volts the heaters and the lamp got; returns the largest relative change.
double settleHeat(const Build& b, const Catalogue& catalogue, const Probes& p, const Recording& r,
                  std::vector<HeaterGroup>& heaters, double& lampKelvin, Steady& s, Easing& easing) {
    s.heaters.clear();
    // Of a string each heater has its share of the resistance.
    std::map<std::pair<std::size_t, std::string>, double> strings;
    for (const HeaterGroup& g : heaters) strings[{g.winding, g.string}] += g.law.ohms();
    for (HeaterGroup& g : heaters) {
        const double share = g.string.empty() ? 1 : g.law.ohms() / strings.at({g.winding, g.string}),
                     volts = share * r.rms(p.feeds[g.winding].out), amps = volts / g.law.ohms();
        // V ~ T^2.6
        easing.ease(g.law.kelvin, std::max(293.0, g.law.hotKelvin * std::pow(volts / g.law.ratedVolts, 1 / 2.6)));
        s.heaters.push_back({b.transformer.heaters[g.winding].id, g.type, g.count, volts, amps, g.law.kelvin,
                             emissionAt(g.law.kelvin), g.law.ratedVolts, g.string});
    }
    if (s.conditions.limiter) {
        const double square = r.meanProduct(p.mains, p.mains) - 2 * r.meanProduct(p.mains, p.primary) +
                              r.meanProduct(p.primary, p.primary);
        IncandescentLaw law = limiterLaw(b, catalogue);
        law.kelvin = lampKelvin;
        const double watts = std::max(0.0, square) / law.ohms();
        const double cold = std::pow(293 / law.hotKelvin, 4);
        const double next = law.hotKelvin * std::pow(watts / law.ratedWatts + cold, 0.25);
        easing.ease(lampKelvin, next);
        s.lamp = {std::sqrt(std::max(0.0, square)), watts, next};
    }
    const double change = easing.change();
    easing.nextRound();
    return change;
}

/// Of what the bias supply hangs on, up to a factor that its parts make.
double biasVolts(const Build& b) {
    return b.bias.from == BiasSource::Winding ? std::max(1e-3, b.transformer.biasVolts) : b.transformer.plateVolts;
}

double noLoadVolts(const Build& b, const HeaterGroup& g) {
    return b.transformer.heaters[g.winding].volts / b.transformer.primaryVolts;
}

/// What the slow state of a solved steady state says about this one: filaments and volts follow the mains and the
/// windings. Returns the supply's figures as they may be, for the stages' first currents; no nodes: nothing fits.
Steady foretold(const Build& b, const Conditions& conditions, const WarmStart& warm,
                std::vector<HeaterGroup>& heaters) {
    Steady s;
    s.conditions = conditions;
    if (warm.heaters.size() != heaters.size()) return s;
    const double mains = conditions.mainsVolts / warm.mainsVolts;
    for (std::size_t k = 0; k < heaters.size(); ++k) {
        HeaterGroup& g = heaters[k];
        const double volts = mains * noLoadVolts(b, g) / warm.heaterVolts[k];
        g.law.kelvin = std::max(293.0, warm.heaters[k].law.kelvin * std::pow(volts, 1 / 2.6)); // V ~ T^2.6
        s.heaters.push_back({b.transformer.heaters[g.winding].id, g.type, g.count, unknown, unknown, g.law.kelvin,
                             emissionAt(g.law.kelvin), g.law.ratedVolts, g.string});
    }
    if (static_cast<int>(warm.volts.size()) != supplyNodes(b.supply)) return s;
    for (const double v : warm.volts) {
        s.nodes.emplace_back();
        s.nodes.back().mean = v * mains;
    }
    s.biasRail = warm.biasRail * mains * biasVolts(b) / warm.biasVolts;
    if (biasIsFed(b.bias, b.transformer))
        for (const AdjusterAt& a : adjustersOf(b))
            s.wipers.push_back(s.biasRail * wiperShare(b.bias, conditions.coldest ? 1 : a.position));
    return s;
}

/// Estimated relative error of the node voltages: the error of the stages' currents (drawn at these voltages against
/// assumed in the solve), times the supply's source resistance, estimated from the drop below the crest.
double disagreement(const Steady& s, const std::vector<NodeLoad>& taken, const std::vector<NodeLoad>& drawn) {
    if (taken.size() != drawn.size()) return INFINITY;
    double amps = 0, worst = 0;
    for (std::size_t k = 0; k < drawn.size(); ++k)
        amps += std::abs(drawn[k].amps - taken[k].amps - taken[k].siemens * (s.nodes[k].mean - taken[k].at) -
                         (taken[k].perBias != 0 ? taken[k].perBias * (s.biasRail - taken[k].biasAt) : 0));
    const double given = s.rectifierMean;
    for (const NodeFigures& n : s.nodes) {
        const double fall = std::max(0.02 * n.mean, std::numbers::sqrt2 * s.legVolts - n.mean);
        worst = std::max(worst, amps / std::max(given, 1e-9) * fall / (1 + std::abs(n.mean)));
    }
    return worst;
}

Eigen::VectorXd emptyChain(const Build& b, const Conditions& conditions, const SupplyCircuit& s, const System& sys) {
    Eigen::VectorXd states = Eigen::VectorXd::Zero(sys.states());
    const double crest = 1.414 * conditions.mainsVolts / b.transformer.primaryVolts;
    double fed = s.rectifiers.empty()
                     ? 0
                     : (b.supply.connection == Connection::Doubler ? 2 : 1) * b.transformer.plateVolts * crest;
    for (std::size_t k = 0; k < s.feeds.size(); ++k)
        if (s.feeds[k].capacitor >= 0)
            states[sys.stateOf[static_cast<std::size_t>(s.feeds[k].capacitor)]] =
                0.8 * crest * b.transformer.heaters[k].volts *
                (b.transformer.heaters[k].rectifier == HeaterRectifier::FullWave ? 0.5 : 1);
    for (std::size_t k = 0; k < s.sections.size(); ++k) {
        const Section& section = b.supply.sections[k];
        if (section.kind == SectionKind::Tap) fed = section.volts * crest;
        if (section.kind != SectionKind::Capacitor) continue;
        for (const DeviceId d : s.sections[k])
            states[sys.stateOf[static_cast<std::size_t>(d)]] =
                0.9 * fed * (conditions.limiter ? 0.7 : 1) / static_cast<double>(s.sections[k].size());
    }
    return states;
}

PeriodicOptions periodOf(const Build& b, const SteadyOptions& options) {
    PeriodicOptions period;
    period.period = 1 / b.mains.frequency;
    period.steps = options.rough ? 40 : 96;
    period.levels = 5;
    period.residual = options.rough ? 3e-5 : 1e-7;
    period.acceptable = 3e-5;
    if (options.rough) period.tolerance = 5e-4;
    period.chord = options.rough;
    period.stop = options.stop;
    return period;
}

} // namespace

Expected<Steady> solveSteady(const Build& b, const Catalogue& catalogue, const Conditions& conditions,
                             const SteadyOptions& options, WarmStart* warm) {
    std::vector<HeaterGroup> heaters = heaterGroups(b, catalogue, conditions);
    for (HeaterGroup& g : heaters) g.law.kelvin = conditions.limiter ? 1150 : g.law.hotKelvin;
    double lampKelvin = 1200;
    std::vector<NodeLoad> loads;
    std::vector<ChannelDc> channels;
    channels.reserve(b.channels.size());
    for (std::size_t k = 0; k < b.channels.size(); ++k) channels.emplace_back(b, catalogue, k, options.wiring);
    int round = 0;
    const auto drawNow = [&](Steady& at) {
        // What is rough keeps the slopes of its beginning, unless they have misled it: behind an open choke nearly all
        // of the current is gone.
        auto done = stageLoads(b, channels, options.rough && round < 24, at, loads);
        for (std::size_t k = 0; k < std::min(loads.size(), options.musicAmps.size()); ++k)
            loads[k].amps += options.musicAmps[k];
        return done;
    };
    Steady out;
    out.conditions = conditions;
    Eigen::VectorXd states;
    if (warm && !warm->states.empty()) {
        Steady start = foretold(b, conditions, *warm, heaters);
        lampKelvin = warm->lampKelvin;
        if (!start.nodes.empty()) {
            if (auto done = drawNow(start); !done) return done.problem();
            states = conditions.mainsVolts / warm->mainsVolts *
                     Eigen::Map<const Eigen::VectorXd>(warm->states.data(), std::ssize(warm->states));
        }
    }
    PeriodicOptions period = periodOf(b, options);
    Eigen::MatrixXd map;
    if (warm) map = warm->map;
    std::vector<double> last;
    Easing easing;
    constexpr int rounds = 60;
    for (; round < rounds; ++round) {
        const SupplyCircuit s =
            supplyCircuit(b, catalogue, conditions, loads, heaters, lampKelvin, emissions(b, conditions, heaters));
        const System sys = assemble(s.netlist);
        const bool nearby = states.size() == sys.states();
        if (!nearby) states = emptyChain(b, conditions, s, sys);
        const Probes probes = probesFor(s, sys, b);
        Recording record(probes.list);
        period.leadIn = nearby ? 0 : 1;
        period.map = &map;
        Stepper stepper = periodicStepper(sys, period);
        const auto solved = periodicSteadyState(stepper, states, period, &record);
        if (!solved) return Problem{"supply", solved.problem().sentence};
        states = solved->y;
        if (solved->map.size() > 0) map = solved->map;
        out.residual = solved->residual;
        readFigures(out, s, probes, record, b);
        const double heat = settleHeat(b, catalogue, probes, record, heaters, lampKelvin, out, easing);
        const std::vector<NodeLoad> taken = loads;
        if (auto done = drawNow(out); !done) return done.problem();
        double change = last.empty() ? INFINITY : heat;
        for (std::size_t k = 0; k < last.size(); ++k)
            change = std::max(change, std::abs(out.nodes[k].mean - last[k]) / (1 + std::abs(last[k])));
        last.clear();
        for (const NodeFigures& n : out.nodes) last.push_back(n.mean);
        if (std::min(change, std::max(heat, 2 * disagreement(out, taken, loads))) < options.tolerance) {
            if (options.cycle) {
                readCycle(out.cycle, s, probes, record, period.period);
                readRipple(out, b, probes, record, period.period);
            }
            WarmStart end{heaters,
                          {},
                          lampKelvin,
                          conditions.mainsVolts,
                          loads,
                          last,
                          out.biasRail,
                          biasVolts(b),
                          std::vector<double>(states.begin(), states.end()),
                          map};
            for (const HeaterGroup& g : heaters) end.heaterVolts.push_back(noLoadVolts(b, g));
            if (warm) *warm = end;
            out.end = std::make_shared<const WarmStart>(std::move(end));
            return out;
        }
    }
    return Problem{"supply", fmt::format("supply and stages did not agree within {} rounds", rounds)};
}

} // namespace ember::plan
