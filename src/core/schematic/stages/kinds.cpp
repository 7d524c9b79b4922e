#include "kinds.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace ember::schematic {

void addTransformer(StageBuilder& b, const StagePart& iron, NetId a, NetId bEnd, NetId c, NetId d, std::string role) {
    const auto* t = std::get_if<OutputTransformer>(&iron.part);
    if (!t) return;
    const double ratio = std::sqrt(t->loadImpedance / t->primaryImpedance);
    b.windings(iron, t->primaryInductance,
               {{"primary", a, bEnd, 1, t->primaryResistanceA + t->primaryResistanceB, t->leakageInductance,
                 t->windingCapacitance},
                {"secondary", c, d, ratio, t->secondaryResistance, 0}},
               ratio, std::move(role));
}

NetId plateLoad(StageBuilder& b, NetId plate, std::string_view slot) {
    const StagePart* load = b.slot(slot);
    if (load && std::holds_alternative<OutputTransformer>(load->part)) {
        const NetId secondary = b.own("secondary");
        addTransformer(b, *load, plate, b.supply(), secondary, b.ground, "interstage transformer");
        b.join("secondary load", secondary, b.ground, "load of the interstage transformer");
        return secondary;
    }
    b.join(slot, b.supply(), plate, "plate load of " + b.name());
    return plate;
}

int valvesAt(const Stage& stage, char side) {
    return static_cast<int>(std::count_if(stage.valves.begin(), stage.valves.end(),
                                          [&](const StageValve& v) { return !v.at.empty() && v.at[0] == side; }));
}

NetId screenFeed(StageBuilder& b) {
    if (!b.has("screen drop")) return b.screens();
    const NetId held = b.own("screens");
    b.join("screen drop", b.screens(), held, "dropping resistor of the screens");
    b.join("screen zener", held, b.ground, "zener string of the screens");
    b.join("screen capacitor", held, b.ground, "screen capacitor");
    return held;
}

void addOutputSide(StageBuilder& b, char side, NetId from, const OutputSide& iron, NetId screens, NetId sharedCathode,
                   PartId sharedSelf, int sharing) {
    const std::string whole(1, side);
    const std::string screensFrom = b.stage().option("screens", "node");
    NetId base = from;
    int sideAdjuster = -1;
    if (b.has("coupling", whole)) {
        base = b.own(fmt::format("grids {}", whole));
        b.join("coupling", from, base, fmt::format("coupling to side {}", whole), whole);
    }
    if (b.has("grid leak", whole))
        b.join("grid leak", base, b.biasFor(whole, sideAdjuster), fmt::format("grid leak of side {}", whole), whole);
    const int ofSide = valvesAt(b.stage(), side);
    NetId sideCathode;
    PartId sideSelf;
    if (b.has("cathode", whole)) {
        const auto c = b.cathodeCircuit(b.own(fmt::format("cathodes {}", whole)), whole);
        sideCathode = c.cathode, sideSelf = c.self;
    }
    for (const StageValve& v : b.stage().valves) {
        if (v.at.empty() || v.at[0] != side) continue;
        int adjuster = sideAdjuster;
        NetId leakTo = b.ground;
        if (b.has("grid leak", v.at) || b.has("adjuster", v.at)) leakTo = b.biasFor(v.at, adjuster);
        const NetId grid = b.gridCircuit(base, leakTo, v.at);
        const std::string name = b.name(v.at);
        NetId screen;
        if (b.pentode(v.at)) {
            const NetId feed = screensFrom == "plate"                        ? iron.plate
                               : screensFrom == "tap" && iron.tap.index >= 0 ? iron.tap
                                                                             : screens;
            screen = feed;
            if (b.has("screen", v.at)) {
                screen = b.electrode("screen", v.at);
                b.join("screen", feed, screen, "screen resistor of " + name, v.at);
            }
        }
        // From the cathode down: sense resistor, then its own cathode resistor, its side's, the stage's, or ground.
        const bool own = b.has("cathode", v.at), sense = b.has("sense", v.at);
        NetId foot = sideCathode.index >= 0 ? sideCathode : sharedCathode.index >= 0 ? sharedCathode : b.ground;
        PartId self = sideCathode.index >= 0 ? sideSelf : sharedSelf;
        int current = sideCathode.index >= 0 ? ofSide : sharing;
        NetId cathode = foot;
        if (own) {
            const auto c =
                b.cathodeCircuit(sense ? b.own(fmt::format("cathode {}", v.at)) : b.electrode("cathode", v.at), v.at);
            foot = cathode = c.cathode, self = c.self, current = 1;
        }
        PartId senseId;
        if (sense) {
            cathode = b.electrode("cathode", v.at);
            senseId = b.join("sense", cathode, foot, "sense resistor of " + name, v.at);
        }
        const NetId plate = iron.plate;
        if (ValveUse* use = b.valve(v.at, grid, plate, cathode, screen)) {
            use->sense = senseId;
            use->foot = foot;
            use->selfBias = self;
            use->sharing = current;
            use->adjuster = adjuster;
        }
    }
}

} // namespace ember::schematic
