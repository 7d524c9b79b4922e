#pragma once
// Symbols of parts in grid steps round their axis, with the room of their words: what the placing and the routing of a
// drawing work with.

#include "drawing.h"

namespace ember::drawing {

/// [mm] of a grid step. Pins and wires lie on the grid.
constexpr double gridStep = 2.5;
constexpr double bodyToWords = 0.3; ///< [grid steps] between a body and its words

/// Drawn as an electrolytic: what is larger hardly comes as anything else.
inline bool polarised(const schematic::Capacitance& c) {
    return c.farads > 4e-6;
}

struct GridPoint {
    int x = 0, y = 0;
    bool operator==(const GridPoint&) const = default;
};

struct Pin {
    int index = 0; ///< in Part::pins; -1: a terminal's
    schematic::NetId net;
    GridPoint at, out; ///< `out`: one step away from the body
    bool flag = false; ///< ends in a symbol with its net's name
};

/// One thing that is drawn: a part, a valve's system, a terminal. Lengths in grid steps from its axis.
struct Element {
    schematic::PartId part;
    int section = 0;
    std::string id;
    std::size_t stage = noStage;
    bool upright = true;
    std::vector<Pin> pins;
    Box body, value;
    std::vector<Box> flags; ///< symbols of ground and of named nets at its pins
    std::vector<Word> words;
    std::vector<Line> lines;
    std::vector<Ring> rings;
    double left = 0, right = 0, up = 0, down = 0; ///< reach, words and flags included
    double column = 0, row = 0;                   ///< order; what is equal stands in line
    bool placed = false;
};

class SymbolMaker {
  public:
    SymbolMaker(const Subject& of, const Words& with) : subject(of), words(with) {}
    /// Two ends: `first` is the pin on top, or on the left.
    void twoEnded(Element& e, bool upright, int first) const;
    /// A track, clockwise end on top, wiper at the right.
    void track(Element& e) const;
    /// A valve's system; `turned`: plate below.
    void valve(Element& e, bool turned) const;
    /// A transformer: the windings that hang together with the first at the left, the others at the right; of each
    /// winding the end with the lower `rank` on top.
    void windings(Element& e, const std::function<double(schematic::NetId)>& rank) const;
    /// Input at the left edge, output at the right.
    void terminal(Element& e, schematic::NetId net, const std::string& name, bool output) const;

  private:
    [[nodiscard]] double widthOf(const std::string& text) const;
    [[nodiscard]] std::string valueOf(const schematic::Part& part) const;
    void word(Element& e, const std::string& text, double x, double y, Align align, Ink ink) const;
    void voltsWord(Element& e, schematic::NetId net, double x, double y, Align align, const std::string& text) const;
    void valueWord(Element& e, double x, double y, Align align) const;
    void pin(Element& e, int index, schematic::NetId net, GridPoint at, GridPoint out) const;
    void flag(Element& e, const Pin& pin) const;
    void reach(Element& e, const Box& box) const;
    static std::pair<double, double> edges(const Element& e, double half);
    void close(Element& e) const;
    const Subject& subject;
    const Words& words;
};

} // namespace ember::drawing
