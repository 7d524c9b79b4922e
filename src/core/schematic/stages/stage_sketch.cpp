#include "stage_sketch.h"

#include <algorithm>

namespace ember::schematic {

bool StageSketch::part(std::string_view slot, Point2 from, Point2 to, std::string_view at, bool left) {
    const StagePart* p = stage.part(slot, at);
    if (p) {
        part(*p, from, to);
        drawing.parts.back().left = left;
    }
    return p != nullptr;
}

void StageSketch::part(const StagePart& which, Point2 from, Point2 to) {
    drawing.parts.push_back({static_cast<std::size_t>(&which - stage.parts.data()), from, to, {}, false, false});
}

void StageSketch::partOrWire(std::string_view slot, Point2 from, Point2 to, std::string_view at) {
    if (!part(slot, from, to, at)) wire({from, to});
}

bool StageSketch::track(std::string_view slot, Point2 clockwise, Point2 other, Point2 wiper) {
    const StagePart* p = stage.part(slot);
    if (!p) return false;
    drawing.parts.push_back({static_cast<std::size_t>(p - stage.parts.data()), clockwise, other, wiper, true, true});
    return true;
}

void StageSketch::valve(double x, double y, std::string_view at) {
    if (const StageValve* v = stage.valve(at))
        drawing.valves.push_back({static_cast<std::size_t>(v - stage.valves.data()), x, y});
}

bool StageSketch::coupled(std::string_view at) const {
    return has("coupling", at) || has("stopper", at);
}

double StageSketch::gridLead(std::string_view at) const {
    return coupled(at) ? 3 : 0.9;
}

void StageSketch::gridCircuit(double x, Point2 grid, double y, std::string_view at, double down) {
    // With a capacitor or a stopper it begins further to the left; drawingOf() moves the whole to the right then.
    const bool parts = coupled(at);
    const double start = x - gridLead(at);
    const double end = start + (parts ? 2.4 : 1), junction = start + (parts ? 2.8 : 1.2);
    partOrWire("coupling", {start, y}, {end, y}, at);
    wire({{end, y}, {junction, y}});
    if (part("grid leak", {junction, y + 0.6}, {junction, y + down - 0.6}, at, true)) {
        wire({{junction, y}, {junction, y + 0.6}});
        wire({{junction, y + down - 0.6}, {junction, y + down}});
        joint({junction, y});
        if (has("adjuster", at) || has("adjuster", at.substr(0, 1)) || has("adjuster"))
            symbol(Symbol::Wiper, {junction, y + down}, "bias");
        else
            ground({junction, y + down});
    }
    partOrWire("stopper", {junction, y}, {grid.first - 0.4, y}, at);
    wire({{grid.first - 0.4, y}, {grid.first - 0.4, grid.second}, grid});
}

void StageSketch::cathodeCircuit(Point2 top, std::string_view at, std::string_view prefix) {
    const std::string self = std::string(prefix) + "cathode", across = std::string(prefix) + "bypass",
                      below = std::string(prefix) + "foot";
    const auto [x, y] = top;
    if (!has(self, at) && !has(below, at)) {
        wire({top, {x, y + 0.6}});
        return ground({x, y + 0.6});
    }
    double foot = y;
    if (has(self, at)) {
        wire({top, {x, y + 0.3}});
        part(self, {x, y + 0.3}, {x, y + 2.5}, at, true);
        if (part(across, {x + 2, y + 0.3}, {x + 2, y + 2.5}, at)) {
            wire({{x, y + 0.3}, {x + 2, y + 0.3}});
            wire({{x, y + 2.5}, {x + 2, y + 2.5}});
            joint({x, y + 0.3});
        }
        foot = y + 2.5;
    }
    if (part(below, {x, foot + 0.2}, {x, foot + 2.2}, at, true)) {
        wire({{x, foot}, {x, foot + 0.2}});
        joint({x, foot});
        foot += 2.2;
    }
    wire({{x, foot}, {x, foot + 0.4}});
    ground({x, foot + 0.4});
}

void StageSketch::plateLoad(Point2 plate, std::string_view slot, double up) {
    const auto [x, y] = plate;
    wire({plate, {x, y - 0.6}});
    partOrWire(slot, {x, y - up}, {x, y - 0.6});
    wire({{x, y - up}, {x, y - up - 0.4}});
    supply({x, y - up - 0.4});
}

StageDrawing drawingOf(const Stage& stage) {
    StageSketch sketch(stage);
    const StageKind* kind = stageKind(stage.kind);
    if (kind && kind->draw)
        kind->draw(sketch);
    else
        sketch.wire({{0, 0}, {4, 0}});
    StageDrawing& d = sketch.drawing;
    double least = 0;
    for (const auto& wire : d.wires)
        for (const Point2& p : wire) least = std::min(least, p.first);
    for (auto& wire : d.wires)
        for (Point2& p : wire) p.first -= least;
    for (DrawnPart& p : d.parts)
        for (Point2* at : {&p.from, &p.to, &p.wiper}) at->first -= least;
    for (DrawnValve& v : d.valves) v.x -= least;
    for (DrawnSymbol& symbol : d.symbols) symbol.x -= least;
    d.width -= least;
    return std::move(d);
}

} // namespace ember::schematic
