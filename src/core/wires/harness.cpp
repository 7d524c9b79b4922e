#include "harness.h"

#include "core/build/path.h"
#include "core/schematic/channel_parts.h"
#include "core/schematic/path_schematic.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <set>

namespace ember::wires {

using namespace schematic;

namespace {

/// By the winding's amperes, so that half a metre of pair drops some 2 % of 6.3 V.
double heaterArea(double amps) {
    return amps > 3 ? 1.5e-6 : amps > 1.5 ? 0.82e-6 : 0.5e-6;
}

/// What a kind of wire is made of unless the builder says otherwise.
struct Usual {
    RunKind kind;
    const char* name;
    double area;       // [m2]
    double insulation; // [V]
    const char* colour;
    Way way;
};
constexpr std::array usual{Usual{RunKind::Earth, "safety earth", 1.5e-6, 600, "", Way::Square},
                           Usual{RunKind::Mains, "mains", 0.75e-6, 600, "", Way::Walls},
                           Usual{RunKind::Heater, "heaters", 0.82e-6, 300, "yellow", Way::Walls},
                           Usual{RunKind::Winding, "windings", 0.5e-6, 1000, "red", Way::Square},
                           Usual{RunKind::Ground, "grounds", 0.82e-6, 300, "black", Way::Square},
                           Usual{RunKind::HighVoltage, "high voltage", 0.5e-6, 600, "red", Way::Square},
                           Usual{RunKind::Bias, "bias", 0.22e-6, 300, "grey", Way::Square},
                           Usual{RunKind::Signal, "signal", 0.22e-6, 600, "white", Way::Square},
                           Usual{RunKind::Output, "output", 0.75e-6, 300, "orange", Way::Square}};
const Usual& usualOf(RunKind kind) {
    return *std::find_if(usual.begin(), usual.end(), [&](const Usual& u) { return u.kind == kind; });
}
constexpr double usualPitch = 0.02; // of a twisted pair, one whole turn [m]

struct MainsColour {
    const char *live, *neutral, *earth;
};
MainsColour mainsColour(MainsColours c) {
    switch (c) {
    case MainsColours::Iec60445: return {"brown", "blue", "green-yellow"};
    case MainsColours::Nfpa70: return {"black", "white", "green"};
    case MainsColours::NotChosen: break;
    }
    return {"", "", "green-yellow"};
}

class Proposal {
  public:
    Proposal(const Build& build, Harness& to) : b(build), h(to), s(h.terminals.whole.schematic), obstacles(b.chassis) {}

    void propose() {
        outputs.insert(h.terminals.whole.outputs.begin(), h.terminals.whole.outputs.end());
        inputs.insert(h.terminals.whole.inputs.begin(), h.terminals.whole.inputs.end());
        std::vector<std::vector<const Terminal*>> byNet(s.nets().size());
        for (const Terminal& t : h.terminals.list) byNet[static_cast<std::size_t>(t.net.index)].push_back(&t);
        for (std::size_t n = 1; n < byNet.size(); ++n)
            if (s.nets()[n].kind != NetKind::Heater) tree({static_cast<int>(n)}, byNet[n]);
        heaters();
        grounds();
    }

    void overlay() {
        for (const Wire& w : b.wiring.wires) {
            const auto at = std::find_if(h.runs.begin(), h.runs.end(), [&](const Run& r) { return r.wire.id == w.id; });
            if (at == h.runs.end()) {
                if (!w.removed) addOwn(w);
                continue;
            }
            if (w.removed) {
                h.runs.erase(at);
                continue;
            }
            merge(at->wire, w);
        }
        for (Run& r : h.runs) finish(r);
        std::stable_sort(h.runs.begin(), h.runs.end(), [](const Run& x, const Run& y) { return x.kind < y.kind; });
    }

  private:
    struct End {
        std::string name;
        std::size_t spot = 0;
        Vector at = Vector::Zero();
    };
    static End endOf(const Terminal& t) { return {t.name, t.spot, t.at}; }
    static End endOf(const GroundPoint& g) { return {g.name, g.spot, g.at}; }

    Run& add(RunKind kind, const End& from, const End& to, std::string net) {
        Run r;
        r.kind = kind;
        r.net = std::move(net);
        r.wire.id = from.name + "_" + to.name;
        r.wire.from = from.name, r.wire.to = to.name;
        const Usual& u = usualOf(kind);
        r.wire.area = u.area, r.wire.insulationVolts = u.insulation, r.wire.colour = u.colour;
        r.fromSpot = from.spot, r.toSpot = to.spot;
        r.path = {from.at, to.at};
        h.runs.push_back(std::move(r));
        return h.runs.back();
    }

    [[nodiscard]] RunKind kindOf(NetId net) const {
        switch (s[net].kind) {
        case NetKind::Mains: return RunKind::Mains;
        case NetKind::Earth: return RunKind::Earth;
        case NetKind::Winding: return RunKind::Winding;
        case NetKind::HighVoltage: return RunKind::HighVoltage;
        case NetKind::Bias: return RunKind::Bias;
        case NetKind::Heater: return RunKind::Heater;
        case NetKind::Return:
        case NetKind::Chassis: return RunKind::Ground;
        case NetKind::Signal: break;
        }
        return outputs.contains(net) && !inputs.contains(net) ? RunKind::Output : RunKind::Signal;
    }

    /// Shortest wires that join all places of a net (Prim 1957), from a capacitor on where there is one.
    void tree(NetId net, const std::vector<const Terminal*>& all) {
        std::vector<const Terminal*> places; // one for each spot, a placed part's own pin before a small part's end
        for (const Terminal* t : all)
            if (h.terminals.serves(*t) != Serves::Junction && // the builder's own wires meet there
                std::none_of(places.begin(), places.end(), [&](const Terminal* p) { return p->together(*t); }))
                places.push_back(t);
        if (places.size() < 2) return;
        std::stable_partition(places.begin(), places.end(),
                              [&](const Terminal* t) { return h.terminals.serves(*t) == Serves::SupplyCapacitor; });
        const RunKind kind = kindOf(net);
        std::vector<bool> done(places.size(), false);
        done[0] = true;
        const auto join = [&](std::size_t from, std::size_t to) {
            done[to] = true;
            Run& r = add(kind, endOf(*places[from]), endOf(*places[to]), s[net].name);
            r.screened = inputs.contains(net) && kind == RunKind::Signal;
            const MainsColour colours = mainsColour(b.wiring.colours);
            if (kind == RunKind::Mains)
                r.wire.colour = s[net].name.starts_with("live") ? colours.live : colours.neutral;
            if (kind == RunKind::Earth) r.wire.colour = colours.earth;
        };
        // Rectifier, choke and dropping resistors go to the capacitor before anything else.
        if (h.terminals.serves(*places[0]) == Serves::SupplyCapacitor)
            for (std::size_t k = 1; k < places.size(); ++k) {
                if (const Serves of = h.terminals.serves(*places[k]); of == Serves::Rectifier || of == Serves::Chain)
                    join(0, k);
            }
        for (auto left = std::count(done.begin(), done.end(), false); left > 0; --left) {
            std::size_t from = 0, to = 0;
            double least = INFINITY;
            for (std::size_t a = 0; a < places.size(); ++a)
                for (std::size_t z = 0; z < places.size(); ++z)
                    if (done[a] && !done[z])
                        if (const double d = (places[a]->at - places[z]->at).lpNorm<1>(); d < least)
                            least = d, from = a, to = z;
            join(from, to);
        }
    }

    /// From each winding by the output valves to the others, each next the nearest, as twisted pairs.
    void heaters() {
        std::set<std::string> output;
        for (const Channel& ch : b.channels)
            for (const std::string& id : outputBottles(ch)) output.insert(id);
        for (const HeaterWinding& w : b.transformer.heaters) {
            const auto one = s.findNet(heaterNet(w.id, 'a')), other = s.findNet(heaterNet(w.id, 'b'));
            if (!one || !other) continue;
            struct Stop {
                const Terminal *a = nullptr, *z = nullptr;
                bool output = false;
            };
            std::vector<Stop> stops;
            Stop source;
            const auto at = [&](std::size_t spot) -> Stop& {
                for (Stop& stop : stops)
                    if ((stop.a ? stop.a : stop.z)->spot == spot) return stop;
                return stops.emplace_back();
            };
            for (const Terminal& t : h.terminals.list) {
                if (t.net != *one && t.net != *other) continue;
                const Part& p = h.terminals.part(t);
                if (h.terminals.serves(t) == Serves::HeaterReference) continue; // at the winding's tags
                Stop& stop = std::holds_alternative<Bottle>(p.element) ? at(t.spot) : source;
                const Terminal*& end = t.net == *one ? stop.a : stop.z;
                if (!end) end = &t;
                stop.output = output.contains(p.id);
            }
            if (!source.a || !source.z) continue;
            for (const Stop& x : stops) { // the ends of a string, each by a wire of its own
                if (x.a && x.z) continue;
                add(RunKind::Heater, endOf(x.a ? *source.a : *source.z), endOf(x.a ? *x.a : *x.z),
                    s[x.a ? *one : *other].name);
                h.runs.back().wire.area = heaterArea(w.amps);
                h.runs.back().heater = w.id;
            }
            std::erase_if(stops, [](const Stop& x) { return !x.a || !x.z; });
            for (const bool first : {true, false}) // output valves first
                while (true) {
                    auto next = stops.end();
                    for (auto x = stops.begin(); x != stops.end(); ++x)
                        if (x->output == first && (next == stops.end() || (x->a->at - source.a->at).lpNorm<1>() <
                                                                              (next->a->at - source.a->at).lpNorm<1>()))
                            next = x;
                    if (next == stops.end()) break;
                    add(RunKind::Heater, endOf(*source.a), endOf(*next->a), s[*one].name);
                    add(RunKind::Heater, endOf(*source.z), endOf(*next->z), s[*other].name);
                    Run &z = h.runs.back(), &a = *std::prev(h.runs.end(), 2);
                    a.twistedWith = z.wire.id, z.twistedWith = a.wire.id;
                    a.wire.pitch = z.wire.pitch = usualPitch;
                    a.wire.area = z.wire.area = heaterArea(w.amps);
                    a.heater = z.heater = w.id;
                    source = *next;
                    stops.erase(next);
                }
        }
    }

    void grounds() {
        for (const GroundJoin& j : groundJoins(b, h.terminals, h.points)) {
            const End from = endOf(h.points[static_cast<std::size_t>(j.from)]);
            End to = from;
            if (j.to >= 0)
                to = endOf(h.points[static_cast<std::size_t>(j.to)]);
            else
                to.name = chassisEnd, to.at.z() = metalAt(from.spot);
            Run& r = add(RunKind::Ground, from, to, "ground");
            r.fromPoint = j.from, r.toPoint = j.to;
        }
    }

    /// Inner side of the plate that a part belongs to [m].
    [[nodiscard]] double metalAt(std::size_t spot) const {
        return chassis::innerSide(b.chassis, b.chassis.parts[spot].face);
    }
    [[nodiscard]] int pointOf(const std::string& name) const {
        if (name == chassisEnd) return -1;
        const Terminal* t = h.terminals.find(name);
        for (std::size_t k = 0; t && k < h.points.size(); ++k)
            if (std::find(h.points[k].pins.begin(), h.points[k].pins.end(), t->pin) != h.points[k].pins.end())
                return static_cast<int>(k);
        return -2;
    }

    void addOwn(const Wire& w) {
        const Terminal *from = h.terminals.find(w.from), *to = h.terminals.find(w.to);
        const auto place = fmt::format("/wiring/wires/{}", &w - b.wiring.wires.data());
        for (const auto& [end, name] : {std::pair{from, &w.from}, {to, &w.to}})
            if (!end && *name != chassisEnd) {
                h.problems.push_back(
                    {place, fmt::format("wire {}: there is no \"{}\" on this chassis to end at", w.id, *name)});
                return;
            }
        if (!from && !to) {
            h.problems.push_back({place, fmt::format("wire {}: both ends are the chassis", w.id)});
            return;
        }
        const Terminal& known = from ? *from : *to;
        End a = from ? endOf(*from) : endOf(known), z = to ? endOf(*to) : endOf(known);
        if (!from) a.name = chassisEnd, a.at.z() = metalAt(known.spot);
        if (!to) z.name = chassisEnd, z.at.z() = metalAt(known.spot);
        const bool ground = (!from || from->net == Schematic::ground) && (!to || to->net == Schematic::ground);
        const NetId net = known.net;
        Run& r = add(ground ? RunKind::Ground : kindOf(net), a, z, s[net].name);
        r.own = true;
        const std::string id = w.id;
        merge(r.wire, w);
        r.wire.id = id;
        if (from && to && from->net != to->net)
            h.problems.push_back(
                {place, fmt::format("wire {} joins {} ({}) to {} ({}), which the schematic keeps apart", w.id, w.from,
                                    s[from->net].name, w.to, s[to->net].name)});
    }

    /// What the builder said, over what is proposed.
    static void merge(Wire& to, const Wire& w) {
        const Wire proposed = to;
        to = w;
        to.id = proposed.id;
        if (to.from.empty()) to.from = proposed.from;
        if (to.to.empty()) to.to = proposed.to;
        if (!(to.area > 0)) to.area = proposed.area;
        if (!(to.insulationVolts > 0)) to.insulationVolts = proposed.insulationVolts;
        if (!(to.pitch > 0)) to.pitch = proposed.pitch;
        if (to.colour.empty()) to.colour = proposed.colour;
    }

    /// Path, length and resistance; ends that were moved.
    void finish(Run& r) {
        const auto end = [&](const std::string& name, std::size_t& spot, Vector& at) {
            if (const Terminal* t = h.terminals.find(name)) spot = t->spot, at = t->at;
        };
        Vector a = r.path.front(), z = r.path.back();
        end(r.wire.from, r.fromSpot, a);
        end(r.wire.to, r.toSpot, z);
        if (r.kind == RunKind::Ground) r.fromPoint = pointOf(r.wire.from), r.toPoint = pointOf(r.wire.to);
        if (r.wire.straight) r.wire.pitch = 0;
        if (!r.wire.by.empty()) {
            r.path = {a};
            for (const Corner& corner : r.wire.by) r.path.emplace_back(corner.x, corner.y, corner.z);
            r.path.push_back(z);
        } else {
            r.path = route(b.chassis, obstacles, usualOf(r.kind).way, a, z, r.fromSpot, r.toSpot);
        }
        const double way = lengthOf(r.path) * (r.pair() && !r.wire.straight ? 1.05 : 1); // twisting takes a twentieth
        r.length = way + 2 * (dress + strip);
        r.ohms = copper * r.length / std::max(1e-9, r.wire.area);
    }

    const Build& b;
    Harness& h;
    const Schematic& s;
    Obstacles obstacles;
    std::set<NetId> outputs, inputs;
};

} // namespace

const char* nameOf(RunKind kind) {
    return usualOf(kind).name;
}

const Run* Harness::find(std::string_view id) const {
    const auto at = std::find_if(runs.begin(), runs.end(), [&](const Run& r) { return r.wire.id == id; });
    return at == runs.end() ? nullptr : &*at;
}

Harness harnessOf(const Build& b, const Catalogue& catalogue) {
    Harness h;
    h.terminals = terminalsOf(b, catalogue);
    h.points = groundPoints(b, h.terminals);
    Proposal proposal(b, h);
    proposal.propose();
    proposal.overlay();
    return h;
}

std::vector<WireMetres> wireToBuy(const Harness& h) {
    std::map<std::pair<double, std::string>, double> metres;
    for (const Run& r : h.runs) metres[{r.wire.area, r.wire.colour}] += r.length;
    std::vector<WireMetres> out;
    for (const auto& [key, length] : metres) out.push_back({key.first, key.second, length});
    return out;
}

} // namespace ember::wires
