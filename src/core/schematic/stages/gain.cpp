// One valve that amplifies: triode or pentode with its cathode common, and the cathode follower.
#include "kinds.h"

#include <fmt/format.h>

namespace ember::schematic {

namespace {

void wireCommonCathode(StageBuilder& b) {
    int adjuster = -1;
    const NetId grid = b.gridCircuit(b.in(), b.biasFor("", adjuster));
    const NetId plate = b.electrode("plate");
    const auto cathode = b.cathodeCircuit(b.electrode("cathode"));
    const NetId out = plateLoad(b, plate);
    NetId screen;
    if (b.pentode() && b.kind.valves[0].takes == Takes::Pentode && b.stage().option("screen", "node") != "plate") {
        screen = b.electrode("screen");
        if (b.has("screen"))
            b.join("screen", b.screens(), screen, "screen resistor of " + b.name());
        else
            screen = b.screens();
        const bool toCathode = b.stage().option("screen bypass", "ground") == "cathode";
        b.join("screen capacitor", screen, toCathode ? cathode.cathode : b.ground, "screen capacitor of " + b.name());
    }
    if (ValveUse* v = b.valve("", grid, plate, cathode.cathode, screen)) {
        v->selfBias = cathode.self;
        v->adjuster = adjuster;
        v->foot = StageBuilder::ground;
    }
    b.point("grid", grid);
    b.point("plate", plate);
    b.point("cathode", cathode.cathode);
    if (screen.index >= 0) b.point("screen", screen);
    b.out(out);
}

void wireFollower(StageBuilder& b) {
    const NetId cathode = b.electrode("cathode");
    NetId foot = b.ground, leakTo = b.ground, top = cathode;
    int adjuster = -1;
    // Bias resistor, then the tail; the grid leak returns to where they meet, so that its foot swings with the signal.
    if (b.has("bias")) {
        foot = b.own("tap");
        b.join("bias", cathode, foot, "bias resistor of " + b.name());
        leakTo = foot;
        b.point("tap", foot);
    } else {
        foot = cathode;
        leakTo = b.biasFor("", adjuster);
    }
    const PartId tail = b.join("tail", foot, b.ground, "tail of " + b.name());
    if (b.has("upper divider")) {
        leakTo = b.own("divider");
        b.join("upper divider", b.supply(), leakTo, "upper part of the grid's divider");
        b.join("lower divider", leakTo, b.ground, "lower part of the grid's divider");
        b.join("divider capacitor", leakTo, b.ground, "capacitor of the grid's divider");
    }
    const NetId grid = b.gridCircuit(b.in(), leakTo);
    NetId plate = b.supply();
    if (b.has("plate")) {
        plate = b.electrode("plate");
        b.join("plate", b.supply(), plate, "plate resistor of " + b.name());
    }
    if (ValveUse* v = b.valve("", grid, plate, top)) {
        v->selfBias = b.has("bias") ? PartId{} : tail;
        v->adjuster = adjuster;
        v->foot = StageBuilder::ground;
    }
    b.point("grid", grid);
    b.point("cathode", cathode);
    b.out(cathode);
}

std::vector<Slot> commonCathodeSlots(double plate, double cathode, bool pentode) {
    std::vector<Slot> out{{"coupling", {Fill::Capacitor}, 100e-9, 400, false, false},
                          {"grid leak", {Fill::Resistor}, 1e6, 0.5},
                          {"stopper", {Fill::Resistor}, 1e3, 0.5, false, false},
                          {"plate", {Fill::Resistor, Fill::Choke, Fill::Source, Fill::Transformer}, plate, 1, true},
                          {"secondary load", {Fill::Resistor}, 10e3, 0.5, false, false},
                          {"cathode", {Fill::Resistor, Fill::Diode, Fill::Source}, cathode, 0.5},
                          {"bypass", {Fill::Capacitor}, 100e-6, 16},
                          {"foot", {Fill::Resistor}, 100, 0.5, false, false},
                          {"adjuster", {Fill::Adjuster}, 1, 0, false, false}};
    if (pentode) {
        out.push_back({"screen", {Fill::Resistor}, 1e6, 0.5});
        out.push_back({"screen capacitor", {Fill::Capacitor}, 100e-9, 400});
    }
    return out;
}

} // namespace

extern const StageKind triodeStage{"triode",
                                   "triode",
                                   "A triode with its cathode common: gain, the phase turned.",
                                   Duty::Gain,
                                   Phases::One,
                                   Phases::One,
                                   {{"", Takes::Any}},
                                   commonCathodeSlots(100e3, 1.5e3, false),
                                   {},
                                   [](StageBuilder& b) { wireCommonCathode(b); }};
extern const StageKind pentodeStage{
    "pentode",
    "pentode",
    "A small pentode with its cathode common: more gain, the screen on a resistor of its own.",
    Duty::Gain,
    Phases::One,
    Phases::One,
    {{"", Takes::Pentode}},
    commonCathodeSlots(220e3, 2.2e3, true),
    {{"screen", {"node", "plate"}}, {"screen bypass", {"ground", "cathode"}}},
    wireCommonCathode};
extern const StageKind followerStage{"follower",
                                     "cathode follower",
                                     "Gain just below one, low output impedance.",
                                     Duty::Gain,
                                     Phases::One,
                                     Phases::One,
                                     {{"", Takes::Any}},
                                     {{"coupling", {Fill::Capacitor}, 100e-9, 400, false, false},
                                      {"grid leak", {Fill::Resistor}, 1e6, 0.5, false, false},
                                      {"stopper", {Fill::Resistor}, 1e3, 0.5, false, false},
                                      {"bias", {Fill::Resistor}, 1e3, 0.5, false, false},
                                      {"tail", {Fill::Resistor, Fill::Choke, Fill::Source}, 47e3, 1, true},
                                      {"plate", {Fill::Resistor}, 1e3, 0.5, false, false},
                                      {"upper divider", {Fill::Resistor}, 470e3, 0.5, false, false},
                                      {"lower divider", {Fill::Resistor}, 220e3, 0.5, false, false},
                                      {"divider capacitor", {Fill::Capacitor}, 1e-6, 400, false, false},
                                      {"adjuster", {Fill::Adjuster}, 1, 0, false, false}},
                                     {},
                                     wireFollower};

} // namespace ember::schematic
