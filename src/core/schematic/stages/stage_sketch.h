#pragma once
// How a stage draws itself, as plain lines and symbols: x to the right from the stage's left edge, y down from the
// signal's line, in symbol heights of which a valve is two and a half. The interface draws symbols, values and volts.

#include "stage_kind.h"

#include <string>
#include <utility>
#include <vector>

namespace ember::schematic {

using Point2 = std::pair<double, double>;

struct DrawnPart {
    std::size_t part = 0; ///< in Stage::parts
    Point2 from, to;
    Point2 wiper; ///< of a potentiometer, where `hasWiper`
    bool hasWiper = false;
    bool left = false; ///< of an upright one: what is written beside it stands on its left
};
struct DrawnValve {
    std::size_t valve = 0; ///< in Stage::valves
    double x = 0, y = 0;   ///< centre: grid 1.6 to the left, plate 1.6 up, cathode 1.6 down, screen 1.6 to the right
};
enum class Symbol { Ground, Supply, ScreenSupply, Joint, Jack, Output, Wiper };
struct DrawnSymbol {
    Symbol symbol = Symbol::Joint;
    double x = 0, y = 0;
    std::string words; ///< beside it
};

struct StageDrawing {
    double width = 4;
    double inA = 0, inB = 0, outA = 0, outB = 0; ///< heights of the signal at both edges
    std::vector<DrawnPart> parts;
    std::vector<DrawnValve> valves;
    std::vector<std::vector<Point2>> wires;
    std::vector<DrawnSymbol> symbols;
};

class StageSketch {
  public:
    explicit StageSketch(const Stage& of) : stage(of) {}

    [[nodiscard]] bool has(std::string_view slot, std::string_view at = {}) const {
        return stage.part(slot, at) != nullptr;
    }
    /// A slot's part between two points, when it is there.
    bool part(std::string_view slot, Point2 from, Point2 to, std::string_view at = {}, bool left = false);
    void part(const StagePart& which, Point2 from, Point2 to);
    /// The same, or a plain wire.
    void partOrWire(std::string_view slot, Point2 from, Point2 to, std::string_view at = {});
    bool track(std::string_view slot, Point2 clockwise, Point2 other, Point2 wiper);
    void valve(double x, double y, std::string_view at = {});
    void wire(std::vector<Point2> points) { drawing.wires.push_back(std::move(points)); }
    void symbol(Symbol s, Point2 at, std::string words = {}) {
        drawing.symbols.push_back({s, at.first, at.second, std::move(words)});
    }
    void ground(Point2 at) { symbol(Symbol::Ground, at); }
    void supply(Point2 at) { symbol(Symbol::Supply, at); }
    void joint(Point2 at) { symbol(Symbol::Joint, at); }
    /// Whether a capacitor or a stopper leads to the grid, and how far left of its `x` a grid circuit begins then.
    [[nodiscard]] bool coupled(std::string_view at) const;
    [[nodiscard]] double gridLead(std::string_view at) const;
    /// Coupling, leak, stopper from x to the grid of a valve at `grid`; y is the signal's. Ground `down` below.
    void gridCircuit(double x, Point2 grid, double y, std::string_view at = {}, double down = 4);
    /// Cathode resistor, bypass and foot, from the cathode at `top` down to ground.
    void cathodeCircuit(Point2 top, std::string_view at = {}, std::string_view prefix = {});
    /// The plate's load from `plate` up to the supply.
    void plateLoad(Point2 plate, std::string_view slot = "plate", double up = 3.2);
    void size(double width, double outA = 0, double outB = 0) {
        drawing.width = width, drawing.outA = outA, drawing.outB = outB;
    }
    void in(double a, double b = 0) { drawing.inA = a, drawing.inB = b; }

    const Stage& stage;
    StageDrawing drawing;
};

/// Of a stage of a known kind; an empty box of another.
StageDrawing drawingOf(const Stage& stage);

} // namespace ember::schematic
