#include "test_points.h"

#include "core/circuit/operating_point.h"
#include "core/quantity/letters.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace ember::procedure {

using namespace plan;

namespace {

bool starts(const std::string& s, std::string_view with) {
    return s.rfind(with, 0) == 0;
}

/// The first capacitor at a node, as printed on the drawing.
std::string capacitorAt(const Build& b, int node) {
    int at = 1;
    for (const Section& s : b.supply.sections) {
        if (s.kind != SectionKind::Capacitor)
            ++at;
        else if (at == node)
            return upper(s.id);
    }
    return fmt::format("node B+{}", node);
}

} // namespace

std::vector<TestPoint> testPoints(const Build& b) {
    std::vector<TestPoint> out;
    const auto add = [&](std::string id, std::string label, std::string probe, MeterMode mode) {
        out.push_back({std::move(id), std::move(label), std::move(probe), mode});
    };
    add("earth", "Safety earth to chassis", "inlet's earth pin, bare metal of the chassis", MeterMode::Ohms);
    add("primary-ohms", "Mains winding", "inlet's line and neutral pins, switch on, plug out", MeterMode::Ohms);
    add("leg-ohms", "Plate winding, one leg", "centre tap, one rectifier plate pin", MeterMode::Ohms);
    add("b+-ohms", "B+1 to star", "common on the star, red on " + capacitorAt(b, 1) + " plus; let it charge and settle",
        MeterMode::Ohms);
    for (const Channel& ch : b.channels)
        add("load-" + ch.id, "Load on the " + lower(ch.name) + " output", "the two output terminals", MeterMode::Ohms);
    for (const HeaterWinding& h : b.transformer.heaters)
        add("heater-" + h.id, fmt::format("Heater winding {}, AC", upper(h.id)),
            h.feeds == "rectifier" ? "across the winding; it may stand at B+: clip on with the power off"
                                   : "across the winding's two pins",
            MeterMode::AcVolts);
    add("leg", "Plate winding leg, AC", "common on the centre tap, red on one rectifier plate pin", MeterMode::AcVolts);
    for (const Channel& ch : b.channels)
        for (const Valve* v : {&ch.pair.a, &ch.pair.b})
            add("bias-" + v->id, fmt::format("Bias at {} grid, DC", upper(v->id)),
                fmt::format("common on the star, red on {}'s grid pin", upper(v->id)), MeterMode::DcVolts);
    for (int n = 1;
         n <= static_cast<int>(1 + std::count_if(b.supply.sections.begin(), b.supply.sections.end(),
                                                 [](const Section& s) { return s.kind != SectionKind::Capacitor; }));
         ++n)
        add(fmt::format("B+{}", n), fmt::format("B+{}, DC", n),
            fmt::format("common clipped on the star, red on {} plus", capacitorAt(b, n)), MeterMode::DcVolts);
    add("ripple", "Ripple at B+1, AC",
        fmt::format("common clipped on the star, red on {} plus, meter on AC", capacitorAt(b, 1)), MeterMode::AcVolts);
    for (const Channel& ch : b.channels) {
        const std::string v = upper(ch.small.id);
        const auto dc = [&](const char* what, const char* word) {
            add(fmt::format("{}-{}", what, ch.small.id), fmt::format("{} {}, DC", v, word),
                fmt::format("common on the star, red on {}'s {}", v, word), MeterMode::DcVolts);
        };
        dc("plate1", "first plate");
        dc("cathode1", "first cathode");
        dc("plate2", "second plate");
        dc("cathode2", "second cathode");
    }
    for (const Channel& ch : b.channels)
        for (const Valve* v : {&ch.pair.a, &ch.pair.b})
            add("output-plate-" + v->id, fmt::format("{} plate, DC", upper(v->id)),
                fmt::format("common clipped on the star, red on {}'s plate pin", upper(v->id)), MeterMode::DcVolts);
    for (const Channel& ch : b.channels)
        for (const Valve* v : {&ch.pair.a, &ch.pair.b})
            add("sense-" + v->id, fmt::format("{} across its sense resistor, DC", upper(v->id)),
                fmt::format("common on the star, red on {}'s cathode pin", upper(v->id)), MeterMode::DcVolts);
    return out;
}

const TestPoint* findPoint(const std::vector<TestPoint>& points, std::string_view id) {
    const std::string wanted = lower(id);
    for (const TestPoint& p : points)
        if (lower(p.id) == wanted) return &p;
    return nullptr;
}

std::vector<TestPoint> pointsOfStage(const Build& b, int stage) {
    std::vector<TestPoint> out;
    for (const TestPoint& p : testPoints(b)) {
        const bool ohms = p.mode == MeterMode::Ohms;
        const bool wanted =
            stage == 0
                ? ohms
                : !ohms && ((starts(p.id, "heater-") && (stage != 3)) || (p.id == "leg" && stage <= 2) ||
                            (starts(p.id, "bias-") && (stage == 1 || stage == 4)) ||
                            (starts(p.id, "B+") && stage >= 2) || (p.id == "ripple" && (stage == 2 || stage >= 5)) ||
                            ((starts(p.id, "plate") || starts(p.id, "cathode")) && (stage == 3 || stage == 5)) ||
                            (starts(p.id, "output-plate-") && (stage == 4 || stage == 5)) ||
                            (starts(p.id, "sense-") && stage >= 4));
        if (wanted) out.push_back(p);
    }
    return out;
}

double valueAt(const Build& b, const Steady& s, const std::string& id) {
    if (starts(id, "heater-")) {
        for (std::size_t k = 0; k < b.transformer.heaters.size(); ++k)
            if (id == "heater-" + b.transformer.heaters[k].id) {
                for (const HeaterFigures& h : s.heaters)
                    if (h.winding == b.transformer.heaters[k].id) return h.volts;
                return s.primaryVolts * b.transformer.heaters[k].volts / b.transformer.primaryVolts; // unloaded
            }
    }
    if (id == "leg") return s.legVolts;
    if (id == "ripple") return s.nodes.empty() ? unknown : s.nodes[0].rippleRms;
    if (starts(id, "B+")) {
        const auto n = static_cast<std::size_t>(std::atoi(id.c_str() + 2));
        return n >= 1 && n <= s.nodes.size() ? s.nodes[n - 1].mean : unknown;
    }
    for (std::size_t k = 0; k < b.channels.size(); ++k) {
        const Channel& ch = b.channels[k];
        const std::size_t w = 2 * k;
        if (id == "bias-" + ch.pair.a.id) return w < s.wipers.size() ? s.wipers[w] : unknown;
        if (id == "bias-" + ch.pair.b.id) return w + 1 < s.wipers.size() ? s.wipers[w + 1] : unknown;
        if (k >= s.channels.size()) continue;
        const ChannelPoint& p = s.channels[k];
        if (id == "plate1-" + ch.small.id) return p.plate1;
        if (id == "cathode1-" + ch.small.id) return p.cathode1;
        if (id == "plate2-" + ch.small.id) return p.plate2;
        if (id == "cathode2-" + ch.small.id) return p.cathode2;
        if (id == "output-plate-" + ch.pair.a.id) return p.plateA;
        if (id == "output-plate-" + ch.pair.b.id) return p.plateB;
        if (id == "sense-" + ch.pair.a.id) return p.senseA;
        if (id == "sense-" + ch.pair.b.id) return p.senseB;
    }
    return unknown;
}

double coldResistance(const Build& b, const std::string& id) {
    using namespace circuit;
    Netlist n;
    const Node probe = n.node("probe");
    constexpr double testAmps = 1e-6;
    n.add(CurrentSource{ground, probe, {testAmps}});
    if (id == "earth") {
        // 0.25 m of 1.5 mm2 copper (0.01724e-6 ohm m) from the inlet to the bolt, a crimp and a bolted lug of 3 mohm
        // each.
        n.add(Resistor{probe, ground, 0.01724e-6 * 0.25 / 1.5e-6 + 2 * 3e-3});
    } else if (id == "primary-ohms") {
        n.add(Resistor{probe, ground, asComputed(b.transformer).primaryResistance});
    } else if (id == "leg-ohms") {
        n.add(Resistor{probe, ground, asComputed(b.transformer).plateResistance});
    } else if (id == "b+-ohms") {
        std::vector<Node> rails{probe};
        Supply cold = b.supply; // what draws a current does so only when it is powered
        for (SupplyLoad& load : cold.loads) load.amps = 0;
        addChain(n, cold, rails);
    } else {
        const Channel* found = nullptr;
        for (const Channel& ch : b.channels)
            if (id == "load-" + ch.id) found = &ch;
        if (!found) return unknown;
        n.add(Resistor{probe, ground, found->pair.load});
        n.add(Resistor{probe, ground, found->pair.transformer.secondaryResistance}); // the winding lies across it
    }
    const auto op = operatingPoint(assemble(n));
    return op ? op->volts(probe) / testAmps : unknown;
}

double meterShare(const Build& b, MeterMode mode) {
    return mode == MeterMode::Ohms ? b.meter.ohms : mode == MeterMode::AcVolts ? b.meter.ac : b.meter.dc;
}

} // namespace ember::procedure
