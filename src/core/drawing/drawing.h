#pragma once
// A circuit as a sheet of paper shows it: bodies, wires, dots and words in millimetres, x to the right, y down. Whoever
// paints it (window, SVG, JSON) paints the same.

#include "core/schematic/schematic.h"

#include <functional>
#include <map>
#include <string>
#include <vector>

namespace ember::drawing {

struct Point {
    double x = 0, y = 0;
    bool operator==(const Point&) const = default;
};
struct Box {
    double x = 0, y = 0, width = 0, height = 0;
};

/// What a line or a word belongs to; the painter gives each its colour.
enum class Ink { Part, Wire, Supply, Name, Value, Volts };

struct Line {
    std::vector<Point> points;
    Ink ink = Ink::Part;
    bool closed = false, filled = false;
    double width = 0.35; ///< [mm]
};
struct Ring {
    Point centre;
    double radius = 1;
    Ink ink = Ink::Part;
};
enum class Align { Left, Centre, Right };
/// `box` is as wide as the word was measured.
struct Word {
    std::string text;
    Box box;
    Ink ink = Ink::Name;
    Align align = Align::Left;
    int net = -1;  ///< whose volts it says
    int body = -1; ///< in Drawing::bodies, that it is of
    int note = -1; ///< which of Words::notes it is
};

constexpr std::size_t noStage = static_cast<std::size_t>(-1);
/// A part, or one system of a valve.
struct Body {
    std::string id; ///< "R7"; of a valve's system "V1.2"
    schematic::PartId part;
    int section = 0; ///< in Bottle::sections
    std::size_t stage = noStage;
    Box box, value; ///< `value`: the room of its value; without width: it has none
    bool upright = true;
};
/// From an end or a dot to the next.
struct Wire {
    schematic::NetId net;
    std::vector<Point> points;
};
struct PinPoint {
    schematic::PartId part;
    int pin = 0; ///< in Part::pins
    schematic::NetId net;
    Point at;
};

struct Drawing {
    double width = 0, height = 0;
    std::vector<Body> bodies;
    std::vector<Word> words;
    std::vector<Line> lines;
    std::vector<Ring> rings;
    std::vector<Wire> wires;
    std::vector<Point> dots;
    std::vector<PinPoint> pins;
    bool complete = false; ///< every net is joined
    int crossings = 0;
    double wireLength = 0; ///< [mm]
};

/// What the words say, and how much room they take.
struct Words {
    double height = 2.5;                                  ///< [mm] of every word's box
    std::function<double(const std::string&)> width = {}; ///< [mm]; empty: 0.6 of the height for every character
    double valueWidth = 0, valueHeight = 2.5;             ///< [mm] that a value's room is at least, for an entry field
    std::function<std::string(const schematic::Part&)> value = {}; ///< empty: no values
    /// Beside a valve's electrodes and under the names of supply nodes; empty: none.
    std::function<std::string(schematic::NetId)> volts = {};
    std::vector<std::string> notes = {};                ///< further lines beneath a valve's type
    std::function<double(std::size_t)> stageWidth = {}; ///< [mm] that a stage is wide at least
};

/// A path from left to right. Parts in `hidden` are not drawn; nets of `flagged` and ground end in a symbol with their
/// name at every pin. `stageOf`: by part, in the order of the path; noStage: beneath the path, where feedback and loose
/// parts stand.
struct Subject {
    const schematic::Schematic* schematic = nullptr;
    std::vector<bool> hidden;
    std::vector<bool> flagged;           ///< by net
    std::map<int, std::string> flagName; ///< by net's index: what its flag says, where that is not the net's name
    std::vector<std::size_t> stageOf;
    std::vector<std::string> names; ///< by part; empty: their ids
    schematic::NetId input, output; ///< with a terminal each; none: no terminal
    std::string inputName = "in", outputName = "out";
};
/// Deterministic. No box lies on another and no wire on a box, because room is made for each before it is placed.
Drawing draw(const Subject& subject, const Words& words = {});

} // namespace ember::drawing
