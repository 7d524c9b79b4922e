#include "steady_reading.h"

#include "core/build/build_json.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember::plan {

using namespace circuit;

Probes probesFor(const SupplyCircuit& s, const System& sys, const Build& b) {
    Probes p;
    const auto node = [&](Node n) { return n ? p.add(nodeVolts(sys, n)) : std::size_t(-1); };
    for (const Node n : s.rails) p.rails.push_back(node(n));
    for (std::size_t k = 0; k < s.feeds.size(); ++k) {
        const HeaterFeed& f = s.feeds[k];
        Probes::Feed feed{{},
                          node(f.out),
                          node(f.reservoir),
                          f.input == f.reservoir ? node(ground) : node(f.input),
                          std::size_t(-1),
                          std::size_t(-1),
                          std::size_t(-1),
                          std::size_t(-1),
                          node(s.references[k])};
        for (const std::size_t w : f.windings)
            feed.amps.push_back(p.add(branchAmps(sys, s.transformer, static_cast<int>(w))));
        if (f.capacitor >= 0)
            feed.capacitor = p.add(capacitorAmps(sys, f.capacitor, b.transformer.heaters[k].dc.reservoir));
        if (!f.diodes.empty()) {
            feed.diode = p.add(portAmps(sys, f.diodes.front()));
            feed.diodeVolts = p.add(portVolts(sys, f.diodes.front()));
        }
        if (f.regulator >= 0) feed.regulator = p.add(portAmps(sys, f.regulator));
        p.feeds.push_back(std::move(feed));
    }
    for (const Node n : s.wipers) p.wipers.push_back(node(n));
    for (const DeviceId d : s.rectifiers) {
        p.rectifiers.push_back(p.add(portAmps(sys, d)));
        p.rectifierVolts.push_back(p.add(portVolts(sys, d)));
    }
    const auto& iron = std::get<Transformer>(s.netlist.devices()[static_cast<std::size_t>(s.transformer)]);
    for (std::size_t w = 1; w < iron.windings.size(); ++w)
        p.windings.emplace_back(p.add(branchAmps(sys, s.transformer, static_cast<int>(w))),
                                iron.windings[w].turns / iron.windings.front().turns);
    for (std::size_t k = 0; k < s.sections.size(); ++k) {
        const Section section = asComputed(b.supply.sections[k]);
        p.sections.push_back(section.kind == SectionKind::Capacitor
                                 ? p.add(capacitorAmps(sys, s.sections[k][0], section.capacitance))
                             : section.kind == SectionKind::Choke ? p.add(branchAmps(sys, s.sections[k][0]))
                                                                  : std::size_t(-1));
        p.taps.emplace_back(-1, -1);
        if (section.kind == SectionKind::Tap && !s.sections[k].empty()) {
            p.taps.back() = {p.add(portAmps(sys, s.sections[k][0])), p.add(portAmps(sys, s.sections[k][1]))};
            p.tapEnds[k] = node(s.taps.at(k).a);
        }
    }
    p.legA = node(s.legA);
    p.legB = node(s.legB);
    p.primary = node(s.primary);
    p.mains = node(s.mains);
    p.mainsAmps = p.add(branchAmps(sys, s.source));
    p.primaryAmps = p.add(branchAmps(sys, s.transformer, 0));
    p.legAmps = p.add(branchAmps(sys, s.transformer, s.windingLegA));
    p.bias = node(s.biasReservoir);
    p.biasRail = node(s.biasRail);
    return p;
}

namespace {

double biggestInverse(const Recording& r, std::size_t leg, std::size_t rail) {
    double worst = 0;
    for (std::size_t k = 0; k < r.times().size(); ++k) worst = std::max(worst, r.of(rail)[k] - r.of(leg)[k]);
    return worst;
}

HeaterFeedFigures readFeed(const HeaterWinding& w, const HeaterFeed& feed, const Probes::Feed& p, const Recording& r) {
    constexpr auto none = std::size_t(-1);
    HeaterFeedFigures f;
    double square = 0;
    for (const std::size_t amps : p.amps) square = std::max(square, std::pow(r.rms(amps), 2));
    f.windingAmps = std::sqrt(square);
    if (w.legResistance > 0) f.legWatts = square * w.legResistance;
    if (p.reference != none) f.reference = r.mean(p.reference);
    if (p.reservoir == none) {
        f.out = r.rms(p.out);
        return f;
    }
    f.out = r.mean(p.out);
    f.ripplePp = r.most(p.out) - r.least(p.out);
    f.reservoir = r.mean(p.reservoir);
    f.reservoirLeast = r.least(p.reservoir);
    f.diodePeak = r.most(p.diode);
    f.capacitorAmps = r.rms(p.capacitor);
    f.boardWatts = static_cast<double>(feed.diodes.size()) *
                       (r.meanProduct(p.diode, p.diodeVolts) + feed.diodeOhms * std::pow(r.rms(p.diode), 2)) +
                   w.dc.reservoirEsr * std::pow(f.capacitorAmps, 2);
    if (p.input != none)
        f.boardWatts += (r.meanProduct(p.reservoir, p.reservoir) - 2 * r.meanProduct(p.reservoir, p.input) +
                         r.meanProduct(p.input, p.input)) /
                        w.dc.series;
    if (p.regulator == none) return f;
    const std::size_t input = p.input == none ? p.reservoir : p.input;
    f.headroom = INFINITY;
    for (std::size_t k = 0; k < r.times().size(); ++k)
        f.headroom = std::min(f.headroom, r.of(input)[k] - r.of(p.out)[k]);
    f.regulatorWatts = r.meanProduct(input, p.regulator) - r.meanProduct(p.out, p.regulator);
    return f;
}

} // namespace

void readFigures(Steady& out, const SupplyCircuit& s, const Probes& p, const Recording& r, const Build& b) {
    out.nodes.resize(s.rails.size());
    for (std::size_t k = 0; k < s.rails.size(); ++k) {
        NodeFigures& n = out.nodes[k];
        n.mean = r.mean(p.rails[k]);
        n.most = r.most(p.rails[k]);
        n.ripplePp = n.most - r.least(p.rails[k]);
        n.rippleRms = r.ripple(p.rails[k]);
    }
    out.rectifierPeak = out.rectifierMean = out.rectifierWatts = 0;
    for (std::size_t k = 0; k < p.rectifiers.size(); ++k) {
        out.rectifierPeak = std::max(out.rectifierPeak, r.most(p.rectifiers[k]));
        if (k < s.toRail) out.rectifierMean += r.mean(p.rectifiers[k]);
        if (k < s.toRail || b.supply.connection != Connection::HybridBridge) // its silicon stands apart from the valve
            out.rectifierWatts += r.meanProduct(p.rectifiers[k], p.rectifierVolts[k]);
    }
    if (!p.rectifiers.empty() && b.supply.rectifier.legResistance > 0) {
        // What leg A's lead carries: its own pulse and, where the current comes back there, the other half's.
        double square = std::pow(r.rms(p.rectifiers[0]), 2);
        if (p.rectifiers.size() > s.toRail) square += std::pow(r.rms(p.rectifiers[s.toRail]), 2);
        out.legResistorWatts = square * b.supply.rectifier.legResistance;
    }
    out.coreDc = 0;
    for (const auto& [amps, turns] : p.windings) out.coreDc += turns * r.mean(amps);
    out.inverseVolts = p.rectifiers.empty() ? unknown : biggestInverse(r, p.legA, p.rails[0]);
    out.legVolts = r.rms(p.legA);
    if (floatingWinding(b.supply.connection) && s.legB)
        out.legVolts = std::sqrt(std::max(0.0, r.meanProduct(p.legA, p.legA) - 2 * r.meanProduct(p.legA, p.legB) +
                                                   r.meanProduct(p.legB, p.legB)));
    out.legRms = r.rms(p.legAmps);
    out.primaryRms = r.rms(p.primaryAmps);
    out.primaryVolts = r.rms(p.primary);
    out.mainsWatts = -r.meanProduct(p.mains, p.mainsAmps);
    std::size_t rail = 0;
    for (std::size_t k = 0; k < b.supply.sections.size(); ++k) {
        const Section section = asComputed(b.supply.sections[k]);
        if (section.kind == SectionKind::Capacitor) {
            out.capacitorRipple[section.id] = r.rms(p.sections[k]);
            continue;
        }
        const auto here = p.rails[rail], next = p.rails[rail + 1];
        ++rail;
        if (section.kind == SectionKind::Tap && s.sections[k].empty()) {
            out.taps[section.id] = {0, 0, 0, 0}; // its valve is out
        } else if (section.kind == SectionKind::Tap) {
            const auto [a, z] = p.taps[k];
            out.taps[section.id] = {std::max(r.most(a), r.most(z)), r.mean(a) + r.mean(z),
                                    // of its own winding both halves' pulses, of a leg's tap only one
                                    b.supply.connection == Connection::CentreTapped ? r.rms(a)
                                                                                    : std::hypot(r.rms(a), r.rms(z)),
                                    biggestInverse(r, p.tapEnds.at(k), next)};
        } else if (section.kind == SectionKind::Choke) {
            const double rms = r.rms(p.sections[k]);
            out.chokeAmps[section.id] = r.mean(p.sections[k]);
            out.partWatts[section.id] = rms * rms * section.resistance;
        } else {
            const double square = r.meanProduct(here, here) - 2 * r.meanProduct(here, next) + r.meanProduct(next, next);
            out.partWatts[section.id] = square / section.resistance;
            if (b.supply.sections[k].kind == SectionKind::Choke) // one of no inductance
                out.chokeAmps[section.id] = (r.mean(here) - r.mean(next)) / section.resistance;
        }
    }
    for (const Bleeder& bleeder : b.supply.bleeders) {
        const auto at = p.rails[static_cast<std::size_t>(bleeder.node - 1)];
        out.partWatts[bleeder.resistor.id] =
            r.meanProduct(at, at) / (bleeder.resistor.resistance * bleeder.inSeries * bleeder.inSeries);
    }
    if (s.biasReservoir) {
        out.biasReservoir = r.mean(p.bias);
        out.biasRail = r.mean(p.biasRail);
        out.partWatts[b.bias.series.id] = std::pow(out.biasRail - out.biasReservoir, 2) / b.bias.series.resistance;
    }
    for (std::size_t k = 0; k < p.feeds.size(); ++k)
        if (s.feeds[k].out)
            out.heaterFeeds[b.transformer.heaters[k].id] =
                readFeed(b.transformer.heaters[k], s.feeds[k], p.feeds[k], r);
    out.wipers.clear();
    for (const auto w : p.wipers) out.wipers.push_back(r.mean(w));
}

void readCycle(Cycle& c, const SupplyCircuit& s, const Probes& p, const Recording& r, double period) {
    constexpr std::size_t count = 240;
    c.seconds.clear();
    for (std::size_t k = 0; k < count; ++k) c.seconds.push_back(period * static_cast<double>(k) / count);
    c.legA = r.evenly(p.legA, 0, period, count);
    c.legB = s.legB ? r.evenly(p.legB, 0, period, count) : std::vector<double>(count, 0.0);
    c.reservoir = r.evenly(p.rails[0], 0, period, count);
    c.primaryAmps = r.evenly(p.primaryAmps, 0, period, count);
    c.rectifierAmps.assign(count, 0);
    for (std::size_t k = 0; k < s.toRail; ++k) {
        const auto leg = r.evenly(p.rectifiers[k], 0, period, count);
        for (std::size_t n = 0; n < count; ++n) c.rectifierAmps[n] += leg[n];
    }
}

void readRipple(Steady& out, const Build& b, const Probes& p, const Recording& r, double period) {
    constexpr std::size_t count = 256, most = 12;
    const auto phasors = [&](std::size_t probe) {
        const auto volts = r.evenly(probe, 0, period, count);
        Phasors all;
        for (std::size_t k = 1; k <= most; ++k) {
            std::complex<double> sum = 0; // of sines: sin(k w t) is phase 0
            for (std::size_t m = 0; m < count; ++m)
                sum += volts[m] * std::polar(1.0, -2 * std::numbers::pi * static_cast<double>(k * m % count) / count);
            all.push_back(sum * std::complex<double>(0, std::numbers::sqrt2 / count));
        }
        return all;
    };
    for (std::size_t n = 0; n < out.nodes.size(); ++n) out.nodes[n].ripple = phasors(p.rails[n]);
    for (std::size_t k = 0; k < p.feeds.size(); ++k)
        if (p.feeds[k].reservoir != std::size_t(-1)) {
            HeaterFeedFigures& feed = out.heaterFeeds[b.transformer.heaters[k].id];
            feed.ripple = phasors(p.feeds[k].out);
            feed.pulses = phasors(p.feeds[k].amps.front());
        }
    if (b.supply.connection == Connection::Doubler) out.middleRipple = phasors(p.legB);
    if (p.bias == std::size_t(-1)) return;
    out.biasReservoirRipple = phasors(p.bias);
    out.biasRailRipple = phasors(p.biasRail);
}

} // namespace ember::plan
