// Output stages: one to eight valves at one side, or at each of two, into a transformer and a load.
#include "kinds.h"

#include "core/quantity/quantity.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace ember::schematic {

namespace {

/// What every valve of the stage shares: a cathode resistor of the stage, if there is one.
struct Shared {
    NetId cathode;
    PartId self;
};
Shared sharedCathode(StageBuilder& b) {
    if (!b.has("cathode")) return {};
    const auto c = b.cathodeCircuit(b.own("cathodes"));
    return {c.cathode, c.self};
}

void finish(StageBuilder& b, NetId output) {
    double load = 0;
    if (const StagePart* p = b.slot("load"))
        if (const auto* r = std::get_if<ResistorPart>(&p->part)) load = r->resistance;
    b.join("load", output, b.ground, "load");
    b.join("series network resistor", output, b.own("network"), "resistor across the output");
    b.join("series network capacitor", b.own("network"), b.ground, "capacitor across the output");
    b.point("secondary", output);
    b.output(output, load);
    b.out(output);
}

/// Of screens that are fed by a node: at a tap or a plate none is taken.
NetId screensOf(StageBuilder& b) {
    const bool fed = b.stage().option("screens", "node") == "node" &&
                     std::any_of(b.stage().valves.begin(), b.stage().valves.end(),
                                 [&](const StageValve& v) { return b.pentode(v.at); });
    return fed ? screenFeed(b) : NetId{};
}

/// Shares of turns, copper and leakage of a half (or a whole primary) before the screens' tap.
struct TapShares {
    double turns, copper, leakage;
};
TapShares sharesOf(const OutputTransformer& t) {
    return {t.screenTap, t.tapCopper > 0 ? t.tapCopper : t.screenTap, t.tapLeakage > 0 ? t.tapLeakage : t.screenTap};
}

/// The secondary from its common end up to its last tap: one coil between each two taps, of the same wire. `turns` are
/// those at the load's tap, which is the output, and `leakage` [H] is theirs, all in the coil next to that tap; turned
/// round, the common end is the output.
void addSecondary(StageBuilder& b, const OutputTransformer& t, double turns, double leakage, NetId output,
                  std::vector<StageBuilder::Winding>& coils) {
    const bool turned = b.stage().option("secondary", "in phase") == "turned round";
    const NetId common = turned ? output : b.ground, loaded = turned ? b.ground : output;
    std::vector<double> taps{t.loadImpedance};
    for (const SecondaryTap& tap : t.secondaryTaps) taps.push_back(tap.loadImpedance);
    std::sort(taps.begin(), taps.end());
    taps.erase(std::unique(taps.begin(), taps.end()), taps.end());
    NetId below = common;
    double reached = 0; // of the load's turns
    for (const double ohms : taps) {
        const double share = std::sqrt(ohms / t.loadImpedance);
        const std::string name = formatExact(ohms, Unit::Ohm) + " tap";
        const bool ofLoad = ohms == t.loadImpedance;
        const NetId here = ofLoad ? loaded : b.own(name);
        if (!ofLoad) b.point(name, here);
        coils.push_back({taps.size() == 1 ? "secondary" : fmt::format("secondary {:g} ohm", ohms), here, below,
                         turns * (share - reached), t.secondaryResistance * (share - reached), ofLoad ? leakage : 0, 0,
                         !ofLoad});
        below = here, reached = share;
    }
}

void wireSingle(StageBuilder& b) {
    const NetId plate = b.name("a1").empty() ? b.own("plate") : b.electrode("plate", "a1");
    const NetId output = b.net(b.channel().name + " output");
    NetId tap;
    const StagePart* iron = b.slot("transformer");
    const auto* t = iron ? std::get_if<OutputTransformer>(&iron->part) : nullptr;
    if (t) {
        const TapShares s = sharesOf(*t);
        const double ohms = t->primaryResistanceA + t->primaryResistanceB,
                     ratio = std::sqrt(t->loadImpedance / t->primaryImpedance);
        std::vector<StageBuilder::Winding> coils;
        double inductance = t->primaryInductance;
        if (t->screenTap > 0) {
            tap = b.own("tap");
            coils = {{"primary", plate, tap, 1 - s.turns, ohms * (1 - s.copper), t->leakageInductance * (1 - s.leakage),
                      t->windingCapacitance / (1 - s.turns)},
                     {"primary, to the tap", tap, b.supply(), s.turns, ohms * s.copper,
                      t->leakageInductance * s.leakage, t->windingCapacitance / s.turns}};
            inductance *= (1 - s.turns) * (1 - s.turns);
        } else {
            coils = {{"primary", plate, b.supply(), 1, ohms, t->leakageInductance, t->windingCapacitance}};
        }
        addSecondary(b, *t, ratio, 0, output, coils);
        b.windings(*iron, inductance, coils, ratio, "output transformer");
    } else if (b.has("choke")) {
        b.join("choke", b.supply(), plate, "plate choke");
        b.join("output coupling", plate, output, "output coupling");
    }
    const Shared shared = sharedCathode(b);
    addOutputSide(b, 'a', b.in(), {plate, tap}, screensOf(b), shared.cathode, shared.self, valvesAt(b.stage(), 'a'));
    b.point("plate", plate);
    finish(b, output);
}

void wirePushPull(StageBuilder& b) {
    const NetId plateA = b.name("a1").empty() ? b.own("plate a") : b.electrode("plate", "a1"),
                plateB = b.name("b1").empty() ? b.own("plate b") : b.electrode("plate", "b1");
    const NetId output = b.net(b.channel().name + " output");
    NetId tapA, tapB;
    const StagePart* iron = b.slot("transformer");
    const auto* t = iron ? std::get_if<OutputTransformer>(&iron->part) : nullptr;
    if (t) {
        // Halves from the centre, secondary to the load. What leaks between the halves lies half in each of them, so
        // that one sees all of it with the other shorted; the rest of the leakage lies in the secondary, so that the
        // whole primary sees `leakageInductance` with the secondary shorted. Two halves' capacitances in series are
        // the whole primary's, as are those of a half's stretches the half's.
        const TapShares s = sharesOf(*t);
        const double between = std::min(t->halvesLeakage, t->leakageInductance),
                     behind = (t->leakageInductance - between) * t->loadImpedance / t->primaryImpedance;
        const double half = std::sqrt(t->primaryImpedance / t->loadImpedance) / 2;
        const double halfCapacitance = 2 * t->windingCapacitance;
        const NetId centre = b.supply();
        std::vector<StageBuilder::Winding> coils;
        double inductance = t->primaryInductance / 4;
        if (t->screenTap > 0) {
            tapA = b.own("tap a"), tapB = b.own("tap b");
            const auto stretch = [&](const char* name, NetId from, NetId to, double ohms, bool inner) {
                const auto of = [&](double share) { return inner ? share : 1 - share; };
                coils.push_back({name, from, to, half * of(s.turns), ohms * of(s.copper), between / 2 * of(s.leakage),
                                 halfCapacitance / of(s.turns)});
            };
            stretch("half a, to the tap", centre, tapA, t->primaryResistanceA, true);
            stretch("half a", tapA, plateA, t->primaryResistanceA, false);
            stretch("half b, to the tap", tapB, centre, t->primaryResistanceB, true);
            stretch("half b", plateB, tapB, t->primaryResistanceB, false);
            inductance *= s.turns * s.turns;
        } else {
            coils = {{"half a", centre, plateA, half, t->primaryResistanceA, between / 2, halfCapacitance},
                     {"half b", plateB, centre, half, t->primaryResistanceB, between / 2, halfCapacitance}};
        }
        addSecondary(b, *t, 1, behind, output, coils);
        b.windings(*iron, inductance, coils, 1, "output transformer");
    }
    const Shared shared = sharedCathode(b);
    const NetId screens = screensOf(b);
    const int all = valvesAt(b.stage(), 'a') + valvesAt(b.stage(), 'b');
    addOutputSide(b, 'a', b.in(0), {plateA, tapA}, screens, shared.cathode, shared.self, all);
    addOutputSide(b, 'b', b.in(1), {plateB, tapB}, screens, shared.cathode, shared.self, all);
    b.point("plate a", plateA);
    b.point("plate b", plateB);
    finish(b, output);
}

std::vector<Slot> outputSlots(bool pushPull) {
    std::vector<Slot> out{{"coupling", {Fill::Capacitor}, 220e-9, 630, false, true, Each::Valve},
                          {"grid leak", {Fill::Resistor}, 220e3, 0.5, false, true, Each::Valve},
                          {"stopper", {Fill::Resistor}, 2.2e3, 0.5, false, true, Each::Valve},
                          {"screen", {Fill::Resistor}, 220, 2, false, true, Each::Valve},
                          {"sense", {Fill::Resistor}, 10, 1, false, false, Each::Valve},
                          {"adjuster", {Fill::Adjuster}, 1, 0, false, false, Each::Valve},
                          {"cathode", {Fill::Resistor, Fill::Diode, Fill::Source}, 150, 5},
                          {"bypass", {Fill::Capacitor}, 220e-6, 50},
                          {"screen drop", {Fill::Resistor}, 2.2e3, 5, false, false},
                          {"screen zener", {Fill::Zener}, 250, 10, false, false},
                          {"screen capacitor", {Fill::Capacitor}, 10e-6, 450, false, false},
                          {"transformer", {Fill::Transformer}, pushPull ? 60.0 : 12.0, pushPull ? 15.0 : 8.0, pushPull},
                          {"load", {Fill::Resistor}, 8, 50},
                          {"series network resistor", {Fill::Resistor}, 10, 2, false, false},
                          {"series network capacitor", {Fill::Capacitor}, 100e-9, 100, false, false}};
    if (!pushPull) {
        out.push_back({"choke", {Fill::Choke}, 20, 0.1, false, false});
        out.push_back({"output coupling", {Fill::Capacitor}, 10e-6, 630, false, false});
    }
    return out;
}
const std::vector<Form> outputForms{{"screens", {"node", "tap", "plate"}}, {"secondary", {"in phase", "turned round"}}};

} // namespace

extern const StageKind singleEndedStage{"single-ended",
                                        "single-ended output",
                                        "One to eight valves in parallel, their current through the transformer.",
                                        Duty::Output,
                                        Phases::One,
                                        Phases::One,
                                        {{"a", Takes::Any, true}},
                                        outputSlots(false),
                                        outputForms,
                                        wireSingle};
extern const StageKind pushPullStage{
    "push-pull", "push-pull output", "One to eight valves a side on a centre-tapped transformer.", Duty::Output,
    Phases::Two, Phases::One,        {{"a", Takes::Any, true}, {"b", Takes::Any, true}},           outputSlots(true),
    outputForms, wirePushPull};

} // namespace ember::schematic
