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

void wireBalance(StageBuilder& b) {
    const NetId after = b.own("balance");
    b.join("series", b.in(), after, "balance series resistor");
    b.track("control", after, b.ground, b.ground, "balance control");
    b.out(after);
}

void wirePad(StageBuilder& b) {
    const NetId after = b.own("behind the pad");
    b.join("series", b.in(), after, "series resistor of the pad");
    b.join("series capacitor", b.in(), after, "capacitor across the pad's series resistor");
    b.join("shunt", after, b.ground, "shunt resistor of the pad");
    b.join("shunt capacitor", after, b.ground, "shunt capacitor of the pad");
    b.out(after);
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
    wireVolume};
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
    wireBalance};
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
                                wirePad};
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
    wireSwitch};

} // namespace ember::schematic
