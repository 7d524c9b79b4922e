// Volume, balance, fixed pad, switch: passive parts that set the level.
#include "kinds.h"

#include <fmt/format.h>

namespace ember::schematic {

namespace {

void wireVolume(StageBuilder& b) {
    NetId top = b.in();
    if (b.has("coupling")) {
        top = b.own("top of the control");
        b.join("coupling", b.in(), top, "coupling to the control");
    }
    const NetId wiper = b.own("wiper");
    b.track("control", top, wiper, b.ground, "level control");
    b.join("bright", top, wiper, "bright capacitor");
    b.join("fail-safe", wiper, b.ground, "fail-safe resistor from the wiper");
    b.out(wiper);
}
void drawVolume(StageSketch& s) {
    s.partOrWire("coupling", {0.2, 0}, {2, 0});
    s.wire({{0, 0}, {0.2, 0}});
    s.wire({{2, 0}, {3, 0}, {3, 0.4}});
    s.track("control", {3, 0.4}, {3, 3.4}, {4.2, 1.9});
    s.wire({{3, 3.4}, {3, 4}});
    s.ground({3, 4});
    if (s.part("bright", {3.4, 0}, {5.2, 0})) {
        s.wire({{3, 0}, {3.4, 0}});
        s.wire({{5.2, 0}, {5.2, 1.9}});
    }
    s.wire({{4.2, 1.9}, {5.2, 1.9}});
    double x = 5.2;
    if (s.part("fail-safe", {6, 2.2}, {6, 4.4})) {
        s.wire({{5.2, 1.9}, {6, 1.9}, {6, 2.2}});
        s.wire({{6, 4.4}, {6, 4.8}});
        s.ground({6, 4.8});
        x = 6;
    }
    s.wire({{x, 1.9}, {x + 0.8, 1.9}, {x + 0.8, 0}, {x + 1.2, 0}});
    s.size(x + 1.2);
}

void wireBalance(StageBuilder& b) {
    const NetId after = b.own("balance");
    b.join("series", b.in(), after, "balance series resistor");
    b.track("control", after, b.ground, b.ground, "balance control");
    b.out(after);
}
void drawBalance(StageSketch& s) {
    s.part("series", {0.4, 0}, {2.6, 0});
    s.wire({{0, 0}, {0.4, 0}});
    s.wire({{2.6, 0}, {3.4, 0}, {3.4, 0.4}});
    s.track("control", {3.4, 0.4}, {3.4, 3.4}, {4.4, 1.9});
    s.wire({{4.4, 1.9}, {4.4, 4}});
    s.wire({{3.4, 3.4}, {3.4, 4}});
    s.ground({3.4, 4});
    s.ground({4.4, 4});
    s.joint({3.4, 0});
    s.wire({{3.4, 0}, {5.2, 0}});
    s.size(5.2);
}

void wirePad(StageBuilder& b) {
    const NetId after = b.own("behind the pad");
    b.join("series", b.in(), after, "series resistor of the pad");
    b.join("series capacitor", b.in(), after, "capacitor across the pad's series resistor");
    b.join("shunt", after, b.ground, "shunt resistor of the pad");
    b.join("shunt capacitor", after, b.ground, "shunt capacitor of the pad");
    b.out(after);
}
void drawPad(StageSketch& s) {
    s.wire({{0, 0}, {0.6, 0}});
    s.part("series", {0.6, 0}, {2.8, 0});
    if (s.part("series capacitor", {0.6, -1.6}, {2.8, -1.6})) {
        s.wire({{0.6, 0}, {0.6, -1.6}});
        s.wire({{2.8, 0}, {2.8, -1.6}});
    }
    s.wire({{2.8, 0}, {5.4, 0}});
    for (const auto& [slot, x] : {std::pair{"shunt", 3.4}, std::pair{"shunt capacitor", 4.8}})
        if (s.part(slot, {x, 0.6}, {x, 3.2})) {
            s.wire({{x, 0}, {x, 0.6}});
            s.joint({x, 0});
            s.wire({{x, 3.2}, {x, 3.8}});
            s.ground({x, 3.8});
        }
    s.size(5.4);
}

/// In each position a series part, a shunt part, or both; the position is a form of the stage.
void wireSwitch(StageBuilder& b) {
    const std::string at = b.stage().option("position", "1");
    NetId after = b.in();
    if (b.has("series", at)) {
        after = b.own("behind the switch");
        b.join("series", b.in(), after, fmt::format("in position {}", at), at);
    }
    b.join("shunt", after, b.ground, fmt::format("in position {}", at), at);
    b.out(after);
}
void drawSwitch(StageSketch& s) {
    double y = 0;
    s.wire({{0, 0}, {0.8, 0}});
    const std::string now = s.stage.option("position", "1");
    for (const StagePart& p : s.stage.parts) {
        if (p.slot != "series") continue;
        s.part(p, {1.6, y}, {3.8, y});
        s.symbol(Symbol::Wiper, {0.9, y}, p.at);
        s.wire({{3.8, y}, {4.2, y}, {4.2, 0}});
        if (p.at == now) s.wire({{0.8, 0}, {1.6, y}});
        y += 1.8;
    }
    if (const StagePart* p = s.stage.part("shunt", now)) {
        s.part(*p, {4.8, 0.6}, {4.8, 3.2});
        s.wire({{4.8, 0}, {4.8, 0.6}});
        s.wire({{4.8, 3.2}, {4.8, 3.8}});
        s.ground({4.8, 3.8});
    }
    s.wire({{y > 0 ? 4.2 : 0.8, 0}, {5.4, 0}});
    s.size(5.4);
}

} // namespace

extern const StageKind volumeStage{
    "volume",
    "volume control",
    "A potentiometer with a resistor from its wiper to ground, so that a lifted wiper is silence.",
    Duty::Control,
    Phases::One,
    Phases::One,
    {},
    {{"control", {Fill::Potentiometer}, 100e3, 0.2, true},
     {"fail-safe", {Fill::Resistor}, 1e6, 0.5},
     {"coupling", {Fill::Capacitor}, 100e-9, 400, false, false},
     {"bright", {Fill::Capacitor}, 120e-12, 400, false, false}},
    {},
    wireVolume,
    drawVolume};
extern const StageKind balanceStage{
    "balance",
    "balance control",
    "This channel's part of a balance control: a series resistor, then a track to ground.",
    Duty::Control,
    Phases::One,
    Phases::One,
    {},
    {{"series", {Fill::Resistor}, 47e3, 0.5, true}, {"control", {Fill::Potentiometer}, 100e3, 0.2, true}},
    {},
    wireBalance,
    drawBalance};
extern const StageKind padStage{"pad",
                                "fixed pad",
                                "A divider that takes the level down.",
                                Duty::Control,
                                Phases::One,
                                Phases::One,
                                {},
                                {{"series", {Fill::Resistor}, 100e3, 0.5, true},
                                 {"shunt", {Fill::Resistor}, 47e3, 0.5},
                                 {"series capacitor", {Fill::Capacitor}, 100e-12, 400, false, false},
                                 {"shunt capacitor", {Fill::Capacitor}, 100e-12, 400, false, false}},
                                {},
                                wirePad,
                                drawPad};
extern const StageKind switchStage{
    "switch",
    "switch",
    "Positions, each with a series part, a part to ground, or both.",
    Duty::Control,
    Phases::One,
    Phases::One,
    {},
    {{"series", {Fill::Resistor, Fill::Capacitor}, 100e3, 0.5, false, true, Each::Valve},
     {"shunt", {Fill::Resistor, Fill::Capacitor}, 100e3, 0.5, false, false, Each::Valve}},
    {{"position", {"1", "2", "3", "4", "5", "6", "7", "8"}}},
    wireSwitch,
    drawSwitch};

} // namespace ember::schematic
