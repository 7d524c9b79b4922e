// Two valves one above the other: series-regulated pair, cascode, mu follower.
#include "kinds.h"

namespace ember::schematic {

namespace {

/// The lower valve's plate, and where the signal leaves.
void finish(StageBuilder& b, ValveUse* lower, const StageBuilder::CathodeCircuit& c, ValveUse* upper) {
    if (lower) lower->selfBias = c.self, lower->foot = StageBuilder::ground;
    if (upper) upper->foot = upper->cathode;
    b.point("cathode", c.cathode);
}

/// The upper valve is the load: its cathode resistor carries the same current, its grid sits at the lower plate.
void wireSeriesPair(StageBuilder& b) {
    const NetId grid = b.gridCircuit(b.in(), b.ground, "");
    const NetId middle = b.electrode("plate", "lower"), top = b.electrode("cathode", "upper");
    const auto cathode = b.cathodeCircuit(b.electrode("cathode", "lower"));
    b.join("upper cathode", top, middle, "upper cathode resistor");
    ValveUse* lower = b.valve("lower", grid, middle, cathode.cathode);
    if (lower) finish(b, lower, cathode, nullptr);
    NetId upperGrid = middle;
    if (b.has("upper stopper")) {
        upperGrid = b.electrode("grid", "upper");
        b.join("upper stopper", middle, upperGrid, "upper grid stopper");
    }
    if (ValveUse* upper = b.valve("upper", upperGrid, b.supply(), top)) upper->foot = middle;
    b.point("grid", grid);
    b.out(b.stage().option("output", "upper cathode") == "lower plate" ? middle : top);
}

/// The upper valve holds the lower plate still; its grid is at a divider with a capacitor.
void wireCascode(StageBuilder& b) {
    const NetId grid = b.gridCircuit(b.in(), b.ground, "");
    const NetId middle = b.electrode("plate", "lower"), plate = b.electrode("plate", "upper"),
                upperGrid = b.electrode("grid", "upper");
    const auto cathode = b.cathodeCircuit(b.electrode("cathode", "lower"));
    b.join("upper divider", b.supply(), upperGrid, "upper part of the grid's divider");
    b.join("lower divider", upperGrid, b.ground, "lower part of the grid's divider");
    b.join("divider capacitor", upperGrid, b.ground, "capacitor of the grid's divider");
    b.join("plate", b.supply(), plate, "plate load");
    ValveUse* lower = b.valve("lower", grid, middle, cathode.cathode);
    if (lower) finish(b, lower, cathode, nullptr);
    if (ValveUse* upper = b.valve("upper", upperGrid, plate, middle)) upper->foot = middle;
    b.point("grid", grid);
    b.point("plate", plate);
    b.out(plate);
}

/// A follower above a gain stage lifts the foot of its plate resistor with the signal.
void wireMuFollower(StageBuilder& b) {
    const NetId grid = b.gridCircuit(b.in(), b.ground, "");
    const NetId plate = b.electrode("plate", "lower"), top = b.electrode("cathode", "upper"),
                upperGrid = b.electrode("grid", "upper"), foot = b.own("head of the plate resistor");
    const auto cathode = b.cathodeCircuit(b.electrode("cathode", "lower"));
    b.join("upper cathode", top, foot, "upper cathode resistor");
    b.join("plate", foot, plate, "plate resistor");
    b.join("upper coupling", plate, upperGrid, "coupling to the upper grid");
    b.join("upper grid leak", upperGrid, foot, "upper grid leak");
    ValveUse* lower = b.valve("lower", grid, plate, cathode.cathode);
    if (lower) finish(b, lower, cathode, nullptr);
    if (ValveUse* upper = b.valve("upper", upperGrid, b.supply(), top)) upper->foot = foot;
    b.point("grid", grid);
    b.point("plate", plate);
    b.out(b.stage().option("output", "upper cathode") == "lower plate" ? plate : top);
}

std::vector<Slot> stackSlots(std::initializer_list<Slot> own) {
    std::vector<Slot> out{{"coupling", {Fill::Capacitor}, 100e-9, 400, false, false},
                          {"grid leak", {Fill::Resistor}, 1e6, 0.5},
                          {"stopper", {Fill::Resistor}, 1e3, 0.5, false, false},
                          {"cathode", {Fill::Resistor, Fill::Diode, Fill::Source}, 680, 0.5},
                          {"bypass", {Fill::Capacitor}, 220e-6, 16, false, false},
                          {"foot", {Fill::Resistor}, 100, 0.5, false, false}};
    out.insert(out.end(), own.begin(), own.end());
    return out;
}
const std::vector<ValveSlot> twoValves{{"lower", Takes::Triode}, {"upper", Takes::Triode}};

} // namespace

extern const StageKind seriesPairStage{"series pair",
                                       "series-regulated pair",
                                       "A triode with another as its load; the signal leaves at the upper cathode.",
                                       Duty::Gain,
                                       Phases::One,
                                       Phases::One,
                                       twoValves,
                                       stackSlots({{"upper cathode", {Fill::Resistor}, 680, 0.5, true},
                                                   {"upper stopper", {Fill::Resistor}, 1e3, 0.5, false, false}}),
                                       {{"output", {"upper cathode", "lower plate"}}},
                                       wireSeriesPair};
extern const StageKind cascodeStage{"cascode",
                                    "cascode",
                                    "The upper valve holds the lower plate still: high gain, little input capacitance.",
                                    Duty::Gain,
                                    Phases::One,
                                    Phases::One,
                                    twoValves,
                                    stackSlots({{"plate", {Fill::Resistor, Fill::Choke, Fill::Source}, 33e3, 1, true},
                                                {"upper divider", {Fill::Resistor}, 470e3, 0.5, true},
                                                {"lower divider", {Fill::Resistor}, 220e3, 0.5, true},
                                                {"divider capacitor", {Fill::Capacitor}, 1e-6, 250}}),
                                    {},
                                    wireCascode};
extern const StageKind muFollowerStage{
    "mu follower",
    "mu follower",
    "A gain stage whose plate resistor is lifted by a follower: gain near mu, low output impedance.",
    Duty::Gain,
    Phases::One,
    Phases::One,
    twoValves,
    stackSlots({{"plate", {Fill::Resistor}, 33e3, 2, true},
                {"upper cathode", {Fill::Resistor}, 680, 0.5, true},
                {"upper coupling", {Fill::Capacitor}, 100e-9, 400, true},
                {"upper grid leak", {Fill::Resistor}, 1e6, 0.5, true}}),
    {{"output", {"upper cathode", "lower plate"}}},
    wireMuFollower};

} // namespace ember::schematic
