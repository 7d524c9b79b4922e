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
                                  wire};

} // namespace ember::schematic
