// Part values that are not sold and chains without an end: reported at their place, and computed as far as possible.
#include "findings.h"

#include "remedies.h"

#include "core/build/build_json.h"
#include "core/build/chain_edits.h"
#include "core/plan/source_model.h"
#include "core/plan/supply_circuit.h"
#include "core/quantity/letters.h"
#include "core/quantity/quantity.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember::rules {

namespace {

Finding odd(std::string id, std::string title, std::string text, Level level = Level::Warn) {
    return finding("supply", std::move(id), level, std::move(title), std::move(text));
}

/// What hangs on a node.
struct NodeParts {
    bool capacitor = false, stage = false, drawn = false;
    double least = 1e12;          ///< [ohm] of the resistors to ground
    std::string leastId, leastAt; ///< its id, and where it stands in the file
};

std::vector<NodeParts> partsOf(const Build& b) {
    std::vector<NodeParts> nodes(static_cast<std::size_t>(supplyNodes(b.supply)));
    const auto at = [&](int node) -> NodeParts& { return nodes[static_cast<std::size_t>(node - 1)]; };
    const auto resistor = [&](int node, double ohms, const std::string& id, const std::string& place) {
        NodeParts& n = at(node);
        n.drawn = true;
        if (ohms < n.least) n.least = ohms, n.leastId = id, n.leastAt = place;
    };
    for (std::size_t k = 0; k < b.supply.sections.size(); ++k)
        if (b.supply.sections[k].kind == SectionKind::Capacitor) at(nodeOfSection(b.supply, k)).capacitor = true;
    for (std::size_t k = 0; k < b.supply.bleeders.size(); ++k) {
        const Bleeder& x = b.supply.bleeders[k];
        resistor(x.node, x.inSeries * x.resistor.resistance, x.resistor.id, fmt::format("/supply/bleeders/{}", k));
    }
    for (std::size_t k = 0; k < b.supply.loads.size(); ++k) {
        const SupplyLoad& x = b.supply.loads[k];
        if (x.resistance > 0) resistor(x.node, x.resistance, x.id, fmt::format("/supply/loads/{}", k));
        at(x.node).drawn = at(x.node).drawn || x.amps > 0;
    }
    for (const Channel& ch : b.channels)
        for (const Stage& s : ch.stages)
            if (!s.valves.empty())
                for (const int node : {s.node, s.screensNode()}) at(node).stage = at(node).drawn = true;
    return nodes;
}

/// What windings of this size have: a choke about 15 ohm for each henry, a tap its share of the usual regulation.
double usualCopper(const Section& s) {
    const double ohms = s.kind == SectionKind::Choke
                            ? 15 * s.inductance
                            : plan::regulationOf(2 * s.volts * s.amps) * s.volts / std::max(1e-4, s.amps);
    return nearest(std::max(0.1, ohms), Series::E12);
}

void nothingRules(const Build& b, const plan::Figures& f, std::vector<Finding>& out) {
    for (std::size_t k = 0; k < b.supply.sections.size(); ++k) {
        const Section& s = b.supply.sections[k];
        const int node = nodeOfSection(b.supply, k);
        if (s.kind == SectionKind::Choke && s.inductance <= 0) {
            Finding x = odd("no-inductance/" + s.id, fmt::format("{} has no inductance", upper(s.id)),
                            fmt::format("It holds no ripple back: B+{} is computed as behind its copper alone, {}.",
                                        node + 1, format(plan::asComputed(s).resistance, Unit::Ohm)));
            x.fix = setValue(fmt::format("{} of 10 H", upper(s.id)), fmt::format("/supply/sections/{}/inductance", k),
                             10.0);
            out.push_back(std::move(x));
        }
        const bool winding = s.kind == SectionKind::Choke || s.kind == SectionKind::Tap;
        if (s.resistance <= 0 && winding) {
            Finding x = odd("no-copper/" + s.id, fmt::format("{} has no resistance", upper(s.id)),
                            fmt::format("Every winding has some: {} is taken. Measure it with the plug out and set "
                                        "it here.",
                                        format(plan::asComputed(s).resistance, Unit::Ohm)));
            const double usual = usualCopper(s);
            x.fix = setValue(fmt::format("take {} until it is measured", format(usual, Unit::Ohm)),
                             fmt::format("/supply/sections/{}/resistance", k), usual);
            out.push_back(std::move(x));
        }
        if (s.resistance <= 0 && s.kind == SectionKind::Resistor) {
            Finding x =
                odd("shorted-section/" + s.id, fmt::format("{} has no resistance", upper(s.id)),
                    fmt::format("At 0 Ω B+{} and B+{} are one node: nothing falls there and nothing is filtered.", node,
                                node + 1));
            x.fix = removeSection(b, k);
            out.push_back(std::move(x));
        }
    }
    const PowerTransformer& t = b.transformer;
    const double ratio = t.plateVolts / t.primaryVolts;
    const double ohms = t.plateResistance + t.primaryResistance * ratio * ratio + b.supply.rectifier.legResistance;
    if (ohms > 1) return;
    // A winding of this size has about this much of its volts lost at its rated current.
    const double usual = plan::regulationOf(2 * t.plateVolts * t.plateAmps) * t.plateVolts / t.plateAmps;
    Finding x = odd("no-source-resistance", fmt::format("{}'s plate winding has no resistance", upper(t.id)),
                    fmt::format("{} in all before the rectifier: nothing but the rectifier holds back the charging "
                                "current{}. About {} is usual for {} at {}; measure it with the plug out.",
                                format(ohms, Unit::Ohm),
                                f.high ? ", " + format(f.high->rectifierPeak, Unit::Ampere) + " at its peak" : "",
                                format(usual, Unit::Ohm, 2), format(t.plateVolts, Unit::Volt),
                                format(t.plateAmps, Unit::Ampere)));
    const double copper = nearest(usual, Series::E24);
    x.fix =
        setValue(fmt::format("take {} for a leg", format(copper, Unit::Ohm)), "/transformer/plateResistance", copper);
    out.push_back(std::move(x));
}

void chainRules(const Build& b, const plan::Figures& f, std::vector<Finding>& out) {
    const auto nodes = partsOf(b);
    const auto& sections = b.supply.sections;
    const Section& last = sections.back();
    if (last.kind != SectionKind::Capacitor) {
        const int node = supplyNodes(b.supply);
        const NodeParts& end = nodes.back();
        Finding x = end.drawn ? odd("no-capacitor/" + last.id, fmt::format("B+{} has no capacitor", node),
                                    fmt::format("What {} draws in the rhythm of the music moves B+{}, and no "
                                                "capacitor takes the ripple that {} lets through.",
                                                end.stage             ? "a stage"
                                                : end.leastId.empty() ? "a load"
                                                                      : upper(end.leastId),
                                                node, upper(last.id)))
                              : odd("leads-nowhere/" + last.id, fmt::format("{} feeds nothing", upper(last.id)),
                                    fmt::format("Nothing hangs on B+{}: no capacitor, stage, bleeder or load. No "
                                                "current flows in {}; B+{} stands at what comes before it.",
                                                node, upper(last.id), node),
                                    Level::Note);
        x.fix = end.drawn ? insertSection(b, sections.size(), SectionKind::Capacitor)
                          : removeSection(b, sections.size() - 1);
        out.push_back(std::move(x));
    }
    const bool drawn = std::any_of(nodes.begin(), nodes.end(), [](const NodeParts& n) { return n.drawn; });
    const bool balanced = std::any_of(sections.begin(), sections.end(), [](const Section& s) {
        return s.kind == SectionKind::Capacitor && s.balancing > 0;
    });
    if (!drawn && !balanced) {
        Finding x = odd("no-path", "The supply has no load and no bleeder",
                        fmt::format("No stage, bleeder or load draws from it: every node stands at the crest{}, and "
                                    "after switch-off nothing but the capacitors' own leakage takes it down.",
                                    f.high ? ", " + format(f.high->nodes[0].mean, Unit::Volt) : ""));
        if (f.high) x.fix = addBleeder(b, 220e3, f.high->nodes[0].most);
        out.push_back(std::move(x));
    }
    if (!f.nominal) return;
    const double crest = std::numbers::sqrt2 * f.nominal->legVolts;
    for (std::size_t k = 0; k < nodes.size(); ++k) {
        const double volts = f.nominal->nodes[k].mean;
        if (nodes[k].leastId.empty() || !(volts < 0.2 * crest)) continue;
        const double flows = volts / nodes[k].least;
        if (!(flows > 0.5 * f.nominal->rectifierMean)) continue;
        Finding x =
            odd("shorted-node/" + nodes[k].leastId, fmt::format("{} shorts B+{}", upper(nodes[k].leastId), k + 1),
                fmt::format("{} takes {} and leaves {} on B+{}: a dead short for the rectifier.",
                            format(nodes[k].least, Unit::Ohm), format(flows, Unit::Ampere), format(volts, Unit::Volt),
                            k + 1),
                Level::Stop);
        x.fix = removeAt("take " + upper(nodes[k].leastId) + " away", nodes[k].leastAt);
        out.push_back(std::move(x));
    }
}

} // namespace

void oddPartRules(const Build& b, const Catalogue&, const plan::Figures& f, std::vector<Finding>& out) {
    if (b.supply.sections.empty()) return;
    nothingRules(b, f, out);
    chainRules(b, f, out);
}

} // namespace ember::rules
