#include "field_sources.h"

#include "core/plan/choke_flux.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <set>

namespace ember::wires {

using namespace schematic;
using Complex = std::complex<double>;

namespace {

/// Shares of a power transformer's stray moment at the odd harmonics: its magnetising current is bent so at rated flux.
/// A choice; iron near saturation has more.
constexpr std::array<std::pair<std::size_t, double>, 4> transformerHarmonics{
    {{1, 1.0}, {3, 0.25}, {5, 0.12}, {7, 0.05}}};

/// Heaters in series are joined by single wires: the way from the winding through them and back is one open loop.
void heaterStrings(const Harness& h, const HeaterFigures& heaters, std::size_t most, std::vector<FieldSource>& out) {
    if (most == 0) return;
    for (const Run& begin : h.runs) {
        if (begin.kind != RunKind::Heater || begin.pair()) continue;
        const auto amps = heaters.runAmps.find(begin.wire.id);
        if (amps == heaters.runAmps.end() || begin.net != heaterNet(begin.heater, 'a')) continue;
        FieldSource s{true, {}, {}, {}, plan::Phasors(most, 0)};
        s.amplitude[0] = amps->second;
        // From part to part until the winding comes again.
        const Run* run = &begin;
        bool forward = true;
        std::set<const Run*> seen;
        while (run && seen.insert(run).second) {
            const auto& path = run->path;
            for (std::size_t k = 0; k + 1 < path.size(); ++k)
                s.wires.emplace_back(path[forward ? k : k + 1], path[forward ? k + 1 : k]);
            const Terminal* at = h.terminals.find(forward ? run->wire.to : run->wire.from);
            if (!at || !std::holds_alternative<Bottle>(h.terminals.part(*at).element)) break;
            const Run* next = nullptr;
            for (const Run& r : h.runs) {
                if (seen.contains(&r) || r.pair() || (r.kind != RunKind::Heater && !r.net.starts_with("heater string")))
                    continue;
                for (const bool along : {true, false}) {
                    const Terminal* end = h.terminals.find(along ? r.wire.from : r.wire.to);
                    if (end && end->pin.part == at->pin.part) next = &r, forward = along;
                }
                if (next) break;
            }
            run = next;
        }
        out.push_back(std::move(s));
    }
}

} // namespace

std::vector<FieldSource> fieldSources(const Build& b, const Harness& h, const HeaterFigures& heaters,
                                      const plan::Steady& n, const std::vector<Eigen::VectorXcd>& returns) {
    std::vector<FieldSource> out;
    const std::size_t most = returns.size();
    const chassis::Assembly assembly = chassis::assemble(b.chassis);
    for (const chassis::Dipole& d : chassis::dipolesOf(b.chassis, assembly)) {
        const PlacedPart& p = b.chassis.parts[d.part];
        FieldSource s{false, {d}, {}, {}, plan::Phasors(most, 0)};
        if (p.of == b.transformer.id) {
            for (const auto& [k, share] : transformerHarmonics)
                if (k <= most) s.amplitude[k - 1] = share;
        } else {
            for (std::size_t k = 0; k < b.supply.sections.size(); ++k) {
                if (b.supply.sections[k].id != p.of) continue;
                const plan::Phasors flux = plan::alternatingFlux(b, n, k);
                for (std::size_t e = 0; e < std::min(most, flux.size()); ++e) s.amplitude[e] = plan::gapLeak * flux[e];
            }
        }
        if (std::any_of(s.amplitude.begin(), s.amplitude.end(), [](const Complex& a) { return std::abs(a) > 0; }))
            out.push_back(std::move(s));
    }
    for (const Run& r : h.runs) {
        if (r.kind != RunKind::Heater || !r.pair() || r.wire.id > r.twistedWith) continue; // each pair once
        const auto amps = heaters.runAmps.find(r.wire.id);
        if (amps == heaters.runAmps.end() || most == 0) continue;
        FieldSource s{true,
                      {},
                      {},
                      pairLoops(r.path, r.wire.straight ? straightSpacing : twistedSpacing, r.wire.pitch),
                      plan::Phasors(most, 0)};
        const auto feed = n.heaterFeeds.find(r.heater);
        if (feed == n.heaterFeeds.end() || feed->second.ripple.empty())
            s.amplitude[0] = amps->second;
        else // of direct current its ripple
            for (std::size_t k = 0; k < std::min(most, feed->second.ripple.size()); ++k)
                s.amplitude[k] = amps->second * feed->second.ripple[k] / feed->second.out;
        out.push_back(std::move(s));
    }
    heaterStrings(h, heaters, most, out);
    // A rectified heater winding's pulses, out by one lead and back by the other.
    for (const auto& [id, feed] : n.heaterFeeds) {
        if (feed.pulses.empty()) continue;
        FieldSource s{true, {}, {}, {}, plan::Phasors(most, 0)};
        for (std::size_t k = 0; k < std::min(most, feed.pulses.size()); ++k) s.amplitude[k] = feed.pulses[k];
        for (const Run& r : h.runs) {
            if (r.kind != RunKind::Winding || !r.net.starts_with("heater winding " + id + " ")) continue;
            const Terminal* from = h.terminals.find(r.wire.from);
            const bool leaves = from && std::holds_alternative<Windings>(h.terminals.part(*from).element),
                       first = r.net.ends_with(" 1");
            for (std::size_t k = 0; k + 1 < r.path.size(); ++k)
                s.wires.emplace_back(r.path[leaves == first ? k : k + 1], r.path[leaves == first ? k + 1 : k]);
        }
        if (!s.wires.empty()) out.push_back(std::move(s));
    }
    // The charging pulses' way from the winding by the rectifier and the first capacitor back.
    for (std::size_t g = 0; g < h.points.size(); ++g) {
        if (h.points[g].what != Returns::Winding) continue;
        FieldSource s{false, {}, {}, {}, plan::Phasors(most, 0)};
        for (std::size_t k = 0; k < most; ++k) s.amplitude[k] = -returns[k][static_cast<Eigen::Index>(g)];
        // A doubler's other diode takes the same pulses half a period later: the winding's leads carry the difference
        // of both, out by one and back by the other.
        const bool doubler = b.supply.connection == Connection::Doubler;
        FieldSource winding = s, upper = s;
        for (std::size_t k = 0; doubler && k < most; ++k) {
            const double turned = (k + 1) % 2 ? -1 : 1; // of harmonic k + 1, by half a period
            upper.amplitude[k] *= turned;
            winding.amplitude[k] *= turned - 1;
        }
        const auto alongIn = [](FieldSource& x, const Run& r, bool backwards) {
            for (std::size_t k = 0; k + 1 < r.path.size(); ++k)
                x.wires.emplace_back(backwards ? r.path[k + 1] : r.path[k], backwards ? r.path[k] : r.path[k + 1]);
        };
        const auto along = [&](const Run& r, bool backwards) { alongIn(s, r, backwards); };
        FieldSource &lead = doubler ? winding : s, &toRail = doubler ? upper : s;
        for (const Run& r : h.runs) {
            const Terminal *from = h.terminals.find(r.wire.from), *to = h.terminals.find(r.wire.to);
            if (r.net == "plate winding a" && from && to)
                alongIn(lead, r, std::holds_alternative<Windings>(h.terminals.part(*to).element));
            if (doubler && r.net == "plate winding b" && from && to)
                alongIn(lead, r, std::holds_alternative<Windings>(h.terminals.part(*from).element));
            if (r.net == rectifierLead('a') && from && to) // behind a resistor in the leg
                alongIn(lead, r, std::holds_alternative<Resistance>(h.terminals.part(*to).element));
            if (r.net == "B+1" && from && to &&
                (h.terminals.serves(*from) == Serves::Rectifier || h.terminals.serves(*to) == Serves::Rectifier))
                alongIn(toRail, r, h.terminals.serves(*to) == Serves::Rectifier);
            if (r.kind == RunKind::Ground && r.fromPoint == static_cast<int>(g)) along(r, true);
            if (r.kind == RunKind::Ground && r.toPoint == static_cast<int>(g)) along(r, false);
        }
        for (FieldSource* each : {&s, &winding, &upper})
            if (!each->wires.empty()) out.push_back(std::move(*each));
    }
    return out;
}

} // namespace ember::wires
