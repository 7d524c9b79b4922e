// Passive tone controls, and any ladder of resistors and capacitors.
#include "kinds.h"

#include <fmt/format.h>

namespace ember::schematic {

namespace {

/// Treble capacitor to the treble track, slope resistor to the bass and middle capacitors, the bass and middle tracks
/// as rheostats in a chain to ground.
void wireStack(StageBuilder& b) {
    const NetId in = b.in(), top = b.own("treble"), out = b.own("wiper"), foot = b.own("below the treble track"),
                slope = b.own("slope"), middle = b.own("middle");
    b.join("treble capacitor", in, top, "treble capacitor");
    b.track("treble", top, out, foot, "treble control");
    b.join("slope", in, slope, "slope resistor");
    b.join("bass capacitor", slope, foot, "bass capacitor");
    b.join("middle capacitor", slope, middle, "middle capacitor");
    b.track("bass", foot, foot, middle, "bass control");
    if (const StagePart* p = b.slot("middle"); p && std::holds_alternative<PotentiometerPart>(p->part))
        b.track("middle", middle, middle, b.ground, "middle control");
    else
        b.join("middle", middle, b.ground, "middle resistor");
    b.out(out);
}
void drawStack(StageSketch& s) {
    s.wire({{0, 0}, {0.8, 0}});
    s.wire({{0.8, 0}, {0.8, -3}, {1.2, -3}});
    s.part("treble capacitor", {1.2, -3}, {3.2, -3});
    s.wire({{3.2, -3}, {4.4, -3}, {4.4, -2.6}});
    s.track("treble", {4.4, -2.6}, {4.4, 0.2}, {5.6, -1.2});
    s.joint({0.8, 0});
    s.part("slope", {1, 0}, {2.4, 0});
    s.wire({{0.8, 0}, {1, 0}});
    s.wire({{2.4, 0}, {2.6, 0}, {2.6, 0.6}, {2.8, 0.6}});
    s.part("bass capacitor", {2.8, 0.6}, {4.4, 0.6});
    s.wire({{4.4, 0.2}, {4.4, 1}});
    s.wire({{2.6, 0.6}, {2.6, 3.6}, {2.8, 3.6}});
    s.part("middle capacitor", {2.8, 3.6}, {4.4, 3.6});
    s.track("bass", {4.4, 1}, {4.4, 3.2}, {5.4, 2.1});
    s.wire({{5.4, 2.1}, {5.4, 1}, {4.4, 1}});
    s.wire({{4.4, 3.2}, {4.4, 4}});
    if (s.has("middle")) {
        if (const StagePart* p = s.stage.part("middle"); std::holds_alternative<PotentiometerPart>(p->part)) {
            s.track("middle", {4.4, 4}, {4.4, 6}, {5.4, 5});
            s.wire({{5.4, 5}, {5.4, 4}, {4.4, 4}});
        } else {
            s.part("middle", {4.4, 4}, {4.4, 6});
        }
    }
    s.wire({{4.4, 6}, {4.4, 6.4}});
    s.ground({4.4, 6.4});
    s.wire({{5.6, -1.2}, {6.4, -1.2}, {6.4, 0}, {7, 0}});
    s.size(7);
}

/// Bass: a track between two resistors, each half with a capacitor across it. Treble: a track between two capacitors.
void wireShelf(StageBuilder& b) {
    const NetId in = b.in(), out = b.own("out");
    const NetId bassTop = b.own("bass top"), bassFoot = b.own("bass foot"), bassWiper = b.own("bass wiper");
    b.join("bass upper", in, bassTop, "upper bass resistor");
    b.track("bass", bassTop, bassWiper, bassFoot, "bass control");
    b.join("bass upper capacitor", bassTop, bassWiper, "upper bass capacitor");
    b.join("bass lower capacitor", bassWiper, bassFoot, "lower bass capacitor");
    b.join("bass lower", bassFoot, b.ground, "lower bass resistor");
    b.join("joining", bassWiper, out, "resistor from the bass to the treble control");
    const NetId trebleTop = b.own("treble top"), trebleFoot = b.own("treble foot");
    b.join("treble upper capacitor", in, trebleTop, "upper treble capacitor");
    b.track("treble", trebleTop, out, trebleFoot, "treble control");
    b.join("treble lower capacitor", trebleFoot, b.ground, "lower treble capacitor");
    b.out(out);
}
void drawShelf(StageSketch& s) {
    s.wire({{0, 0}, {0.8, 0}, {0.8, -3.4}, {5.6, -3.4}, {5.6, -3}});
    s.wire({{1.6, -3.4}, {1.6, -3}});
    s.part("bass upper", {1.6, -3}, {1.6, -1});
    s.wire({{1.6, -1}, {1.6, -0.8}});
    s.track("bass", {1.6, -0.8}, {1.6, 2}, {2.8, 0.6});
    s.part("bass upper capacitor", {3.4, -1}, {3.4, 0.6});
    s.part("bass lower capacitor", {3.4, 0.6}, {3.4, 2.2});
    s.wire({{1.6, -1}, {3.4, -1}});
    s.wire({{1.6, 2}, {1.6, 2.2}, {3.4, 2.2}});
    s.wire({{2.8, 0.6}, {3.6, 0.6}});
    s.part("bass lower", {1.6, 2.4}, {1.6, 4.4});
    s.wire({{1.6, 2.2}, {1.6, 2.4}});
    s.wire({{1.6, 4.4}, {1.6, 4.8}});
    s.ground({1.6, 4.8});
    s.part("joining", {3.6, 0.6}, {5.2, 0.6});
    s.part("treble upper capacitor", {5.6, -3}, {5.6, -1.2});
    s.track("treble", {5.6, -1.2}, {5.6, 2.4}, {6.8, 0.6});
    s.wire({{5.2, 0.6}, {5.2, 3}, {6.8, 3}, {6.8, 0.6}});
    s.part("treble lower capacitor", {5.6, 2.4}, {5.6, 4.4});
    s.wire({{5.6, 4.4}, {5.6, 4.8}});
    s.ground({5.6, 4.8});
    s.wire({{6.8, 0.6}, {7.4, 0.6}, {7.4, 0}, {8, 0}});
    s.size(8);
}

/// Series and shunt parts in the order in which they are listed.
void wireLadder(StageBuilder& b) {
    NetId at = b.in();
    int step = 0;
    for (const StagePart& p : b.stage().parts) {
        if (p.slot == "series") {
            const NetId next = b.own(fmt::format("step {}", ++step));
            b.place(p, at, next, "series part of the ladder");
            at = next;
        } else if (p.slot == "shunt") {
            b.place(p, at, b.ground, "shunt part of the ladder");
        }
    }
    b.out(at);
}
void drawLadder(StageSketch& s) {
    double x = 0.4;
    s.wire({{0, 0}, {0.4, 0}});
    for (const StagePart& p : s.stage.parts) {
        if (p.slot == "series") {
            s.part(p, {x, 0}, {x + 2.2, 0});
            x += 2.2;
        } else {
            s.wire({{x, 0}, {x + 0.7, 0}, {x + 0.7, 0.6}});
            s.joint({x + 0.7, 0});
            s.part(p, {x + 0.7, 0.6}, {x + 0.7, 3});
            s.wire({{x + 0.7, 3}, {x + 0.7, 3.6}});
            s.ground({x + 0.7, 3.6});
            s.wire({{x + 0.7, 0}, {x + 1.4, 0}});
            x += 1.4;
        }
    }
    s.wire({{x, 0}, {x + 0.4, 0}});
    s.size(x + 0.4);
}

} // namespace

extern const StageKind toneStackStage{"treble bass middle",
                                      "treble, bass and middle",
                                      "A passive network of three controls in one chain.",
                                      Duty::Control,
                                      Phases::One,
                                      Phases::One,
                                      {},
                                      {{"treble capacitor", {Fill::Capacitor}, 250e-12, 400, true},
                                       {"treble", {Fill::Potentiometer}, 250e3, 0.2, true},
                                       {"slope", {Fill::Resistor}, 56e3, 0.5, true},
                                       {"bass capacitor", {Fill::Capacitor}, 22e-9, 400, true},
                                       {"middle capacitor", {Fill::Capacitor}, 22e-9, 400, true},
                                       {"bass", {Fill::Potentiometer}, 250e3, 0.2, true},
                                       {"middle", {Fill::Potentiometer, Fill::Resistor}, 25e3, 0.2, true}},
                                      {},
                                      wireStack,
                                      drawStack};
extern const StageKind toneShelfStage{"bass and treble",
                                      "bass and treble",
                                      "Two passive controls side by side, flat with both in the middle.",
                                      Duty::Control,
                                      Phases::One,
                                      Phases::One,
                                      {},
                                      {{"bass upper", {Fill::Resistor}, 100e3, 0.5, true},
                                       {"bass", {Fill::Potentiometer}, 1e6, 0.2, true},
                                       {"bass lower", {Fill::Resistor}, 10e3, 0.5, true},
                                       {"bass upper capacitor", {Fill::Capacitor}, 2.2e-9, 400, true},
                                       {"bass lower capacitor", {Fill::Capacitor}, 22e-9, 400, true},
                                       {"joining", {Fill::Resistor}, 100e3, 0.5, true},
                                       {"treble upper capacitor", {Fill::Capacitor}, 220e-12, 400, true},
                                       {"treble", {Fill::Potentiometer}, 1e6, 0.2, true},
                                       {"treble lower capacitor", {Fill::Capacitor}, 2.2e-9, 400, true}},
                                      {},
                                      wireShelf,
                                      drawShelf};
extern const StageKind ladderStage{"ladder",
                                   "ladder of R and C",
                                   "Any chain of series and shunt resistors and capacitors, in the order of its parts.",
                                   Duty::Control,
                                   Phases::One,
                                   Phases::One,
                                   {},
                                   {{"series", {Fill::Resistor, Fill::Capacitor}, 100e3, 0.5, false, true, Each::Valve},
                                    {"shunt", {Fill::Capacitor, Fill::Resistor}, 1e-9, 400, false, true, Each::Valve}},
                                   {},
                                   wireLadder,
                                   drawLadder};

} // namespace ember::schematic
