#include "ground_points.h"

#include "core/build/path.h"
#include "core/schematic/channel_parts.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <optional>

namespace ember::wires {

using namespace schematic;

namespace {

/// What a grounded pin returns.
Returns returnOf(const Terminals& t, const Terminal& at) {
    const Pin& pin = t.part(at).pins[static_cast<std::size_t>(at.pin.pin)];
    switch (t.serves(at)) {
    case Serves::PowerTransformer:
        if (pin.name.starts_with("bias")) return Returns::BiasWinding;
        return pin.name.starts_with("plate") || pin.name == "centre" ? Returns::Winding : Returns::HeaterReference;
    case Serves::SignalIron: {
        // The last iron of a channel has its terminals on the output's net; another's winding is a stage's.
        const auto& outputs = t.whole.outputs;
        const bool last = std::any_of(t.part(at).pins.begin(), t.part(at).pins.end(), [&](const Pin& p) {
            return std::find(outputs.begin(), outputs.end(), p.net) != outputs.end();
        });
        return last ? Returns::Output : Returns::Stage;
    }
    case Serves::Rectifier: return Returns::Winding;
    case Serves::SupplyCapacitor: return Returns::Reservoir;
    case Serves::HeaterReference: return Returns::HeaterReference;
    case Serves::Jack: return Returns::Jack;
    case Serves::Terminals: return Returns::Output;
    case Serves::Bias:
    case Serves::BiasCapacitor: return Returns::Bias;
    case Serves::Stage:
    case Serves::Mains:
    case Serves::HeaterSupply:
    case Serves::Junction:
    case Serves::Chain:
    case Serves::Bleeder: break;
    }
    return Returns::Stage;
}

class Points {
  public:
    Points(const Build& build, const Terminals& terminals) : b(build), t(terminals) {
        // Capacitors first: what stands beside one joins it.
        for (const bool reservoirs : {true, false})
            for (const Terminal& at : t.list)
                if (at.net == Schematic::ground && (t.serves(at) == Serves::SupplyCapacitor) == reservoirs) add(at);
    }
    std::vector<GroundPoint> out;

  private:
    void add(const Terminal& at) {
        const Part& p = t.part(at);
        const Returns what = returnOf(t, at);
        int node = t.whole.node[static_cast<std::size_t>(at.pin.part.index)];
        for (std::size_t k = 0; what == Returns::Reservoir && k < t.whole.reservoirs.size(); ++k)
            if (t.whole.reservoirs[k] == at.pin.part) node = static_cast<int>(k);
        const bool alone = what == Returns::Winding || what == Returns::BiasWinding || what == Returns::Jack ||
                           what == Returns::Output || what == Returns::HeaterReference;
        for (GroundPoint& g : out) {
            if (alone || g.spot != at.spot || g.joined != at.joined) continue;
            const bool besideCapacitor = g.what == Returns::Reservoir || at.joined > 0; // one lug, or jumpers
            if (besideCapacitor || (g.what == what && g.node == node && g.channel == p.channel)) {
                g.pins.push_back(at.pin);
                return;
            }
        }
        out.push_back({at.name, what, {at.pin}, at.spot, at.at, node, p.channel, at.joined});
        if (what == Returns::Jack || what == Returns::Output)
            for (const Channel& ch : b.channels)
                if (p.id == inputPart(ch) || p.id == outputPart(ch)) out.back().channel = ch.id;
    }
    const Build& b;
    const Terminals& t;
};

class Joins {
  public:
    Joins(const Build& build, const Terminals& terminals, const std::vector<GroundPoint>& points)
        : b(build),
          t(terminals),
          p(points) {
        for (std::size_t k = 0; k < p.size(); ++k)
            if (p[k].what == Returns::Reservoir && p[k].node > 0) nodes.emplace(p[k].node, static_cast<int>(k));
        if (nodes.empty()) // without capacitors everything meets where the winding is
            for (std::size_t k = 0; k < p.size() && nodes.empty(); ++k)
                if (p[k].what == Returns::Winding) nodes.emplace(1, static_cast<int>(k));
        if (nodes.empty() && !p.empty()) nodes.emplace(1, 0);
    }

    void wire() {
        if (p.empty()) return;
        if (b.wiring.grounds == GroundScheme::ChassisReturn) {
            for (std::size_t k = 0; k < p.size(); ++k) join(static_cast<int>(k), -1);
            return;
        }
        const int first = nodes.begin()->second, last = nodes.rbegin()->second,
                  star = nodes.size() > 2 ? std::next(nodes.begin())->second : first;
        for (const auto& [node, point] : nodes) {
            if (point == first) continue;
            const bool toStar = b.wiring.grounds == GroundScheme::OneStar || b.wiring.grounds == GroundScheme::TwoStars;
            join(point, !toStar ? before(node) : point == star ? first : star);
        }
        std::vector<int> small; // lugs of stages on the quietest node, for the bus
        for (std::size_t k = 0; k < p.size(); ++k) {
            const GroundPoint& g = p[k];
            const int at = static_cast<int>(k);
            switch (g.what) {
            case Returns::Winding:
            case Returns::Bias:
            case Returns::HeaterReference: join(at, first); break;
            case Returns::BiasWinding: join(at, biasPoint().value_or(first)); break;
            case Returns::Reservoir:
                if (g.node <= 0) join(at, nearest(at));
                break;
            case Returns::Jack: join(at, stageOf(g.channel).value_or(last)); break;
            case Returns::Output:
                // The secondary's end goes to the terminal, the terminal to its output stage's capacitor.
                if (std::holds_alternative<Windings>(t.whole.schematic[g.pins.front().part].element))
                    join(at, terminalOf(at).value_or(of(g.node)));
                else
                    join(at, of(outputNode(g.channel)));
                break;
            case Returns::Stage:
                if (b.wiring.grounds == GroundScheme::OneStar)
                    join(at, star);
                else if (b.wiring.grounds == GroundScheme::Bus && of(g.node) == last)
                    small.push_back(at);
                else
                    join(at, of(g.node));
                break;
            }
        }
        bus(small, last);
        if (b.wiring.bond != Bond::None) join(b.wiring.grounds == GroundScheme::OneStar ? star : last, -1);
        if (!b.wiring.insulatedJacks)
            for (std::size_t k = 0; k < p.size(); ++k)
                if (p[k].what == Returns::Jack) join(static_cast<int>(k), -1);
    }
    std::vector<GroundJoin> out;

  private:
    void join(int a, int z) {
        if (a != z) out.push_back({a, z});
    }
    /// The return of a supply node: its capacitor, or the nearest before it that has one.
    [[nodiscard]] int of(int node) const {
        auto at = nodes.upper_bound(std::max(1, node));
        return at == nodes.begin() ? at->second : std::prev(at)->second;
    }
    [[nodiscard]] int before(int node) const { return std::prev(nodes.find(node))->second; }
    [[nodiscard]] int nearest(int to) const {
        int best = nodes.begin()->second;
        for (const auto& [node, point] : nodes)
            if (apart(to, point) < apart(to, best)) best = point;
        return best;
    }
    [[nodiscard]] double apart(int a, int z) const {
        return (p[static_cast<std::size_t>(a)].at - p[static_cast<std::size_t>(z)].at).norm();
    }
    [[nodiscard]] std::optional<int> biasPoint() const {
        for (std::size_t k = 0; k < p.size(); ++k)
            if (p[k].what == Returns::Bias) return static_cast<int>(k);
        return std::nullopt;
    }
    /// The lug of a channel's first stage: that of the quietest node.
    [[nodiscard]] std::optional<int> stageOf(const std::string& channel) const {
        std::optional<int> best;
        for (std::size_t k = 0; k < p.size(); ++k)
            if (p[k].what == Returns::Stage && p[k].channel == channel &&
                (!best || p[k].node > p[static_cast<std::size_t>(*best)].node))
                best = static_cast<int>(k);
        return best;
    }
    [[nodiscard]] std::optional<int> terminalOf(int iron) const {
        for (std::size_t k = 0; k < p.size(); ++k)
            if (p[k].what == Returns::Output && static_cast<int>(k) != iron &&
                p[k].channel == p[static_cast<std::size_t>(iron)].channel &&
                std::holds_alternative<Connector>(t.whole.schematic[p[k].pins.front().part].element))
                return static_cast<int>(k);
        return std::nullopt;
    }
    [[nodiscard]] int outputNode(const std::string& channel) const {
        for (const Channel& ch : b.channels)
            if (ch.id == channel)
                for (const Stage& s : ch.stages)
                    if (isOutput(s)) return s.node;
        return nodes.rbegin()->first;
    }
    /// From the last capacitor on to the nearest lug, and so forth.
    void bus(std::vector<int> lugs, int from) {
        while (!lugs.empty()) {
            const auto next = std::min_element(lugs.begin(), lugs.end(),
                                               [&](int a, int z) { return apart(a, from) < apart(z, from); });
            join(*next, from);
            from = *next;
            lugs.erase(next);
        }
    }

    const Build& b;
    const Terminals& t;
    const std::vector<GroundPoint>& p;
    std::map<int, int> nodes; // point of each supply node's capacitor
};

} // namespace

std::vector<GroundPoint> groundPoints(const Build& b, const Terminals& t) {
    return std::move(Points(b, t).out);
}

std::vector<GroundJoin> groundJoins(const Build& b, const Terminals& t, const std::vector<GroundPoint>& p) {
    Joins joins(b, t, p);
    joins.wire();
    return std::move(joins.out);
}

} // namespace ember::wires
