#include "helps.h"

#include "heater_hum.h"

#include "core/chassis/layout_edits.h"
#include "core/plan/solve.h"
#include "core/quantity/letters.h"
#include "core/quantity/quantity.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <optional>

namespace ember::wires {

namespace {

struct Candidate {
    Edit edit;
    bool circuit = false; ///< the supply is another
};

std::vector<Candidate> candidates(const Build& b) {
    std::vector<Candidate> out;
    const auto grounds = [&](GroundScheme scheme, const char* name) {
        if (b.wiring.grounds != scheme)
            out.push_back({setText(name, "/wiring/grounds", nameIn(groundSchemeNames, scheme)), false});
    };
    grounds(GroundScheme::LocalStars, "Each stage's return to its own decoupling capacitor");
    grounds(GroundScheme::OneStar, "All returns to one star");
    grounds(GroundScheme::TwoStars, "A star of the small signals and one of power, joined once");
    grounds(GroundScheme::Bus, "A bus along the stages");
    if (b.wiring.bond == Bond::None)
        out.push_back(
            {setText("One wire from the signal ground to the chassis", "/wiring/bond", nameIn(bondNames, Bond::Direct)),
             false});
    if (!b.wiring.insulatedJacks)
        out.push_back({setFlag("Insulate the input jacks from the chassis", "/wiring/insulatedJacks", true), false});
    std::vector<Edit> twisted, proposed;
    for (std::size_t k = b.wiring.wires.size(); k-- > 0;) {
        const Wire& w = b.wiring.wires[k];
        if (w.straight) twisted.push_back(setFlag("", fmt::format("/wiring/wires/{}/straight", k), false));
        if (w.removed || !w.to.empty()) proposed.push_back(removeAt("", fmt::format("/wiring/wires/{}", k)));
    }
    if (!twisted.empty()) out.push_back({together("Twist the heater wires", twisted), false});
    if (!proposed.empty()) out.push_back({together("Returns and other wires as proposed", proposed), false});
    for (std::size_t k = 0; k < b.transformer.heaters.size(); ++k)
        if (const HeaterWinding& h = b.transformer.heaters[k];
            h.feeds == "signal" && unbalance(h.reference) == 1 && !h.rectified())
            out.push_back({setText(fmt::format("{} referenced by its centre tap", upper(h.id)),
                                   fmt::format("/transformer/heaters/{}/reference", k),
                                   nameIn(heaterReferenceNames, HeaterReference::CentreTap)),
                           false});
    for (std::size_t k = 0; k < b.supply.sections.size(); ++k)
        if (const Section& s = b.supply.sections[k];
            s.kind == SectionKind::Capacitor && k > 0) // the first is the rectifier's to limit
            out.push_back({setValue(fmt::format("{} to {}", upper(s.id), format(2 * s.capacitance, Unit::Farad)),
                                    fmt::format("/supply/sections/{}/capacitance", k), 2 * s.capacitance),
                           true});
    for (std::size_t k = 0; k < b.chassis.parts.size(); ++k) {
        const PlacedPart& p = b.chassis.parts[k];
        if (p.core == CoreAxis::None || p.locked || !(p.voltAmperes > 0)) continue;
        Edit turned = chassis::turnParts(b.chassis, {k}, 90);
        turned.name = fmt::format("Turn {} by 90°", chassis::tagOf(p));
        out.push_back({std::move(turned), false});
    }
    return out;
}

double worst(const HumFigures& f) {
    double most = 0;
    for (const ChannelHum& c : f.channels) most = std::max(most, c.rms);
    return most;
}

} // namespace

std::vector<Help> whatHelps(const Build& b, const Catalogue& catalogue, const plan::Figures& figures,
                            std::stop_token stop) {
    std::vector<Help> out;
    HumSolver kept; // what the circuit decides is the same for every change of wires and places
    const auto hum = [&](const Build& of, const plan::Figures& f, HumSolver& solver) {
        const Harness harness = harnessOf(of, catalogue);
        return worst(solver.solve(of, catalogue, harness, heaterFigures(of, catalogue, harness, f), f));
    };
    const double now = hum(b, figures, kept);
    if (!(now > 0)) return out;
    for (Candidate& c : candidates(b)) {
        if (stop.stop_requested()) return {};
        const auto changed = apply(b, c.edit);
        if (!changed) continue;
        std::optional<plan::Figures> other;
        if (c.circuit) {
            other = plan::solveFigures(*changed, catalogue, stop);
            other->power = figures.power;
        }
        HumSolver fresh;
        const double then = other ? hum(*changed, *other, fresh) : hum(*changed, figures, kept);
        if (then > 0 && now > then * std::pow(10, 0.5 / 20))
            out.push_back({std::move(c.edit), 20 * std::log10(now / then)});
    }
    std::stable_sort(out.begin(), out.end(), [](const Help& x, const Help& y) { return x.decibels > y.decibels; });
    if (out.size() > 3) out.resize(3);
    return out;
}

} // namespace ember::wires
