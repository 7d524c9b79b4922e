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
                                      wireStack};
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
                                      wireShelf};
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
                                   wireLadder};

} // namespace ember::schematic
