#include "hum.h"

#include "field_sources.h"
#include "heater_hum.h"
#include "iron_pickup.h"
#include "run_figures.h"

#include "core/plan/supply_circuit.h"
#include "core/quantity/weighting.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

namespace ember::wires {

using namespace schematic;
using circuit::Complex;

const char* nameOf(HumSource source) {
    constexpr std::array names{"ripple", "heaters", "grounds", "field", "noise"};
    return names[static_cast<std::size_t>(source)];
}

double ChannelHum::belowRatedDb() const {
    return rms > 0 ? 20 * std::log10(rated / rms) : plan::unknown;
}

namespace {

constexpr double leakOhms = 10e6;      // from a warm heater to its cathode, a choice: 10 uA at 100 V [ohm]
constexpr double gridFarads = 0.2e-12; // from heater pins to the grid's [F]

/// How much of each source's potential every wire of the return network and every grid's loop links [V s] for
/// amplitude 1.
struct Links {
    std::vector<FieldSource> sources;
    std::vector<std::vector<double>> branches, grids; ///< by source; grids of all channels one after another
};
Links linksOf(const GroundNetwork& network, const Harness& h, const std::vector<std::vector<GridLoop>>& grids,
              std::vector<FieldSource> sources) {
    Links out{std::move(sources), {}, {}};
    for (const FieldSource& s : out.sources) {
        out.branches.emplace_back();
        for (const GroundBranch& g : network.branches) out.branches.back().push_back(linkage(s, h.runs[g.run].path));
        out.grids.emplace_back();
        for (const auto& loops : grids)
            for (const GridLoop& g : loops) out.grids.back().push_back(linkage(s, g.path));
    }
    return out;
}

/// The return network solved: volts of each point by what makes them, and squares of what flows and is induced.
struct Grounds {
    std::vector<Eigen::VectorXcd> current, field, heater;       ///< by harmonic: volts of the points
    std::vector<double> squareAmps, squareVolts, squareInduced; ///< by branch, point, loop
};
Grounds groundsOf(const Build& b, const GroundNetwork& network, const Links& links,
                  const std::vector<Eigen::VectorXcd>& returns) {
    const auto branches = static_cast<Eigen::Index>(network.branches.size()),
               points = static_cast<Eigen::Index>(network.points);
    Grounds out;
    out.squareAmps.assign(network.branches.size(), 0);
    out.squareVolts.assign(network.points, 0);
    out.squareInduced.assign(network.loops.size(), 0);
    const Eigen::VectorXcd none = Eigen::VectorXcd::Zero(branches), still = Eigen::VectorXcd::Zero(points);
    for (std::size_t k = 0; k < returns.size(); ++k) {
        const double hertz = b.mains.frequency * static_cast<double>(k + 1);
        Eigen::VectorXcd field = none, heater = none;
        for (std::size_t s = 0; s < links.sources.size(); ++s)
            for (Eigen::Index g = 0; g < branches; ++g)
                (links.sources[s].heater ? heater : field)[g] +=
                    emfAt(links.sources[s], links.branches[s][static_cast<std::size_t>(g)], k, b.mains.frequency);
        out.current.push_back(groundVolts(network, returns[k], none, hertz));
        out.field.push_back(groundVolts(network, still, field, hertz));
        out.heater.push_back(groundVolts(network, still, heater, hertz));
        for (Eigen::Index p = 0; p < points; ++p)
            out.squareVolts[static_cast<std::size_t>(p)] += std::norm(out.current[k][p] + out.field[k][p]);
        for (std::size_t g = 0; g < network.branches.size(); ++g)
            out.squareAmps[g] +=
                std::norm(branchAmps(network, g, out.current[k], 0, hertz) +
                          branchAmps(network, g, out.field[k], field[static_cast<Eigen::Index>(g)], hertz));
        for (std::size_t l = 0; l < network.loops.size(); ++l) {
            Complex sum = 0;
            std::size_t here = network.branches[network.loops[l].front()].from;
            for (const std::size_t g : network.loops[l]) {
                const bool along = network.branches[g].from == here;
                const auto at = static_cast<Eigen::Index>(g);
                sum += (along ? 1.0 : -1.0) * (field[at] + heater[at]);
                here = along ? network.branches[g].to : network.branches[g].from;
            }
            out.squareInduced[l] += std::norm(sum);
        }
    }
    return out;
}

/// Bonds, loops, currents and volts, by the names of wires and points.
void describe(HumFigures& out, const GroundNetwork& network, const Harness& h, const Grounds& ground) {
    const auto wire = [&](std::size_t branch) { return h.runs[network.branches[branch].run].wire.id; };
    for (const std::size_t k : network.bonds) out.bonds.push_back(wire(k));
    for (const std::size_t k : network.loose) out.loose.push_back(h.points[k].name);
    for (std::size_t l = 0; l < network.loops.size(); ++l) {
        GroundLoop loop{{}, enclosedArea(polygonOf(network, h, network.loops[l])), std::sqrt(ground.squareInduced[l])};
        for (const std::size_t k : network.loops[l]) loop.wires.push_back(wire(k));
        out.loops.push_back(std::move(loop));
    }
    for (std::size_t g = 0; g < network.branches.size(); ++g) out.groundAmps[wire(g)] = std::sqrt(ground.squareAmps[g]);
    for (std::size_t p = 0; p < network.points; ++p)
        out.groundVolts[h.points[p].name] = std::sqrt(ground.squareVolts[p]);
}

/// What each source of field makes of each of the channel's iron, at the output.
std::vector<IronPickup> pickupsOf(const Build& b, const ChannelReach& r, const std::vector<IronReceiver>& receivers,
                                  const Links& links) {
    std::vector<IronPickup> out;
    for (std::size_t k = 0; k < receivers.size(); ++k)
        for (const FieldSource& s : links.sources) {
            const double along = axialField(s, receivers[k]);
            if (along == 0) continue;
            double squares = 0;
            for (std::size_t e = 0; e < std::min(s.amplitude.size(), r.harmonics.size()); ++e)
                squares += std::norm(r.harmonics[e].iron[k] * voltsATurn(receivers[k], e, b.mains.frequency) * along *
                                     s.amplitude[e]);
            out.push_back({b.chassis.parts[s.dipoles.front().part].of, r.iron[k], r.channel, std::sqrt(squares)});
        }
    return out;
}

ChannelHum channelHum(const Build& b, const Catalogue& catalogue, const plan::Steady& n, const ChannelReach& r,
                      const std::vector<GridLoop>& loops, const std::vector<IronReceiver>& receivers,
                      const Links& links, std::size_t firstGrid, const Grounds& ground) {
    ChannelHum c;
    c.channel = r.channel;
    double weighted = r.weightedNoise * r.weightedNoise, total = r.noise * r.noise, least = total, most = total;
    for (std::size_t k = 0; k < std::min(ground.current.size(), r.harmonics.size()); ++k) {
        const ReachAt& at = r.harmonics[k];
        std::array<Complex, humSources> sum{};
        const auto of = [&](HumSource s) -> Complex& { return sum[static_cast<std::size_t>(s)]; };
        for (std::size_t node = 0; node < at.nodes.size(); ++node)
            of(HumSource::Ripple) += at.nodes[node] * n.nodes[node].ripple[k];
        for (std::size_t w = 0; w < at.wipers.size() && k < n.biasRailRipple.size() && n.biasRail != 0; ++w)
            of(HumSource::Ripple) += at.wipers[w] * n.biasRailRipple[k] * (n.wipers[w] / n.biasRail);
        for (std::size_t p = 0; p < at.grounds.size(); ++p) {
            const auto point = static_cast<Eigen::Index>(p);
            of(HumSource::Grounds) += at.grounds[p] * ground.current[k][point];
            of(HumSource::Field) += at.grounds[p] * ground.field[k][point];
            of(HumSource::Heaters) += at.grounds[p] * ground.heater[k][point];
        }
        c.groundAtInput.push_back(std::abs(at.input) > 0 ? std::abs(of(HumSource::Grounds) / at.input) : plan::unknown);
        for (std::size_t v = 0; v < loops.size(); ++v)
            for (std::size_t s = 0; s < links.sources.size(); ++s)
                of(links.sources[s].heater ? HumSource::Heaters : HumSource::Field) +=
                    at.grids[v] * emfAt(links.sources[s], links.grids[s][firstGrid + v], k, b.mains.frequency);
        for (std::size_t m = 0; m < receivers.size(); ++m)
            for (const FieldSource& s : links.sources)
                if (k < s.amplitude.size())
                    of(HumSource::Field) += at.iron[m] * voltsATurn(receivers[m], k, b.mains.frequency) *
                                            axialField(s, receivers[m]) * s.amplitude[k];
        for (std::size_t v = 0; v < loops.size(); ++v) { // what leaks from heaters, resistive and capacitive
            const Valve& bottle = b.bottles[loops[v].bottle];
            const auto winding = heaterWindingOf(b, bottle);
            const ValveType* type = catalogue.valve(bottle.type);
            if (!winding || !type) continue;
            const HeaterWinding& w = b.transformer.heaters[*winding];
            const auto found = n.heaterFeeds.find(w.id);
            const plan::HeaterFeedFigures* feed = found == n.heaterFeeds.end() ? nullptr : &found->second;
            const Complex middle = heaterMiddle(w, feed, k);
            Complex& sumOf = of(HumSource::Heaters);
            sumOf += at.gridAmps[v] * Complex(0, 2 * std::numbers::pi * at.hertz * gridFarads) * middle;
            if (!type->heater.directlyHeated) {
                sumOf += at.cathodeAmps[v] * middle / leakOhms;
                continue;
            }
            sumOf -= at.grids[v] * middle; // the filament is the cathode
            if (k == 1 && !w.rectified() && feed)
                for (const plan::ChannelPoint& other : n.channels)
                    for (const plan::ValvePoint& p : other.valves)
                        if (p.bottle == loops[v].bottle)
                            sumOf += at.grids[v] * filamentSecondHarmonic(type->section(p.section).law, p, feed->out);
        }
        HumLine line;
        line.hertz = at.hertz;
        for (std::size_t s = 0; s < humSources; ++s) {
            line.by[s] = std::abs(sum[s]);
            c.by[s] += line.by[s] * line.by[s];
            if (line.by[s] > line.by[static_cast<std::size_t>(line.source)]) line.source = static_cast<HumSource>(s);
        }
        // Ripple and returns come from one waveform, so that their phase is known; the others' is not.
        const double together = std::abs(of(HumSource::Ripple) + of(HumSource::Grounds)),
                     heaters = std::abs(of(HumSource::Heaters)), field = std::abs(of(HumSource::Field));
        line.rms = std::sqrt(together * together + heaters * heaters + field * field);
        line.most = together + heaters + field;
        line.least = std::max(0.0, 2 * std::max({together, heaters, field}) - line.most);
        total += line.rms * line.rms;
        least += line.least * line.least;
        most += line.most * line.most;
        weighted += std::pow(line.rms * weightA(at.hertz), 2);
        c.lines.push_back(line);
    }
    for (double& square : c.by) square = std::sqrt(square);
    c.by[static_cast<std::size_t>(HumSource::Noise)] = r.noise;
    c.rms = std::sqrt(total);
    c.least = std::sqrt(least);
    c.most = std::sqrt(most);
    c.weighted = std::sqrt(weighted);
    return c;
}

} // namespace

namespace {

/// The source's lead as one wire more, from the jack's sleeve to the chassis by the mains' earths, with an EMF in it.
/// The input's own volts are against the source's end of the screen: what falls along the screen is in series with the
/// signal.
EarthLoop earthLoop(const Build& b, const Harness& h, const GroundNetwork& network, const ChannelReach& r) {
    EarthLoop out;
    out.channel = r.channel;
    std::size_t jack = network.points;
    for (std::size_t k = 0; k < h.points.size(); ++k)
        if (h.points[k].what == Returns::Jack && h.points[k].channel == b.channels[r.channel].id) jack = k;
    if (jack == network.points || r.harmonics.empty()) return out;
    constexpr double earthOhms = 0.2; // of two earth conductors to the same distribution board
    GroundNetwork ring = network;
    ring.branches.push_back({jack, network.points, 0, b.wiring.screenOhms + earthOhms, 2e-6});
    const auto count = static_cast<Eigen::Index>(ring.branches.size());
    Eigen::VectorXcd emf = Eigen::VectorXcd::Zero(count);
    emf[count - 1] = b.wiring.earthVolts;
    const double hertz = b.mains.frequency;
    const Eigen::VectorXcd still = Eigen::VectorXcd::Zero(static_cast<Eigen::Index>(network.points)),
                           volts = groundVolts(ring, still, emf, hertz);
    const Complex amps = branchAmps(ring, ring.branches.size() - 1, volts, emf[count - 1], hertz);
    const ReachAt& at = r.harmonics.front();
    Complex sum = -at.input * amps * b.wiring.screenOhms;
    for (std::size_t p = 0; p < at.grounds.size(); ++p) sum += at.grounds[p] * volts[static_cast<Eigen::Index>(p)];
    out.amps = std::abs(amps);
    out.output = std::abs(sum);
    return out;
}

} // namespace

HumFigures HumSolver::solve(const Build& b, const Catalogue& catalogue, const Harness& h, const HeaterFigures& heaters,
                            const plan::Figures& f) {
    HumFigures out;
    if (!f.nominal || f.nominal->nodes.empty()) return out;
    const plan::Steady& n = *f.nominal;
    std::vector<std::string> now;
    for (const GroundPoint& g : h.points) now.push_back(g.name);
    if (reaches.size() != b.channels.size() || now != points) {
        reaches = reachesOf(b, catalogue, h, n);
        points = std::move(now);
    }
    std::vector<std::vector<GridLoop>> grids;
    for (const ChannelReach& r : reaches) grids.push_back(gridLoops(b, catalogue, h, r.channel));
    const GroundNetwork network = groundNetwork(b, h);
    const auto returns = returnCurrents(b, h, n);
    const Links links = linksOf(network, h, grids, fieldSources(b, h, heaters, n, returns));
    const Grounds ground = groundsOf(b, network, links, returns);
    describe(out, network, h, ground);
    std::size_t firstGrid = 0;
    for (std::size_t k = 0; k < reaches.size(); ++k) {
        const auto receivers = ironReceivers(b, reaches[k]);
        out.channels.push_back(channelHum(b, catalogue, n, reaches[k], grids[k], receivers, links, firstGrid, ground));
        for (IronPickup& p : pickupsOf(b, reaches[k], receivers, links)) out.pickups.push_back(std::move(p));
        if (reaches[k].channel < f.power.size()) out.channels.back().rated = f.power[reaches[k].channel].clipOutput;
        firstGrid += grids[k].size();
    }
    std::sort(out.pickups.begin(), out.pickups.end(),
              [](const IronPickup& x, const IronPickup& y) { return x.output > y.output; });
    out.driven = signalReturns(h, network, reaches);
    for (const ChannelReach& r : reaches) out.earthLoops.push_back(earthLoop(b, h, network, r));
    return out;
}

void addWires(const Build& b, const Catalogue& catalogue, plan::Figures& f) {
    f.wires = std::make_shared<const WireFigures>(wireFigures(b, catalogue, f));
}

void completeWires(const Build& b, plan::Figures& f) {
    if (!f.wires) return;
    auto rated = std::make_shared<WireFigures>(*f.wires);
    for (ChannelHum& c : rated->hum.channels)
        if (c.channel < f.power.size()) c.rated = f.power[c.channel].clipOutput;
    rated->hum.faults = earthFaults(b, rated->harness, groundNetwork(b, rated->harness), f);
    f.wires = std::move(rated);
}

WireFigures wireFigures(const Build& b, const Catalogue& catalogue, const plan::Figures& f) {
    WireFigures out;
    out.harness = harnessOf(b, catalogue);
    addFigures(out.harness, b, f);
    out.boards = boardsOf(b, out.harness);
    out.heaters = heaterFigures(b, catalogue, out.harness, f);
    for (Run& r : out.harness.runs)
        if (const auto at = out.heaters.runAmps.find(r.wire.id); at != out.heaters.runAmps.end()) r.amps = at->second;
    out.hum = HumSolver().solve(b, catalogue, out.harness, out.heaters, f);
    out.hum.faults = earthFaults(b, out.harness, groundNetwork(b, out.harness), f);
    for (Run& r : out.harness.runs)
        if (const auto at = out.hum.groundAmps.find(r.wire.id); at != out.hum.groundAmps.end()) r.amps = at->second;
    return out;
}

} // namespace ember::wires
