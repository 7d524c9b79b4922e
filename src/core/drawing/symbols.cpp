#include "symbols.h"

#include "core/base/overloaded.h"
#include "core/quantity/letters.h"
#include "core/quantity/quantity.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember::drawing {

using namespace schematic;

namespace {

/// Points of a symbol drawn along x from -2 to 2, turned upright where `upright`.
std::vector<Point> turned(std::vector<Point> points, bool upright) {
    if (upright)
        for (Point& p : points) p = {-p.y, p.x};
    return points;
}

void stroke(Element& e, std::vector<Point> points, bool upright, bool closed = false, bool filled = false) {
    e.lines.push_back({turned(std::move(points), upright), Ink::Part, closed, filled});
}

/// Half the width of a part's ink across its length, and its strokes along x.
double inkOf(const schematic::Element& element, Element& e, bool upright) {
    const auto leads = [&](double half) {
        stroke(e, {{-2, 0}, {-half, 0}}, upright);
        stroke(e, {{half, 0}, {2, 0}}, upright);
    };
    return std::visit(
        Overloaded{[&](const Capacitance& c) {
                       leads(0.25);
                       stroke(e, {{-0.25, -0.9}, {-0.25, 0.9}}, upright);
                       if (polarised(c)) // its positive plate is hollow
                           stroke(e, {{0.25, -0.9}, {0.55, -0.9}, {0.55, 0.9}, {0.25, 0.9}}, upright, true, true);
                       else
                           stroke(e, {{0.25, -0.9}, {0.25, 0.9}}, upright);
                       return 0.9;
                   },
                   [&](const Inductance&) {
                       leads(1.4);
                       std::vector<Point> arcs;
                       for (int k = 0; k <= 48; ++k) {
                           const double t = k / 48.0 * 4 * std::numbers::pi;
                           arcs.push_back({-1.4 + 2.8 * k / 48.0, -0.7 * std::abs(std::sin(t))});
                       }
                       stroke(e, arcs, upright);
                       return 0.7;
                   },
                   [&](const CurrentSink&) {
                       leads(1);
                       e.rings.push_back({{0, 0}, 1, Ink::Part});
                       stroke(e, {{-0.6, 0}, {0.6, 0}}, upright);
                       stroke(e, {{0.2, -0.35}, {0.6, 0}, {0.2, 0.35}}, upright);
                       return 1.0;
                   },
                   [&](const Diode&) {
                       leads(0.7);
                       stroke(e, {{-0.7, -0.7}, {0.7, 0}, {-0.7, 0.7}}, upright, true);
                       stroke(e, {{0.7, -0.7}, {0.7, 0.7}}, upright);
                       return 0.7;
                   },
                   [&](const Zener&) { // conducts backwards: its cathode is the first end
                       leads(0.7);
                       stroke(e, {{0.7, -0.7}, {-0.7, 0}, {0.7, 0.7}}, upright, true);
                       stroke(e, {{-0.3, -0.8}, {-0.7, -0.7}, {-0.7, 0.7}, {-1.1, 0.8}}, upright);
                       return 0.8;
                   },
                   [&](const Contacts&) {
                       leads(1);
                       stroke(e, {{-1, 0}, {0.9, -0.7}}, upright);
                       return 0.7;
                   },
                   [&](const auto&) {
                       leads(1.4);
                       stroke(e, {{-1.4, -0.5}, {1.4, -0.5}, {1.4, 0.5}, {-1.4, 0.5}}, upright, true);
                       return 0.5;
                   }},
        element);
}

} // namespace

double SymbolMaker::widthOf(const std::string& text) const {
    const auto letters = static_cast<double>(
        std::count_if(text.begin(), text.end(), [](unsigned char c) { return (c & 0xC0) != 0x80; }));
    return (words.width ? words.width(text) : 0.6 * words.height * letters) / gridStep;
}

std::string SymbolMaker::valueOf(const Part& part) const {
    return words.value ? words.value(part) : std::string();
}

/// `x`: its left edge, its middle, or its right edge; `y`: its upper edge.
void SymbolMaker::word(Element& e, const std::string& text, double x, double y, Align align, Ink ink) const {
    if (text.empty()) return;
    const double w = widthOf(text);
    const double left = align == Align::Left ? x : align == Align::Centre ? x - w / 2 : x - w;
    e.words.push_back({text, {left, y, w, words.height / gridStep}, ink, align});
}

void SymbolMaker::voltsWord(Element& e, NetId net, double x, double y, Align align, const std::string& text) const {
    if (text.empty()) return;
    word(e, text, x, y, align, Ink::Volts);
    e.words.back().net = net.index;
}

/// The part's value; its room is at least what an entry field needs.
void SymbolMaker::valueWord(Element& e, double x, double y, Align align) const {
    const std::string text = valueOf((*subject.schematic)[e.part]);
    if (text.empty()) return;
    word(e, text, x, y, align, Ink::Value);
    const double w = std::max(widthOf(text), words.valueWidth / gridStep),
                 h = std::max(words.height, words.valueHeight) / gridStep;
    e.value = {align == Align::Left ? x : align == Align::Centre ? x - w / 2 : x - w, y, w, h};
    e.words.back().box.y += (h - words.height / gridStep) / 2;
}

void SymbolMaker::reach(Element& e, const Box& b) const {
    e.left = std::max(e.left, -b.x), e.right = std::max(e.right, b.x + b.width);
    e.up = std::max(e.up, -b.y), e.down = std::max(e.down, b.y + b.height);
}

void SymbolMaker::close(Element& e) const {
    reach(e, e.body);
    if (e.value.width > 0) reach(e, e.value);
    for (const Word& w : e.words) reach(e, w.box);
    for (const Box& b : e.flags) reach(e, b);
    for (const Pin& p : e.pins) {
        const double x = p.out.x, y = p.out.y;
        reach(e, {x, y, 0, 0});
    }
}

void SymbolMaker::pin(Element& e, int index, NetId net, GridPoint at, GridPoint out) const {
    const bool flagged =
        net.index >= 0 && (net == Schematic::ground || subject.flagged[static_cast<std::size_t>(net.index)]);
    e.pins.push_back({index, net, at, out, flagged});
    if (flagged) flag(e, e.pins.back());
}

/// Ground as three lines, anything else as a bar with its name, drawn away from the body.
void SymbolMaker::flag(Element& e, const Pin& p) const {
    const double dx = p.out.x - p.at.x, dy = p.out.y - p.at.y, x = p.at.x, y = p.at.y, high = words.height / gridStep;
    if (p.net == Schematic::ground) {
        const double away = dy != 0 ? dy : 1; // to the side it turns down
        Point foot{x + dx, y + away * 0.6};
        e.lines.push_back(
            {dy != 0 ? std::vector<Point>{{x, y}, foot} : std::vector<Point>{{x, y}, {foot.x, y}, foot}, Ink::Wire});
        for (const double half : {0.8, 0.5, 0.2}) {
            e.lines.push_back({{{foot.x - half, foot.y}, {foot.x + half, foot.y}}, Ink::Wire});
            foot.y += away * 0.3;
        }
        e.flags.push_back({foot.x - 0.8, std::min(y, foot.y), 1.6, std::abs(foot.y - y)});
        return;
    }
    const Net& net = (*subject.schematic)[p.net];
    const auto own = subject.flagName.find(p.net.index);
    const std::string name = own == subject.flagName.end() ? net.name : own->second;
    const Ink ink = net.kind == NetKind::HighVoltage ? Ink::Supply : Ink::Name;
    const Point end{x + dx * 0.7, y + dy * 0.7};
    e.lines.push_back({{{x, y}, end}, ink});
    const Point across{dy != 0 ? 1.0 : 0.0, dx != 0 ? 0.7 : 0.0};
    e.lines.push_back(
        {{{end.x - across.x, end.y - across.y}, {end.x + across.x, end.y + across.y}}, ink, false, false, 0.6});
    const std::string volts = words.volts && ink == Ink::Supply ? words.volts(p.net) : std::string();
    const double lines = volts.empty() ? 1 : 2;
    const double top = dy < 0 ? end.y - 0.2 - lines * high : dy > 0 ? end.y + 0.2 : end.y - lines * high / 2;
    const Align align = dy != 0 ? Align::Centre : dx < 0 ? Align::Right : Align::Left;
    word(e, name, end.x + 0.3 * dx, top, align, ink);
    voltsWord(e, p.net, end.x + 0.3 * dx, top + high, align, volts);
    e.flags.push_back({std::min(x, end.x - across.x), std::min(y, end.y - across.y), std::max(2 * across.x, 0.7),
                       std::max(2 * across.y, 0.7)});
}

/// Above and beneath a body of that half height, clear of what is written at its pins.
std::pair<double, double> SymbolMaker::edges(const Element& e, double half) {
    double upper = -half, lower = half;
    for (const Word& w : e.words) upper = std::min(upper, w.box.y), lower = std::max(lower, w.box.y + w.box.height);
    for (const Box& b : e.flags) upper = std::min(upper, b.y), lower = std::max(lower, b.y + b.height);
    return {upper, lower};
}

void SymbolMaker::twoEnded(Element& e, bool upright, int first) const {
    const Part& part = (*subject.schematic)[e.part];
    e.upright = upright;
    const double half = inkOf(part.element, e, upright);
    if (first != 0) // polarity goes with the pins
        for (Line& l : e.lines)
            for (Point& p : l.points) p = {-p.x, -p.y};
    const double w = std::max(half, 0.5);
    e.body = upright ? Box{-w, -2, 2 * w, 4} : Box{-2, -w, 4, 2 * w};
    // A track whose wiper is joined to an end is drawn as a resistor; the wiper is at that end.
    const auto net = [&](int k) { return part.pins[static_cast<std::size_t>(k)].net; };
    const int last = static_cast<int>(part.pins.size()) - 1, a = first == 0 ? 0 : last, b = first == 0 ? last : 0;
    const GridPoint head = upright ? GridPoint{0, -2} : GridPoint{-2, 0}, tail{-head.x, -head.y};
    pin(e, a, net(a), head, {head.x * 3 / 2, head.y * 3 / 2});
    pin(e, b, net(b), tail, {tail.x * 3 / 2, tail.y * 3 / 2});
    if (last == 2)
        e.pins.push_back(
            {1, net(1), net(1) == net(a) ? head : tail, net(1) == net(a) ? e.pins[0].out : e.pins[1].out, true});
    const double high = words.height / gridStep;
    if (upright) {
        word(e, e.id, w + bodyToWords, -high - 0.1, Align::Left, Ink::Name);
        valueWord(e, w + bodyToWords, 0.1, Align::Left);
    } else {
        const auto [upper, lower] = edges(e, w);
        word(e, e.id, 0, upper - bodyToWords - high, Align::Centre, Ink::Name);
        valueWord(e, 0, lower + bodyToWords, Align::Centre);
    }
    close(e);
}

void SymbolMaker::track(Element& e) const {
    const Part& part = (*subject.schematic)[e.part];
    inkOf(part.element, e, true);
    e.lines.push_back({{{2, 0}, {0.5, 0}}, Ink::Part});
    e.lines.push_back({{{1.1, -0.35}, {0.5, 0}, {1.1, 0.35}}, Ink::Part});
    e.body = {-0.5, -2, 2.5, 4};
    pin(e, 0, part.pins[0].net, {0, -2}, {0, -3});
    pin(e, 1, part.pins[1].net, {2, 0}, {3, 0});
    pin(e, 2, part.pins[2].net, {0, 2}, {0, 3});
    const double high = words.height / gridStep;
    word(e, e.id, -0.5 - bodyToWords, -high - 0.1, Align::Right, Ink::Name);
    valueWord(e, -0.5 - bodyToWords, 0.1, Align::Right);
    close(e);
}

void SymbolMaker::valve(Element& e, bool turned) const {
    const Part& part = (*subject.schematic)[e.part];
    const auto& bottle = std::get<Bottle>(part.element);
    const ValveSection& s = bottle.sections[static_cast<std::size_t>(e.section)];
    const bool pentode = s.pins.size() == 4;
    const int up = turned ? 1 : -1; // where the plate is
    const auto line = [&](std::vector<Point> points) {
        for (Point& p : points) p.y *= -up;
        e.lines.push_back({std::move(points), Ink::Part});
    };
    e.rings.push_back({{0, 0}, 3, Ink::Part});
    e.body = {-3, -3, 6, 6};
    line({{0, -3}, {0, -1.6}});
    line({{-1.2, -1.6}, {1.2, -1.6}});
    const auto gridLine = [&](double y) {
        for (const double x : {-1.5, -0.7, 0.1, 0.9}) line({{x, y}, {x + 0.6, y}});
    };
    const double y1 = pentode ? 0.6 : 0.0;
    gridLine(y1);
    line({{-3, 0}, {-2.2, 0}, {-2.2, y1}, {-1.5, y1}});
    if (pentode) {
        gridLine(-0.5);
        line({{3, 0}, {2.2, 0}, {2.2, -0.5}, {1.5, -0.5}});
    }
    line({{-1.1, 2.1}, {-1.1, 1.7}, {1.1, 1.7}, {1.1, 1.9}});
    line({{0, 1.7}, {0, 3}});
    const auto net = [&](std::size_t k) { return part.pins[static_cast<std::size_t>(s.pins[k])].net; };
    const std::size_t plate = pentode ? 2 : 1, cathode = plate + 1;
    pin(e, s.pins[0], net(0), {-3, 0}, {-4, 0});
    pin(e, s.pins[plate], net(plate), {0, 3 * up}, {0, 4 * up});
    pin(e, s.pins[cathode], net(cathode), {0, -3 * up}, {0, -4 * up});
    if (pentode) pin(e, s.pins[1], net(1), {3, 0}, {4, 0});
    const double high = words.height / gridStep;
    double beneath = 0.8; // the screen's wire, or what is written at a screen that hangs on a supply node
    for (const Word& w : e.words)
        if (w.box.x >= 3) beneath = std::max(beneath, w.box.y + w.box.height + 0.1);
    word(e, e.id, 3 + bodyToWords, beneath, Align::Left, Ink::Name);
    word(e, bottle.type, 3 + bodyToWords, beneath + high, Align::Left, Ink::Value);
    for (std::size_t k = 0; k < words.notes.size(); ++k) {
        word(e, words.notes[k], 3 + bodyToWords, beneath + high * (2 + static_cast<double>(k)), Align::Left,
             Ink::Value);
        e.words.back().note = static_cast<int>(k);
    }
    const auto volts = [&](NetId of, double x, double y, Align align) {
        if (words.volts && of.index >= 0 && of != Schematic::ground &&
            !subject.flagged[static_cast<std::size_t>(of.index)])
            voltsWord(e, of, x, y, align, words.volts(of));
    };
    const auto beside = [&](double side) { return side < 0 ? -3 - bodyToWords - high : 3 + bodyToWords; };
    for (const auto& [electrode, side] :
         {std::pair{plate, up}, std::pair{cathode, -up}}) // below, the notes are at the right
        volts(net(electrode), side < 0 ? 0.4 : -0.4, beside(side), side < 0 ? Align::Left : Align::Right);
    volts(net(0), -3 - bodyToWords, 0.4, Align::Right);
    if (pentode) volts(net(1), 3 + bodyToWords, -0.4 - high, Align::Left);
    close(e);
}

void SymbolMaker::terminal(Element& e, NetId net, const std::string& name, bool output) const {
    const int sign = output ? -1 : 1;
    e.rings.push_back({{0, 0}, 0.6, Ink::Part});
    e.lines.push_back({{{0.6 * sign, 0}, {1.0 * sign, 0}}, Ink::Part});
    e.body = {output ? -1 : -0.6, -0.6, 1.6, 1.2};
    e.pins.push_back({-1, net, {sign, 0}, {2 * sign, 0}, false});
    word(e, name, 0, -0.6 - bodyToWords - words.height / gridStep, Align::Centre, Ink::Name);
    close(e);
}

} // namespace ember::drawing
