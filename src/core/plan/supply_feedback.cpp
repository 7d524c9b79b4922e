#include "supply_feedback.h"

#include "channel_circuit.h"
#include "steady.h"
#include "supply_circuit.h"

#include "core/build/build_json.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>

namespace ember::plan {

using namespace schematic;

namespace {

/// The chain behind the nodes of a channel's schematic, every impedance `times` as large. Each node's battery keeps its
/// direct volts and gains what the direct current loses in the chain, so that the operating point is the same.
class Behind {
  public:
    Behind(HeldChannel& to, const Build& build, const ChannelPoint& point, double sourceOhms, double factor)
        : h(to),
          b(build),
          source(sourceOhms),
          times(factor) {
        amps.assign(static_cast<std::size_t>(supplyNodes(b.supply)) + 1, 0);
        for (const NodeDraw& d : point.draws) amps[static_cast<std::size_t>(d.node)] += d.amps;
        for (std::size_t node = amps.size() - 1; node > 1; --node) // through what leads to a node flows what is behind
            amps[node - 1] += begins(node) ? 0 : amps[node];
    }
    void build() {
        feed(1);
        int node = 1;
        for (const Section& given : b.supply.sections) {
            const Section s = asComputed(given);
            if (s.kind == SectionKind::Capacitor) {
                part(Capacitance{s.capacitance / s.inSeries / times, s.esr * s.inSeries * times}, net(node),
                     Schematic::ground);
                continue;
            }
            const int before = node++;
            if (s.kind == SectionKind::Tap) {
                feed(node);
                continue;
            }
            fall[node] = fall[before] + amps[static_cast<std::size_t>(node)] * s.resistance * times;
            if (s.kind == SectionKind::Choke)
                part(Inductance{s.inductance * times, s.resistance * times}, net(before), net(node));
            else
                part(Resistance{s.resistance * times}, net(before), net(node));
        }
        for (const HeldNode& held : h.nodes) {
            Part& battery = h.schematic.edit(held.source);
            std::get<Voltage>(battery.element).volts.dc += fall[held.node];
            battery.pins[1].net = net(held.node);
        }
    }

  private:
    /// Whether a node begins a chain of its own, at a tap's rectifier.
    [[nodiscard]] bool begins(std::size_t node) const {
        std::size_t reached = 1;
        for (const Section& s : b.supply.sections)
            if (s.kind != SectionKind::Capacitor && ++reached == node) return s.kind == SectionKind::Tap;
        return false;
    }
    void feed(int node) {
        fall[node] = amps[static_cast<std::size_t>(node)] * source * times;
        part(Resistance{source * times}, net(node), Schematic::ground);
    }
    [[nodiscard]] NetId net(int node) { return h.schematic.net(fmt::format("chain {}", node), NetKind::HighVoltage); }
    void part(Element element, NetId a, NetId z) {
        Part p;
        p.id = fmt::format("chain part {}", ++parts);
        p.element = std::move(element);
        p.pins = {{"1", a}, {"2", z}};
        h.schematic.add(std::move(p));
    }
    HeldChannel& h;
    const Build& b;
    double source, times;
    std::vector<double> amps;   // through what leads to each node [A]
    std::map<int, double> fall; // of direct volts up to a node [V]
    int parts = 0;
};

} // namespace

std::vector<Oscillation> supplyOscillations(const Build& b, const Catalogue& catalogue, const Steady& s,
                                            double sourceOhms) {
    constexpr double drift = 0.05; // [Hz]
    std::vector<Oscillation> out;
    if (!(sourceOhms > 0)) return out;
    const ChannelSupply supply = supplyOf(b, s);
    for (std::size_t k = 0; k < b.channels.size() && k < s.channels.size(); ++k) {
        HeldChannel h = heldChannel(b, catalogue, k, supply);
        Behind(h, b, s.channels[k], sourceOhms, static_cast<double>(b.channels.size())).build();
        Analysis a(h.schematic);
        const auto point = a.operatingPoint();
        if (!point) continue;
        if (const auto g = a.growth(*point); g && g->hertz > drift) out.push_back({k, throughTheSupply, g->hertz});
    }
    return out;
}

} // namespace ember::plan
