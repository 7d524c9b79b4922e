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
void drawSplitLoad(StageSketch& s) {
    s.gridCircuit(0, {4.4, 0}, 0);
    s.valve(6, 0);
    s.plateLoad({6, -1.6}, "plate", 4.6);
    double y = 1.6;
    if (s.part("bias", {6, 1.9}, {6, 3.4})) y = 3.4;
    s.wire({{6, 1.6}, {6, 1.9}});
    s.part("cathode", {6, y + 0.8}, {6, y + 3});
    s.wire({{6, y}, {6, y + 0.8}});
    s.wire({{6, y + 3}, {6, y + 3.4}});
    s.ground({6, y + 3.4});
    s.joint({6, -1.9});
    s.joint({6, y + 0.3});
    const bool turned = s.stage.option("side a", "plate") == "cathode";
    s.wire({{6, -1.9}, {9.4, -1.9}, {9.4, turned ? 5.0 : -5.0}, {10.2, turned ? 5.0 : -5.0}});
    s.wire({{6, y + 0.3}, {9.9, y + 0.3}, {9.9, turned ? -5.0 : 5.0}, {10.2, turned ? -5.0 : 5.0}});
    s.size(10.2, -5, 5);
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
void drawLongTail(StageSketch& s) {
    s.gridCircuit(0, {4.4, -4.4}, 0, "a");
    s.valve(6, -4.4, "a");
    s.valve(6, 4.4, "b");
    s.wire({{6, -2.8}, {6, 0}});
    s.wire({{6, 6}, {6, 6.4}, {7.6, 6.4}, {7.6, 0}, {6, 0}});
    s.wire({{6, -6}, {6, -6.4}});
    if (s.part("plate", {6, -8.6}, {6, -6.4}, "a")) s.wire({{6, -8.6}, {6, -9}});
    s.supply({6, -9});
    s.wire({{6, 2.8}, {6, 2.4}, {9, 2.4}});
    if (s.part("plate", {9, -2.4}, {9, -0.2}, "b")) s.wire({{9, -0.2}, {9, 2.4}});
    s.wire({{9, -2.4}, {9, -2.8}});
    s.supply({9, -2.8});
    s.joint({9, 2.4});
    double x = 7.6;
    s.joint({7.6, 0});
    if (s.part("bias", {x - 4.2, 0}, {x - 2.4, 0})) s.wire({{x - 2.4, 0}, {7.6, 0}});
    const double left = s.has("bias") ? x - 4.4 : x - 3;
    s.wire({{left, 0}, {s.has("bias") ? x - 4.2 : 7.6, 0}});
    s.part("tail", {left, 0.4}, {left, 2.6});
    s.wire({{left, 0}, {left, 0.4}});
    double y = 2.6;
    if (s.part("foot", {left, 2.8}, {left, 4.6})) y = 4.6;
    s.wire({{left, 2.6}, {left, 2.8}});
    s.wire({{left, y}, {left, y + 0.4}});
    s.ground({left, y + 0.4});
    if (s.part("grid capacitor", {4, 6.4}, {4, 8})) {
        s.wire({{4.4, 4.4}, {4, 4.4}, {4, 6.4}});
        s.wire({{4, 8}, {4, 8.4}});
        s.ground({4, 8.4});
    }
    if (s.part("grid leak", {1.4, 5.4}, {1.4, 7.6}, "b")) {
        s.wire({{4, 4.4}, {1.4, 4.4}, {1.4, 5.4}});
        s.wire({{1.4, 7.6}, {1.4, 8}});
        s.symbol(Symbol::Wiper, {1.4, 8}, s.has("bias") ? "tail" : s.has("coupling", "a") ? "ground" : "first grid");
    }
    s.wire({{6, -6.2}, {10, -6.2}, {10, -5}, {10.6, -5}});
    s.joint({6, -6.2});
    s.wire({{9, 2.4}, {9.6, 2.4}, {9.6, 5}, {10.6, 5}});
    s.size(10.6, -5, 5);
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
void drawParaphase(StageSketch& s) {
    s.gridCircuit(0, {4.4, -4.4}, 0, "a");
    s.valve(6, -4.4, "a");
    s.valve(6, 4.8, "b");
    for (const auto& [at, y] : {std::pair{"a", -4.4}, std::pair{"b", 4.8}}) {
        s.wire({{6, y - 1.6}, {6, y - 2}});
        s.part("plate", {6, y - 4}, {6, y - 2}, at);
        s.wire({{6, y - 4}, {6, y - 4.4}});
        s.supply({6, y - 4.4});
        s.joint({6, y - 1.8});
        s.wire({{6, y - 1.8}, {7.6, y - 1.8}});
        s.part("output coupling", {7.6, y - 1.8}, {9.4, y - 1.8}, at);
        if (s.has("cathode", at)) s.cathodeCircuit({6, y + 1.6}, at);
    }
    if (!s.has("cathode", "a")) {
        s.wire({{6, -2.8}, {6, -2.4}});
        s.cathodeCircuit({6, -2.4});
        s.wire({{6, 6.4}, {6, 6.8}});
        s.symbol(Symbol::Wiper, {6, 6.8}, "cathodes");
    }
    s.part("divider", {10, -5.6}, {10, -3}, "a");
    s.wire({{9.4, -6.2}, {10, -6.2}, {10, -5.6}});
    s.wire({{10, -3}, {10, 0.6}, {3.6, 0.6}, {3.6, 4.8}, {4.4, 4.8}});
    s.part("shared leak", {3.6, 5.4}, {3.6, 7.6});
    s.wire({{3.6, 4.8}, {3.6, 5.4}});
    s.wire({{3.6, 7.6}, {3.6, 8}});
    s.ground({3.6, 8});
    const bool floating = s.stage.option("form", "floating") == "floating";
    if (s.part("divider", {10, floating ? 0.8 : 3.4}, {10, floating ? 2.8 : 5.6}, "b")) {
        if (floating) {
            s.wire({{10, 0.6}, {10, 0.8}});
            s.wire({{10, 2.8}, {10, 3}});
        } else {
            s.wire({{10, 3}, {10, 3.4}});
            s.wire({{10, 5.6}, {10, 6}});
            s.ground({10, 6});
        }
    }
    s.joint({10, -6.2});
    s.joint({10, 3});
    s.wire({{10, -6.2}, {11, -6.2}, {11, -5}, {11.4, -5}});
    s.wire({{9.4, 3}, {11, 3}, {11, 5}, {11.4, 5}});
    s.size(11.4, -5, 5);
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
void drawIron(StageSketch& s) {
    s.wire({{0, 0}, {1, 0}});
    s.part("transformer", {1, 0}, {4, 0});
    s.wire({{4, -0.6}, {4.4, -0.6}, {4.4, -5}, {7, -5}});
    s.wire({{4, 0.6}, {4.4, 0.6}, {4.4, 5}, {7, 5}});
    s.part("secondary load", {5.6, -4.4}, {5.6, -2.2}, "a");
    s.part("secondary load", {5.6, 2.2}, {5.6, 4.4}, "b");
    if (s.has("secondary load", "a")) {
        s.wire({{5.6, -5}, {5.6, -4.4}});
        s.wire({{5.6, -2.2}, {5.6, 2.2}});
        s.wire({{5.6, 4.4}, {5.6, 5}});
        s.ground({5.6, 0});
    }
    s.size(7, -5, 5);
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
                                      wireSplitLoad,
                                      drawSplitLoad};
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
    wireLongTail,
    drawLongTail};
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
                                      wireParaphase,
                                      drawParaphase};
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
                                      wireIron,
                                      drawIron};

} // namespace ember::schematic
