#include "amplifier_netlist.h"

#include "supply_circuit.h"

#include "core/circuit/netlist_text.h"
#include "core/quantity/letters.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>

namespace ember::plan {

using namespace schematic;

namespace {

std::string titled(const Build& b, const std::string& what) {
    std::string head = "* " + b.name + ", " + what;
    std::replace(head.begin(), head.end(), '\n', ' ');
    return head + "\n";
}

SupplyCircuit supplyAtNominal(const Build& b, const Catalogue& catalogue, const std::vector<NodeLoad>& loads) {
    Conditions c;
    c.mainsVolts = b.mains.volts;
    auto heaters = heaterGroups(b, catalogue, c);
    for (HeaterGroup& g : heaters) g.law.kelvin = g.law.hotKelvin;
    return supplyCircuit(b, catalogue, c, loads, heaters, 293, {});
}

/// The channels, with their supply nodes and bias lines as nets; held by sources where `held`.
struct Channels {
    Schematic schematic;
    std::vector<Path> paths;
    std::vector<NetId> nodes;            ///< by supply node
    std::map<std::size_t, NetId> wipers; ///< by adjuster
};
Channels channelsOf(const Build& b, const Catalogue& catalogue, const Steady& s, bool held, std::size_t from,
                    std::size_t to) {
    Channels out;
    Schematic& all = out.schematic;
    for (std::size_t n = 0; n < s.nodes.size(); ++n) {
        out.nodes.push_back(all.net(nodeNet(static_cast<int>(n) + 1), NetKind::HighVoltage));
        if (held)
            all.add(voltage(fmt::format("supply{}", n + 1), out.nodes.back(), Schematic::ground, {s.nodes[n].mean}));
    }
    for (std::size_t k = from; k < to; ++k) // 50 mV at 1 kHz: a quiet tone through time, one volt for small signals
        all.add(voltage("input-" + b.channels[k].id, all.net(inputNet(b.channels[k])), Schematic::ground,
                        {0, 0.05, 1000, 0}));
    const ChannelSupply supply = supplyOf(b, s);
    Surroundings around;
    around.emission = supply.emission;
    around.supply = [&](int node, bool) { return out.nodes[static_cast<std::size_t>(node - 1)]; };
    around.bias = [&](std::size_t adjuster, const std::string& name) {
        const auto [at, fresh] = out.wipers.emplace(adjuster, all.net(name, NetKind::Bias));
        // Without a bias supply the line is at ground.
        if (fresh && (held || s.wipers.empty()))
            all.add(voltage(fmt::format("bias{}", adjuster + 1), at->second, Schematic::ground,
                            {adjuster < s.wipers.size() ? s.wipers[adjuster] : 0}));
        return at->second;
    };
    out.paths = wirePaths(all, b, catalogue, around, from, to);
    return out;
}

std::string textOf(const Schematic& s, const Circuit& c) {
    std::string out;
    const auto node = [&](NetId n) { return circuit::nodeText(c.netlist, c.nodes[static_cast<std::size_t>(n.index)]); };
    for (std::size_t k = 1; k < s.nets().size(); ++k)
        out += fmt::format("* net {} {}\n", s.nets()[k].name, node({static_cast<int>(k)}));
    std::map<circuit::DeviceId, std::string> names;
    for (std::size_t k = 0; k < s.parts().size(); ++k) {
        const Part& p = s.parts()[k];
        for (std::size_t d = 0; d < c.devices[k].size(); ++d)
            names[c.devices[k][d]] = c.devices[k].size() > 1 ? fmt::format("{}_{}", p.id, d + 1) : p.id;
        if (!std::holds_alternative<Bottle>(p.element)) continue;
        for (const Pin& pin : p.pins)
            if (pin.net.index >= 0)
                out += fmt::format("* pin {} {} {} {}\n", p.id, pin.number, pin.name, node(pin.net));
    }
    return out + circuit::elementsText(c.netlist, names);
}

} // namespace

std::string supplyNetlistText(const Build& b, const Catalogue& catalogue, const std::vector<double>& amps) {
    std::vector<NodeLoad> loads;
    loads.reserve(amps.size());
    for (const double a : amps) loads.push_back({a, 0, 0});
    const SupplyCircuit s = supplyAtNominal(b, catalogue, loads);
    std::string out = titled(b, "supply at nominal mains"), print;
    for (std::size_t n = 0; n < s.rails.size(); ++n) {
        const std::string node = circuit::nodeText(s.netlist, s.rails[n]);
        out += fmt::format("* net B+{} {}\n", n + 1, node);
        print += fmt::format(" v({})", node);
    }
    return out + circuit::elementsText(s.netlist) + fmt::format(".tran 100u 2 1.9 50u\n.print tran{}\n.end\n", print);
}

Expected<std::string> amplifierNetlist(const Build& b, const Catalogue& catalogue, const Steady& nominal,
                                       NetlistPart part, NetlistAnalysis analysis, std::size_t channel) {
    if (part == NetlistPart::Supply) {
        if (analysis != NetlistAnalysis::Tran)
            return Problem{"", "a supply has no operating point of its own: ask for its run through time (tran)"};
        std::vector<double> amps;
        for (const NodeFigures& n : nominal.nodes) amps.push_back(n.load);
        return supplyNetlistText(b, catalogue, amps);
    }
    if (part == NetlistPart::Channel && channel >= b.channels.size())
        return Problem{"", fmt::format("there is no channel {}; the build has {}", channel + 1, b.channels.size())};
    if (b.channels.empty()) return Problem{"", "this build has no channel"};
    const bool live = part == NetlistPart::All && analysis == NetlistAnalysis::Tran;
    const bool one = part == NetlistPart::Channel;
    const Channels all =
        channelsOf(b, catalogue, nominal, !live, one ? channel : 0, one ? channel + 1 : b.channels.size());
    const Circuit c = circuitOf(all.schematic, Electrodes::WithCapacitance);
    const auto node = [&](NetId n) { return circuit::nodeText(c.netlist, c.nodes[static_cast<std::size_t>(n.index)]); };
    std::string out = titled(b, one ? b.channels[channel].name + " channel" : "all of it");
    out += textOf(all.schematic, c);
    if (live) {
        // The supply's own nodes, joined to the channels' by sources of 0 V.
        const SupplyCircuit s = supplyAtNominal(b, catalogue, {});
        std::map<circuit::DeviceId, std::string> names;
        for (std::size_t d = 0; d < s.netlist.devices().size(); ++d)
            names[static_cast<circuit::DeviceId>(d)] = fmt::format("supply_{}", d + 1);
        out += circuit::elementsText(s.netlist, names);
        const auto join = [&](const char* what, std::size_t k, circuit::Node from, NetId to) {
            out += fmt::format("Vjoin_{}_{} {} {} 0\n", what, k + 1, circuit::nodeText(s.netlist, from), node(to));
        };
        for (std::size_t k = 0; k < s.rails.size(); ++k) join("rail", k, s.rails[k], all.nodes[k]);
        for (const auto& [adjuster, net] : all.wipers)
            if (adjuster < s.wipers.size()) join("bias", adjuster, s.wipers[adjuster], net);
    }
    std::string outputs, decibels;
    for (const Path& path : all.paths) {
        const std::string net = node(path.output);
        outputs += fmt::format(" v({})", net);
        decibels += fmt::format(" vdb({})", net);
    }
    switch (analysis) {
    case NetlistAnalysis::Op: out += ".op\n"; break;
    case NetlistAnalysis::Ac: out += fmt::format(".ac dec 20 10 100k\n.print ac{}\n", decibels); break;
    case NetlistAnalysis::Tran:
        out += fmt::format(".tran {} {} {} {}\n.print tran{}\n", live ? "50u" : "5u", live ? "2" : "0.2",
                           live ? "1.9" : "0.19", live ? "50u" : "5u", outputs);
        break;
    }
    return out + ".options reltol=1e-5\n.end\n";
}

} // namespace ember::plan
