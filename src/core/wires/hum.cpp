#include "hum.h"

#include "core/build/build_json.h"
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

/// Shares of a power transformer's stray moment at the odd harmonics: its magnetising current is bent so at rated flux.
/// A choice; iron near saturation has more.
constexpr std::array<std::pair<std::size_t, double>, 4> transformerHarmonics{
    {{1, 1.0}, {3, 0.25}, {5, 0.12}, {7, 0.05}}};
constexpr double leakOhms = 10e6;         // from a warm heater to its cathode, a choice: 10 uA at 100 V [ohm]
constexpr double gridPicofarad = 0.2e-12; // from heater pins to the grid's [F]

/// Share of half the heater's volts that is left against ground in the middle of a referenced winding.
double unbalance(HeaterReference r) {
    switch (r) {
    case HeaterReference::CentreTap: return 0.04; // as taps are wound
    case HeaterReference::Resistors: return 0.05; // as resistors are made
    case HeaterReference::Floating: break;
    }
    return 1;
}

std::vector<FieldSource> fieldSources(const Build& b, const Harness& h, const HeaterFigures& heaters,
                                      const plan::Steady& n, const std::vector<Eigen::VectorXcd>& returns) {
    std::vector<FieldSource> out;
    const std::size_t most = returns.size();
    const double rms = 1 / std::numbers::sqrt2;
    const chassis::Assembly assembly = chassis::assemble(b.chassis);
    for (const chassis::Dipole& d : chassis::dipolesOf(b.chassis, assembly)) {
        const PlacedPart& p = b.chassis.parts[d.part];
        FieldSource s{p.of, false, {d}, {}, {}, plan::Phasors(most, 0)};
        if (p.of == b.transformer.id) {
            for (const auto& [k, share] : transformerHarmonics)
                if (k <= most) s.amplitude[k - 1] = share * rms;
        } else {
            // A choke's flux follows the ripple before it, over frequency.
            for (std::size_t k = 0; k < b.supply.sections.size(); ++k) {
                const Section& x = b.supply.sections[k];
                if (x.id != p.of || x.kind != SectionKind::Choke) continue;
                const auto node = static_cast<std::size_t>(nodeOfSection(b.supply, k));
                if (node == 0 || node > n.nodes.size()) continue;
                double biggest = 0;
                for (std::size_t e = 0; e < most; ++e)
                    biggest = std::max(biggest, std::abs(n.nodes[node - 1].ripple[e]) / static_cast<double>(e + 1));
                for (std::size_t e = 0; e < most && biggest > 0; ++e)
                    s.amplitude[e] = rms * n.nodes[node - 1].ripple[e] / (static_cast<double>(e + 1) * biggest);
            }
        }
        if (std::any_of(s.amplitude.begin(), s.amplitude.end(), [](const Complex& a) { return std::abs(a) > 0; }))
            out.push_back(std::move(s));
    }
    for (const Run& r : h.runs) {
        if (r.kind != RunKind::Heater || !r.pair() || r.wire.id > r.twistedWith) continue; // each pair once
        const auto amps = heaters.runAmps.find(r.wire.id);
        if (amps == heaters.runAmps.end() || most == 0) continue;
        FieldSource s{r.wire.id,
                      true,
                      {},
                      {},
                      pairLoops(r.path, r.wire.straight ? straightSpacing : twistedSpacing, r.wire.pitch),
                      plan::Phasors(most, 0)};
        s.amplitude[0] = amps->second;
        out.push_back(std::move(s));
    }
    // The charging pulses' way from the winding by the rectifier and the first capacitor back.
    for (std::size_t g = 0; g < h.points.size(); ++g) {
        if (h.points[g].what != Returns::Winding) continue;
        FieldSource s{"charging current", false, {}, {}, {}, plan::Phasors(most, 0)};
        for (std::size_t k = 0; k < most; ++k) s.amplitude[k] = -returns[k][static_cast<Eigen::Index>(g)];
        const auto along = [&](const Run& r, bool backwards) {
            for (std::size_t k = 0; k + 1 < r.path.size(); ++k)
                s.wires.emplace_back(backwards ? r.path[k + 1] : r.path[k], backwards ? r.path[k] : r.path[k + 1]);
        };
        for (const Run& r : h.runs) {
            const Terminal *from = h.terminals.find(r.wire.from), *to = h.terminals.find(r.wire.to);
            if (r.net == "plate winding a" && from && to)
                along(r, std::holds_alternative<Windings>(h.terminals.part(*to).element));
            if (r.net == "B+1" && from && to &&
                (h.terminals.serves(*from) == Serves::Rectifier || h.terminals.serves(*to) == Serves::Rectifier))
                along(r, h.terminals.serves(*to) == Serves::Rectifier);
            if (r.kind == RunKind::Ground && r.fromPoint == static_cast<int>(g)) along(r, true);
            if (r.kind == RunKind::Ground && r.toPoint == static_cast<int>(g)) along(r, false);
        }
        // The last stretch runs from the capacitor back to the winding.
        if (!s.wires.empty()) out.push_back(std::move(s));
    }
    return out;
}

double squared(const std::vector<HumLine>& lines, std::size_t source) {
    double sum = 0;
    for (const HumLine& l : lines) sum += l.by[source] * l.by[source];
    return sum;
}

} // namespace

HumFigures HumSolver::solve(const Build& b, const Catalogue& catalogue, const Harness& h, const HeaterFigures& heaters,
                            const plan::Figures& f) {
    HumFigures out;
    if (!f.nominal || f.nominal->nodes.empty()) return out;
    const plan::Steady& n = *f.nominal;
    if (reaches.size() != b.channels.size()) reaches = reachesOf(b, catalogue, h, n);
    std::vector<std::vector<GridLoop>> grids;
    for (const ChannelReach& r : reaches) grids.push_back(gridLoops(b, catalogue, h, r.channel));
    const GroundNetwork network = groundNetwork(b, h);
    const auto returns = returnCurrents(b, h, n);
    const auto sources = fieldSources(b, h, heaters, n, returns);
    const std::size_t most = returns.size(), branches = network.branches.size(), points = network.points;
    std::vector<std::vector<double>> branchLinks, gridLinks; // by source
    for (const FieldSource& s : sources) {
        branchLinks.emplace_back();
        for (const GroundBranch& g : network.branches) branchLinks.back().push_back(linkage(s, h.runs[g.run].path));
        gridLinks.emplace_back();
        for (const auto& loops : grids)
            for (const GridLoop& g : loops) gridLinks.back().push_back(linkage(s, g.path));
    }
    for (std::size_t k : network.bonds) out.bonds.push_back(h.runs[network.branches[k].run].wire.id);
    for (std::size_t k : network.loose) out.loose.push_back(h.points[k].name);
    for (const auto& loop : network.loops) {
        GroundLoop l;
        for (const std::size_t k : loop) l.wires.push_back(h.runs[network.branches[k].run].wire.id);
        l.area = enclosedArea(polygonOf(network, h, loop));
        out.loops.push_back(std::move(l));
    }
    std::vector<double> amps(branches, 0), volts(points, 0), induced(out.loops.size(), 0);
    std::vector<std::vector<std::array<Complex, 3>>> ground(most); // by harmonic, by point: of currents, field, heaters
    for (std::size_t k = 0; k < most; ++k) {
        const double hertz = b.mains.frequency * static_cast<double>(k + 1);
        Eigen::VectorXcd field = Eigen::VectorXcd::Zero(static_cast<Eigen::Index>(branches)), heater = field,
                         none = field;
        for (std::size_t s = 0; s < sources.size(); ++s)
            for (std::size_t g = 0; g < branches; ++g)
                (sources[s].heater ? heater : field)[static_cast<Eigen::Index>(g)] +=
                    emfAt(sources[s], branchLinks[s][g], k, b.mains.frequency);
        const Eigen::VectorXcd still = Eigen::VectorXcd::Zero(static_cast<Eigen::Index>(points));
        const Eigen::VectorXcd byCurrent = groundVolts(network, returns[k], none, hertz),
                               byField = groundVolts(network, still, field, hertz),
                               byHeater = groundVolts(network, still, heater, hertz);
        for (std::size_t p = 0; p < points; ++p) {
            const auto at = static_cast<Eigen::Index>(p);
            ground[k].push_back({byCurrent[at], byField[at], byHeater[at]});
            volts[p] += std::norm(byCurrent[at] + byField[at]);
        }
        for (std::size_t g = 0; g < branches; ++g) {
            const auto at = static_cast<Eigen::Index>(g);
            amps[g] += std::norm(wires::branchAmps(network, g, byCurrent, 0, hertz) +
                                 wires::branchAmps(network, g, byField, field[at], hertz));
        }
        for (std::size_t l = 0; l < network.loops.size(); ++l) {
            Complex sum = 0;
            std::size_t here = network.branches[network.loops[l].front()].from;
            for (const std::size_t g : network.loops[l]) {
                const bool along = network.branches[g].from == here;
                sum +=
                    (along ? 1.0 : -1.0) * (field[static_cast<Eigen::Index>(g)] + heater[static_cast<Eigen::Index>(g)]);
                here = along ? network.branches[g].to : network.branches[g].from;
            }
            induced[l] += std::norm(sum);
        }
    }
    for (std::size_t g = 0; g < branches; ++g)
        out.groundAmps[h.runs[network.branches[g].run].wire.id] = std::sqrt(amps[g]);
    for (std::size_t p = 0; p < points; ++p) out.groundVolts[h.points[p].name] = std::sqrt(volts[p]);
    for (std::size_t l = 0; l < induced.size(); ++l) out.loops[l].induced = std::sqrt(induced[l]);

    std::size_t firstGrid = 0;
    for (std::size_t ch = 0; ch < reaches.size(); ++ch) {
        const ChannelReach& r = reaches[ch];
        const std::vector<GridLoop>& loops = grids[ch];
        ChannelHum c;
        c.channel = r.channel;
        if (r.channel < f.power.size()) c.rated = f.power[r.channel].clipOutput;
        double weighted = r.weightedNoise * r.weightedNoise;
        for (std::size_t k = 0; k < std::min(most, r.harmonics.size()); ++k) {
            const ReachAt& at = r.harmonics[k];
            std::array<Complex, humSources> sum{};
            const auto add = [&](HumSource s, const Complex& x) { sum[static_cast<std::size_t>(s)] += x; };
            for (std::size_t node = 0; node < at.nodes.size(); ++node)
                add(HumSource::Ripple, at.nodes[node] * n.nodes[node].ripple[k]);
            for (std::size_t w = 0; w < at.wipers.size() && k < n.biasRailRipple.size(); ++w)
                add(HumSource::Ripple,
                    at.wipers[w] * n.biasRailRipple[k] * (n.biasRail != 0 ? n.wipers[w] / n.biasRail : 0));
            Complex input = 0;
            for (std::size_t p = 0; p < points; ++p) {
                add(HumSource::Grounds, at.grounds[p] * ground[k][p][0]);
                add(HumSource::Field, at.grounds[p] * ground[k][p][1]);
                add(HumSource::Heaters, at.grounds[p] * ground[k][p][2]);
                input += at.grounds[p] * ground[k][p][0];
            }
            c.groundAtInput.push_back(std::abs(at.input) > 0 ? std::abs(input / at.input) : plan::unknown);
            for (std::size_t v = 0; v < loops.size(); ++v)
                for (std::size_t s = 0; s < sources.size(); ++s) {
                    const Complex emf = emfAt(sources[s], gridLinks[s][firstGrid + v], k, b.mains.frequency);
                    add(sources[s].heater ? HumSource::Heaters : HumSource::Field, at.grids[v] * emf);
                    if (k == 0) out.worstFieldAt[loops[v].valve] += std::norm(emf);
                }
            if (k == 0) // what leaks from the heaters, by conduction and by capacitance
                for (std::size_t v = 0; v < loops.size(); ++v) {
                    const Valve& bottle = b.bottles[loops[v].bottle];
                    const auto winding = plan::windingOf(b, bottle);
                    if (!winding) continue;
                    const HeaterWinding& w = b.transformer.heaters[*winding];
                    const double left = unbalance(w.reference) * w.volts / 2;
                    add(HumSource::Heaters, at.cathodeAmps[v] * left / leakOhms);
                    add(HumSource::Heaters,
                        at.gridAmps[v] * Complex(0, 2 * std::numbers::pi * at.hertz * gridPicofarad) * left);
                }
            HumLine line;
            line.hertz = at.hertz;
            double square = 0, all = 0, biggest = 0;
            for (std::size_t s = 0; s < humSources; ++s) {
                line.by[s] = std::abs(sum[s]);
                all += line.by[s];
                if (line.by[s] > biggest) biggest = line.by[s], line.source = static_cast<HumSource>(s);
            }
            // Ripple and returns come from one waveform, so that their phase is known; the others' is not.
            const double together = std::abs(sum[0] + sum[2]);
            square = together * together + line.by[1] * line.by[1] + line.by[3] * line.by[3];
            line.rms = std::sqrt(square);
            line.most = together + line.by[1] + line.by[3];
            line.least = std::max(0.0, 2 * std::max({together, line.by[1], line.by[3]}) - line.most);
            weighted += square * weightA(at.hertz) * weightA(at.hertz);
            c.lines.push_back(line);
        }
        firstGrid += loops.size();
        double total = r.noise * r.noise;
        for (const HumLine& l : c.lines) total += l.rms * l.rms;
        for (std::size_t s = 0; s < humSources; ++s) c.by[s] = std::sqrt(squared(c.lines, s));
        c.by[static_cast<std::size_t>(HumSource::Noise)] = r.noise;
        c.rms = std::sqrt(total);
        c.weighted = std::sqrt(weighted);
        out.channels.push_back(std::move(c));
    }
    for (auto& [valve, square] : out.worstFieldAt) square = std::sqrt(square);
    return out;
}

void addWires(const Build& b, const Catalogue& catalogue, plan::Figures& f) {
    f.wires = std::make_shared<const WireFigures>(wireFigures(b, catalogue, f));
}

void addRated(plan::Figures& f) {
    if (!f.wires) return;
    auto rated = std::make_shared<WireFigures>(*f.wires);
    for (ChannelHum& c : rated->hum.channels)
        if (c.channel < f.power.size()) c.rated = f.power[c.channel].clipOutput;
    f.wires = std::move(rated);
}

WireFigures wireFigures(const Build& b, const Catalogue& catalogue, const plan::Figures& f) {
    WireFigures out;
    out.harness = harnessOf(b, catalogue);
    addFigures(out.harness, b, f);
    out.heaters = heaterFigures(b, catalogue, out.harness, f);
    for (Run& r : out.harness.runs)
        if (const auto at = out.heaters.runAmps.find(r.wire.id); at != out.heaters.runAmps.end()) r.amps = at->second;
    out.hum = HumSolver().solve(b, catalogue, out.harness, out.heaters, f);
    for (Run& r : out.harness.runs)
        if (const auto at = out.hum.groundAmps.find(r.wire.id); at != out.hum.groundAmps.end()) r.amps = at->second;
    return out;
}

} // namespace ember::wires
