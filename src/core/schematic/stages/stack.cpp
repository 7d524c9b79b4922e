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

void drawLower(StageSketch& s) {
    s.gridCircuit(0, {4.4, 3}, 0);
    s.valve(6, 3, "lower");
    s.cathodeCircuit({6, 4.6});
}
void drawSeriesPair(StageSketch& s) {
    drawLower(s);
    s.valve(6, -3.6, "upper");
    s.wire({{6, -5.2}, {6, -6}});
    s.supply({6, -6});
    s.wire({{6, -2}, {6, -1.7}});
    s.part("upper cathode", {6, -1.7}, {6, 0.5});
    s.wire({{6, 0.5}, {6, 1.4}});
    s.joint({6, 0.8});
    s.partOrWire("upper stopper", {3.9, 0.8}, {3.9, -1.6});
    s.wire({{6, 0.8}, {3.9, 0.8}});
    s.wire({{3.9, -1.6}, {3.9, -3.6}, {4.4, -3.6}});
    const double y = s.stage.option("output", "upper cathode") == "lower plate" ? 0.8 : -1.8;
    s.joint({6, y});
    s.wire({{6, y}, {8.2, y}, {8.2, 0}, {8.8, 0}});
    s.size(8.8);
}
void drawCascode(StageSketch& s) {
    drawLower(s);
    s.valve(6, -2.2, "upper");
    s.wire({{6, -0.6}, {6, 1.4}});
    s.plateLoad({6, -3.8}, "plate", 3);
    s.part("upper divider", {3.4, -6}, {3.4, -3.2});
    s.wire({{3.4, -6}, {3.4, -7.2}});
    s.supply({3.4, -7.2});
    s.wire({{3.4, -3.2}, {3.4, -2.2}, {4.4, -2.2}});
    s.part("divider capacitor", {1.6, -2.2}, {1.6, -0.6});
    s.wire({{1.6, -2.2}, {3.4, -2.2}});
    s.joint({3.4, -2.2});
    s.part("lower divider", {3.4, -2}, {3.4, -0.7});
    s.wire({{3.4, -2.2}, {3.4, -2}});
    s.ground({3.4, -0.7});
    s.ground({1.6, -0.6});
    s.joint({6, -4.1});
    s.wire({{6, -4.1}, {8.2, -4.1}, {8.2, 0}, {8.8, 0}});
    s.size(8.8);
}
void drawMuFollower(StageSketch& s) {
    drawLower(s);
    s.valve(6, -5.4, "upper");
    s.wire({{6, -7}, {6, -7.6}});
    s.supply({6, -7.6});
    s.wire({{6, -3.8}, {6, -3.5}});
    s.part("upper cathode", {6, -3.5}, {6, -1.9});
    s.part("plate", {6, -1.5}, {6, 0.5});
    s.wire({{6, -1.9}, {6, -1.5}});
    s.wire({{6, 0.5}, {6, 1.4}});
    s.joint({6, -1.7});
    s.part("upper grid leak", {3.9, -4.2}, {3.9, -2});
    s.wire({{6, -1.7}, {3.9, -1.7}, {3.9, -2}});
    s.wire({{3.9, -4.2}, {3.9, -5.4}, {4.4, -5.4}});
    s.joint({3.9, -5.4});
    s.part("upper coupling", {2.2, -3.6}, {2.2, -1.2});
    s.wire({{3.9, -5.4}, {2.2, -5.4}, {2.2, -3.6}});
    s.wire({{2.2, -1.2}, {2.2, 0.9}, {6, 0.9}});
    s.joint({6, 0.9});
    const double y = s.stage.option("output", "upper cathode") == "lower plate" ? 0.9 : -3.6;
    s.joint({6, y});
    s.wire({{6, y}, {8.2, y}, {8.2, 0}, {8.8, 0}});
    s.size(8.8);
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
                                       wireSeriesPair,
                                       drawSeriesPair};
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
                                    wireCascode,
                                    drawCascode};
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
    wireMuFollower,
    drawMuFollower};

} // namespace ember::schematic
