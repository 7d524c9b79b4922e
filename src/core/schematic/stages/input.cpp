// Jack, load and stopper resistors, line transformer.
#include "kinds.h"

namespace ember::schematic {

namespace {

void wire(StageBuilder& b) {
    NetId at = b.in();
    b.join("load", at, b.ground, "input load");
    if (const StagePart* iron = b.slot("transformer")) {
        const NetId secondary = b.own("secondary");
        addTransformer(b, *iron, at, b.ground, secondary, b.ground, "input transformer");
        b.join("secondary load", secondary, b.ground, "load of the input transformer");
        at = secondary;
    }
    if (b.has("series")) {
        const NetId behind = b.own("behind the series resistor");
        b.join("series", at, behind, "input series resistor");
        at = behind;
    }
    b.join("shunt", at, b.ground, "input shunt resistor");
    b.join("second input", at, b.ground, "series resistor of the second input, whose jack is closed to ground");
    b.out(at);
}

void draw(StageSketch& s) {
    s.symbol(Symbol::Jack, {0.8, 0});
    s.wire({{1, 0}, {2, 0}});
    if (s.part("load", {2, 0.6}, {2, 3.2})) {
        s.wire({{2, 0}, {2, 0.6}});
        s.joint({2, 0});
        s.wire({{2, 3.2}, {2, 3.8}});
        s.ground({2, 3.8});
    }
    double x = 2;
    if (s.part("transformer", {x + 0.6, 0}, {x + 3.4, 0})) {
        s.wire({{x, 0}, {x + 0.6, 0}});
        x += 3.4;
        if (s.part("secondary load", {x + 0.6, 0.6}, {x + 0.6, 3.2})) {
            s.wire({{x, 0}, {x + 0.6, 0}, {x + 0.6, 0.6}});
            s.wire({{x + 0.6, 3.2}, {x + 0.6, 3.8}});
            s.ground({x + 0.6, 3.8});
            x += 0.6;
        }
    }
    if (s.part("series", {x + 0.4, 0}, {x + 2.6, 0})) {
        s.wire({{x, 0}, {x + 0.4, 0}});
        x += 2.6;
    }
    if (s.part("shunt", {x + 0.6, 0.6}, {x + 0.6, 3.2})) {
        s.wire({{x, 0}, {x + 0.6, 0}, {x + 0.6, 0.6}});
        s.wire({{x + 0.6, 3.2}, {x + 0.6, 3.8}});
        s.ground({x + 0.6, 3.8});
        x += 0.6;
    }
    if (s.part("second input", {x + 0.8, 1}, {x + 0.8, 3.2})) {
        s.wire({{x, 0}, {x + 0.8, 0}, {x + 0.8, 1}});
        s.wire({{x + 0.8, 3.2}, {x + 0.8, 3.6}});
        s.symbol(Symbol::Jack, {x + 0.8, 3.8}, "second");
        x += 0.8;
    }
    s.wire({{x, 0}, {x + 1, 0}});
    s.size(x + 1);
}

} // namespace

extern const StageKind inputStage{"input",
                                  "input",
                                  "The jack, with its load, a stopper, or a line transformer.",
                                  Duty::Input,
                                  Phases::One,
                                  Phases::One,
                                  {},
                                  {{"load", {Fill::Resistor}, 1e6, 0.5},
                                   {"series", {Fill::Resistor}, 10e3, 0.5, false, false},
                                   {"shunt", {Fill::Resistor}, 100e3, 0.5, false, false},
                                   {"second input", {Fill::Resistor}, 68e3, 0.5, false, false},
                                   {"transformer", {Fill::Transformer}, 40, 0.1, false, false},
                                   {"secondary load", {Fill::Resistor}, 10e3, 0.5, false, false}},
                                  {},
                                  wire,
                                  draw};

} // namespace ember::schematic
