#include "stage_builder.h"

#include "core/base/overloaded.h"
#include "core/build/path.h"
#include "core/build/valve_stock.h"
#include "core/circuit/choke.h"
#include "core/quantity/letters.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember::schematic {

namespace {

/// Of pins that the base joins, the first.
int numberOf(const std::vector<int>& pins) {
    return pins.empty() ? 0 : pins[0];
}

/// A diode string of one drop at 10 mA, as a junction of so many times the emission coefficient.
circuit::DiodeLaw stringLaw(const DiodePart& d) {
    constexpr double emission = 1.85, atAmps = 0.01;
    circuit::DiodeLaw law;
    law.ideality = emission * d.inSeries;
    law.saturation = atAmps / std::expm1(d.drop / (emission * circuit::thermalVolts));
    return law;
}

} // namespace

std::string electrodeNet(const std::string& bottle, std::string_view electrode, int section, int sections) {
    return sections > 1 ? fmt::format("{} {} {}", upper(bottle), electrode, section)
                        : fmt::format("{} {}", upper(bottle), electrode);
}

StageBuilder::StageBuilder(Path& p, std::size_t stage, const StageKind& of) : kind(of), path(p), index(stage) {}

const Channel& StageBuilder::channel() const {
    return path.build->channels[path.channel];
}
const Stage& StageBuilder::stage() const {
    return channel().stages[index];
}

NetId StageBuilder::supply() const {
    return path.around->supply(stage().node, false);
}
NetId StageBuilder::screens() const {
    return path.around->supply(stage().screensNode(), true);
}
NetId StageBuilder::net(const std::string& name) const {
    return path.schematic->net(name, NetKind::Signal);
}
NetId StageBuilder::own(std::string_view what) const {
    return net(fmt::format("{} {} {}", channel().name, stage().id, what));
}

std::string StageBuilder::pointer() const {
    return fmt::format("/channels/{}/stages/{}", path.channel, index);
}

void StageBuilder::problem(std::string place, std::string sentence) {
    path.problems.push_back({pointer() + place, std::move(sentence)});
}

PartId StageBuilder::add(Part part, std::string role, const StagePart* from) {
    part.role = std::move(role);
    part.channel = channel().id;
    if (from) {
        const auto at = static_cast<std::size_t>(from - stage().parts.data());
        part.place = fmt::format("{}/parts/{}/{}", pointer(), at, mainKey(from->part));
        if (part.id.empty()) part.id = fmt::format("{}-{}-{}{}", channel().id, stage().id, from->slot, from->at);
    }
    const PartId id = path.schematic->add(std::move(part));
    path.stageOf.emplace_back(id, index);
    return id;
}

PartId StageBuilder::place(const StagePart& from, NetId a, NetId b, std::string role) {
    Part p;
    p.id = idOf(from.part);
    p.pins = {{"1", a}, {"2", b}};
    const bool fits = std::visit(Overloaded{[&](const ResistorPart& r) {
                                                p.element = Resistance{r.resistance};
                                                p.tolerance = r.tolerance;
                                                p.ratings.watts = r.watts;
                                                return true;
                                            },
                                            [&](const CapacitorPart& c) {
                                                p.element = Capacitance{c.capacitance, c.esr, c.leakageResistance};
                                                p.tolerance = c.tolerance;
                                                p.ratings.volts = c.volts;
                                                return true;
                                            },
                                            [&](const ChokePart& l) {
                                                p.element =
                                                    Inductance{l.inductance, l.resistance,
                                                               circuit::idleOf(l.idleInductance, l.inductance), l.amps};
                                                p.tolerance = l.tolerance;
                                                p.ratings.amps = l.amps;
                                                return true;
                                            },
                                            [&](const CurrentSourcePart& s) {
                                                p.element = CurrentSink{s.amps, s.knee};
                                                p.tolerance = s.tolerance;
                                                p.ratings.volts = s.volts;
                                                return true;
                                            },
                                            [&](const DiodePart& d) {
                                                p.element = Diode{stringLaw(d), 0.1 * d.inSeries};
                                                p.ratings.amps = d.amps;
                                                return true;
                                            },
                                            [&](const ZenerPart& z) {
                                                p.element = Zener{z.volts, z.resistance};
                                                p.tolerance = z.tolerance;
                                                p.ratings.watts = z.watts;
                                                return true;
                                            },
                                            [&](const PotentiometerPart& t) { // as a rheostat
                                                p.element = Track{t.resistance, trackShare(t)};
                                                p.pins = {{"clockwise", a}, {"wiper", a}, {"other end", b}};
                                                p.tolerance = t.tolerance;
                                                p.ratings.watts = t.watts;
                                                return true;
                                            },
                                            [](const auto&) { return false; }},
                                 from.part);
    if (!fits) {
        problem(fmt::format("/parts/{}/kind", &from - stage().parts.data()),
                fmt::format("such a part cannot stand as \"{}\"", from.slot));
        return {};
    }
    return add(std::move(p), std::move(role), &from);
}

PartId StageBuilder::join(std::string_view name, NetId a, NetId b, std::string role, std::string_view at) {
    const StagePart* p = slot(name, at);
    return p ? place(*p, a, b, std::move(role)) : PartId{};
}

PartId StageBuilder::track(std::string_view name, NetId clockwise, NetId wiper, NetId other, std::string role) {
    const StagePart* from = slot(name);
    const auto* pot = from ? std::get_if<PotentiometerPart>(&from->part) : nullptr;
    if (!pot) return {};
    Part p;
    p.id = pot->id;
    p.element = Track{pot->resistance, trackShare(*pot)};
    p.pins = {{"clockwise", clockwise}, {"wiper", wiper}, {"other end", other}};
    p.tolerance = pot->tolerance;
    p.ratings.watts = pot->watts;
    return add(std::move(p), std::move(role), from);
}

PartId StageBuilder::windings(const StagePart& from, double inductance, const std::vector<Winding>& coils,
                              double loadTurns, std::string role) {
    const auto& t = std::get<OutputTransformer>(from.part);
    Part p;
    p.id = t.id;
    Windings w;
    w.inductance = inductance;
    for (const Winding& c : coils) {
        const int at = static_cast<int>(p.pins.size());
        p.pins.push_back({c.name + " start", c.a, 0, c.spare});
        p.pins.push_back({c.name + " end", c.b});
        w.coils.push_back({at, at + 1, c.turns, c.ohms, c.leakage, c.farads});
    }
    // From the nameplate: full watts at the lowest frequency, beside the direct current that the gap is for. There the
    // iron draws circuit::gappedCoreShare more than its constant inductance does.
    const double whole = loadTurns * std::sqrt(t.primaryImpedance / t.loadImpedance), part = w.coils[0].turns / whole;
    if (t.lowestHertz > 0) {
        const double flux = std::sqrt(2 * t.watts * t.primaryImpedance) / (2 * std::numbers::pi * t.lowestHertz) +
                            t.primaryInductance * t.dcAmps;
        w.ratedFlux = flux * part;
        w.saturationAmps = circuit::gappedCoreShare * w.ratedFlux / w.inductance;
    }
    if (t.coreLoss > 0) w.lossOhms = t.primaryImpedance / t.coreLoss * part * part;
    p.element = std::move(w);
    p.tolerance = 0.3; // of the inductance
    p.ratings.watts = t.watts;
    return add(std::move(p), std::move(role), &from);
}

std::string StageBuilder::name(std::string_view at) const {
    const StageValve* v = stage().valve(at);
    return v ? upper(v->bottle) : std::string();
}

NetId StageBuilder::electrode(std::string_view what, std::string_view at) const {
    const StageValve* v = stage().valve(at);
    if (!v) return own(fmt::format("{} {}", what, at));
    const Valve* bottle = bottleOf(*path.build, v->bottle);
    const ValveType* type = bottle ? path.catalogue->valve(bottle->type) : nullptr;
    return net(electrodeNet(v->bottle, what, v->section, type ? type->sections() : 1));
}

bool StageBuilder::pentode(std::string_view at) const {
    const StageValve* v = stage().valve(at);
    const Valve* bottle = v ? bottleOf(*path.build, v->bottle) : nullptr;
    const ValveType* type = bottle ? path.catalogue->valve(bottle->type) : nullptr;
    return type && type->section(v->section).pentode;
}

ValveUse* StageBuilder::valve(std::string_view at, NetId grid, NetId plate, NetId cathode, NetId screen) {
    const StageValve* v = stage().valve(at);
    const auto bottle = v ? bottleIndex(*path.build, v->bottle) : std::nullopt;
    if (!bottle) {
        problem("/valves", at.empty() ? "this stage has no valve: choose one"
                                      : fmt::format("this stage has no valve at \"{}\": choose one", at));
        return nullptr;
    }
    const Valve& own = path.build->bottles[*bottle];
    const ValveType* type = path.catalogue->valve(own.type);
    const auto place = fmt::format("/valves/{}", v - stage().valves.data());
    if (!type) {
        problem(place, fmt::format("the catalogue has no valve \"{}\"", own.type));
        return nullptr;
    }
    if (v->section > type->sections()) {
        problem(place + "/section", fmt::format("a {} has {} section(s)", own.type, type->sections()));
        return nullptr;
    }
    const TypeSection& half = type->section(v->section);
    const auto known = path.bottles->find(*bottle);
    PartId id = known == path.bottles->end() ? PartId{} : known->second;
    if (id.index < 0) {
        Part p;
        p.id = own.id;
        p.element = Bottle{
            own.type, own.emission * (*bottle < path.around->emission.size() ? path.around->emission[*bottle] : 1), {}};
        p.tolerance = own.tolerance;
        p.ratings = {half.limits.plateVolts, half.limits.plateWatts, half.limits.cathodeAmps};
        id = add(std::move(p), std::string(kind.title), nullptr);
        path.schematic->place(id, fmt::format("/bottles/{}/emission", *bottle));
        (*path.bottles)[*bottle] = id;
    }
    // What is drawn of this bottle already.
    Part& part = path.schematic->edit(id);
    auto& b = std::get<Bottle>(part.element);
    for (const ValveSection& s : b.sections)
        if (s.number == v->section) {
            problem(place + "/section", type->sections() > 1
                                            ? fmt::format("section {} of {} is used twice", v->section, upper(own.id))
                                            : fmt::format("{} is used twice", upper(own.id)));
            return nullptr;
        }
    if (part.role != kind.title && !b.sections.empty()) part.role += ", " + std::string(kind.title);
    const auto pin = [&](const char* electrode, NetId net, int number) {
        part.pins.push_back(
            {type->sections() > 1 ? fmt::format("{} {}", electrode, v->section) : electrode, net, number});
        return static_cast<int>(part.pins.size()) - 1;
    };
    ValveSection s{lawOf(half.law, sharesOf(own)), {}, v->section};
    s.pins.push_back(pin("grid", grid, numberOf(half.pins.grid)));
    if (half.pentode) s.pins.push_back(pin("screen", screen.index < 0 ? plate : screen, numberOf(half.pins.screen)));
    s.pins.push_back(pin("plate", plate, numberOf(half.pins.plate)));
    s.pins.push_back(pin("cathode", cathode, numberOf(half.pins.cathode)));
    s.gridPlate = half.gridPlate, s.gridCathode = half.gridCathode, s.plateCathode = half.plateCathode;
    b.sections.push_back(std::move(s));
    ValveUse use;
    use.bottle = *bottle;
    use.section = v->section;
    use.stage = index;
    use.at = std::string(at);
    use.duty = kind.duty;
    use.part = id;
    use.system = static_cast<int>(b.sections.size()) - 1;
    use.grid = grid, use.plate = plate, use.cathode = cathode;
    if (half.pentode) use.screen = screen.index < 0 ? plate : screen;
    path.valves.push_back(std::move(use));
    return &path.valves.back();
}

NetId StageBuilder::gridCircuit(NetId from, NetId leakTo, std::string_view at) {
    const std::string v = name(at);
    const bool stopper = has("stopper", at);
    NetId junction = from;
    if (has("coupling", at)) {
        junction = stopper ? net(v + " grid leak") : electrode("grid", at);
        join("coupling", from, junction, "coupling to " + v, at);
    }
    join("grid leak", junction, leakTo, "grid leak of " + v, at);
    if (!stopper) return junction;
    const NetId grid = electrode("grid", at);
    join("stopper", junction, grid, "grid stopper of " + v, at);
    return grid;
}

StageBuilder::CathodeCircuit StageBuilder::cathodeCircuit(NetId cathode, std::string_view at, std::string_view prefix) {
    const std::string self = std::string(prefix) + "cathode", across = std::string(prefix) + "bypass",
                      below = std::string(prefix) + "foot";
    const bool any = has(self, at), foot = has(below, at);
    if (!any && !foot) return {ground, {}};
    const std::string v = name(at).empty() ? std::string(kind.title) : name(at);
    NetId end = ground;
    if (foot) {
        end = any ? own(fmt::format("cathode foot{}{}", at.empty() ? "" : " ", at)) : cathode;
        join(below, end, ground, "unbypassed part of the cathode resistor of " + v, at);
        point(at.empty() ? std::string("foot") : fmt::format("foot {}", at), end);
    }
    const PartId id = join(self, cathode, end, "cathode resistor of " + v, at);
    join(across, cathode, end, "cathode bypass of " + v, at);
    return {cathode, id};
}

NetId StageBuilder::biasFor(std::string_view at, int& adjuster) {
    const auto all = adjustersOf(*path.build);
    const auto of = [&](std::string_view where) -> std::optional<std::size_t> {
        for (std::size_t k = 0; k < all.size(); ++k)
            if (all[k].channel == path.channel && all[k].stage == index && all[k].at == where) return k;
        return std::nullopt;
    };
    for (const std::string_view where : {at, at.substr(0, 1), std::string_view()})
        if (const auto k = of(where)) {
            adjuster = static_cast<int>(*k);
            const std::string called = where == at && !name(at).empty()
                                           ? name(at)
                                           : fmt::format("{} {}{}", channel().name, stage().id,
                                                         where.empty() ? "" : fmt::format(" {}", where));
            return path.around->bias(*k, called + " bias");
        }
    adjuster = -1;
    return ground;
}

void StageBuilder::point(std::string_view what, NetId at) {
    path.points[fmt::format("{} {}", stage().id, what)] = at;
}

std::optional<NetId> StageBuilder::pointOf(const std::string& stageAndPoint) const {
    const auto at = path.points.find(stageAndPoint);
    return at == path.points.end() ? std::nullopt : std::optional(at->second);
}

} // namespace ember::schematic
