// Stages that make two phases of one: split load, long-tailed pair, paraphase, transformer.
#include "kinds.h"

#include <cmath>

namespace ember::schematic {

namespace {

void wireSplitLoad(StageBuilder& b) {
    NetId leakTo = b.ground;
    const NetId plate = b.electrode("plate"), cathode = b.electrode("cathode");
    NetId head = cathode;
    if (b.has("bias")) { // the leak returns to the foot of the bias resistor
        head = b.own("head of the cathode load");
        b.join("bias", cathode, head, "bias resistor of " + b.name());
        leakTo = head;
    }
    const NetId grid = b.gridCircuit(b.in(), leakTo);
    b.join("plate", b.supply(), plate, "split load's plate resistor");
    const PartId self = b.join("cathode", head, b.ground, "split load's cathode resistor");
    if (ValveUse* v = b.valve("", grid, plate, cathode)) {
        v->selfBias = self;
        v->foot = StageBuilder::ground;
    }
    b.point("plate", plate);
    b.point("cathode", cathode);
    const bool turned = b.stage().option("side a", "plate") == "cathode";
    b.out(turned ? head : plate, turned ? plate : head);
}

void wireLongTail(StageBuilder& b) {
    const NetId cathode = b.own("cathodes");
    NetId tail = cathode, leakTo = b.ground;
    if (b.has("bias")) {
        tail = b.own("tail");
        b.join("bias", cathode, tail, "bias resistor of the pair");
        leakTo = tail;
        b.point("tail", tail);
    }
    NetId foot = b.ground;
    if (b.has("foot")) { // feedback comes in below the tail
        foot = b.own("foot of the tail");
        b.join("foot", foot, b.ground, "foot of the tail");
        b.point("foot", foot);
    }
    b.join("tail", tail, foot, "tail of the pair");
    const NetId gridA = b.gridCircuit(b.in(), leakTo, "a");
    // The second grid: leak to the same place, or to the first where that stands on the stage before; its capacitor to
    // ground, or to where feedback comes in.
    const NetId gridB = b.electrode("grid", "b");
    if (b.has("grid leak", "b"))
        b.join("grid leak", b.has("coupling", "a") || b.has("bias") ? leakTo : gridA, gridB,
               "grid leak of " + b.name("b"), "b");
    const NetId plateA = b.electrode("plate", "a"), plateB = b.electrode("plate", "b");
    b.join("grid capacitor", gridB, foot, "capacitor of the second grid");
    b.point("grid b", gridB);
    b.join("plate", b.supply(), plateA, "plate resistor of " + b.name("a"), "a");
    b.join("plate", b.supply(), plateB, "plate resistor of " + b.name("b"), "b");
    if (ValveUse* v = b.valve("a", gridA, plateA, cathode)) v->foot = foot;
    if (ValveUse* v = b.valve("b", gridB, plateB, cathode)) v->foot = foot;
    b.point("cathode", cathode);
    b.out(plateA, plateB);
}

/// The second valve is driven by a part of the first one's output: by a divider (plain), or by what is left where both
/// outputs meet (floating).
void wireParaphase(StageBuilder& b) {
    const bool floating = b.stage().option("form", "floating") == "floating";
    const NetId gridA = b.gridCircuit(b.in(), b.ground, "a");
    const NetId plateA = b.electrode("plate", "a"), plateB = b.electrode("plate", "b"),
                gridB = b.electrode("grid", "b");
    b.join("plate", b.supply(), plateA, "plate resistor of " + b.name("a"), "a");
    b.join("plate", b.supply(), plateB, "plate resistor of " + b.name("b"), "b");
    const NetId outA = b.own("out a"), outB = b.own("out b");
    b.join("output coupling", plateA, outA, "coupling of the first output", "a");
    b.join("output coupling", plateB, outB, "coupling of the second output", "b");
    b.join("divider", outA, gridB, "from the first output to the second grid", "a");
    if (floating) {
        b.join("divider", outB, gridB, "from the second output to the second grid", "b");
        b.join("shared leak", gridB, b.ground, "leak of the second grid");
    } else {
        b.join("shared leak", gridB, b.ground, "lower part of the divider");
        b.join("divider", outB, b.ground, "leak of the second output", "b");
    }
    auto cathodeA = b.has("cathode", "a") ? b.cathodeCircuit(b.electrode("cathode", "a"), "a")
                                          : b.cathodeCircuit(b.own("cathodes"));
    auto cathodeB = b.has("cathode", "b") ? b.cathodeCircuit(b.electrode("cathode", "b"), "b") : cathodeA;
    if (ValveUse* v = b.valve("a", gridA, plateA, cathodeA.cathode))
        v->foot = StageBuilder::ground, v->selfBias = cathodeA.self, v->sharing = b.has("cathode", "a") ? 1 : 2;
    if (ValveUse* v = b.valve("b", gridB, plateB, cathodeB.cathode))
        v->foot = StageBuilder::ground, v->selfBias = cathodeB.self, v->sharing = b.has("cathode", "b") ? 1 : 2;
    b.point("cathode", cathodeA.cathode);
    b.point("grid", gridA);
    b.out(outA, outB);
}

/// A transformer with a centre-tapped secondary; its primary hangs at the stage before, or between its plate and B+.
void wireIron(StageBuilder& b) {
    const StagePart* iron = b.slot("transformer");
    const auto* t = iron ? std::get_if<OutputTransformer>(&iron->part) : nullptr;
    const NetId outA = b.own("out a"), outB = b.own("out b");
    if (t) {
        const bool fed = b.stage().option("primary", "to ground") == "to the supply";
        const double half = std::sqrt(t->loadImpedance / t->primaryImpedance) / 2;
        b.windings(*iron, t->primaryInductance,
                   {{"primary", b.in(), fed ? b.supply() : b.ground, 1, t->primaryResistanceA + t->primaryResistanceB,
                     t->leakageInductance, t->windingCapacitance},
                    {"secondary a", outA, b.ground, half, t->secondaryResistance / 2, 0},
                    {"secondary b", b.ground, outB, half, t->secondaryResistance / 2, 0}},
                   2 * half, "phase splitting transformer");
        b.join("secondary load", outA, b.ground, "load of the secondary", "a");
        b.join("secondary load", outB, b.ground, "load of the secondary", "b");
    }
    b.out(outA, outB);
}

} // namespace

extern const StageKind splitLoadStage{"split load",
                                      "split load",
                                      "Equal resistors at plate and cathode: two phases, gain just below one each.",
                                      Duty::Splitter,
                                      Phases::One,
                                      Phases::Two,
                                      {{"", Takes::Any}},
                                      {{"coupling", {Fill::Capacitor}, 100e-9, 400, false, false},
                                       {"grid leak", {Fill::Resistor}, 1e6, 0.5, false, false},
                                       {"stopper", {Fill::Resistor}, 1e3, 0.5, false, false},
                                       {"plate", {Fill::Resistor}, 22e3, 1, true},
                                       {"bias", {Fill::Resistor}, 1e3, 0.5, false, false},
                                       {"cathode", {Fill::Resistor}, 22e3, 1, true}},
                                      {{"side a", {"plate", "cathode"}}},
                                      wireSplitLoad};
extern const StageKind longTailStage{
    "long-tailed pair",
    "long-tailed pair",
    "Two cathodes on one tail: gain and two phases at once.",
    Duty::Splitter,
    Phases::One,
    Phases::Two,
    {{"a", Takes::Any}, {"b", Takes::Any}},
    {{"coupling", {Fill::Capacitor}, 100e-9, 400, false, true, Each::First},
     {"grid leak", {Fill::Resistor}, 1e6, 0.5, false, true, Each::Side},
     {"stopper", {Fill::Resistor}, 1e3, 0.5, false, false, Each::First},
     {"plate", {Fill::Resistor, Fill::Choke, Fill::Source}, 100e3, 1, true, true, Each::Side},
     {"bias", {Fill::Resistor}, 470, 0.5},
     {"tail", {Fill::Resistor, Fill::Source}, 10e3, 1, true},
     {"foot", {Fill::Resistor}, 4.7e3, 0.5, false, false},
     {"grid capacitor", {Fill::Capacitor}, 100e-9, 400}},
    {},
    wireLongTail};
extern const StageKind paraphaseStage{"paraphase",
                                      "paraphase",
                                      "A second valve turns a part of the first one's output.",
                                      Duty::Splitter,
                                      Phases::One,
                                      Phases::Two,
                                      {{"a", Takes::Triode}, {"b", Takes::Triode}},
                                      {{"coupling", {Fill::Capacitor}, 100e-9, 400, false, false, Each::First},
                                       {"grid leak", {Fill::Resistor}, 1e6, 0.5, false, true, Each::First},
                                       {"stopper", {Fill::Resistor}, 1e3, 0.5, false, false, Each::First},
                                       {"plate", {Fill::Resistor}, 100e3, 1, true, true, Each::Side},
                                       {"cathode", {Fill::Resistor}, 820, 0.5},
                                       {"bypass", {Fill::Capacitor}, 100e-6, 16},
                                       {"output coupling", {Fill::Capacitor}, 100e-9, 400, true, true, Each::Side},
                                       {"divider", {Fill::Resistor}, 220e3, 0.5, true, true, Each::Side},
                                       {"shared leak", {Fill::Resistor}, 220e3, 0.5, true}},
                                      {{"form", {"floating", "plain"}}},
                                      wireParaphase};
extern const StageKind splitIronStage{"phase transformer",
                                      "phase splitting transformer",
                                      "A transformer with a centre-tapped secondary.",
                                      Duty::Splitter,
                                      Phases::One,
                                      Phases::Two,
                                      {},
                                      {{"transformer", {Fill::Transformer}, 40, 1, true},
                                       {"secondary load", {Fill::Resistor}, 47e3, 0.5, false, false, Each::Side}},
                                      {{"primary", {"to ground", "to the supply"}}},
                                      wireIron};

} // namespace ember::schematic
