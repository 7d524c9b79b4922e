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

constexpr double gap = 0.3; ///< [grid steps] between a body and its words

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
                       if (c.farads > 4e-6) // an electrolytic: its positive plate is hollow
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
                       e.rings.push_back({{0, 0}, 1, Ink::Part, false});
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

std::string elementValue(const schematic::Element& element) {
    return std::visit(Overloaded{[](const Resistance& x) { return formatExact(x.ohms, Unit::Ohm); },
                                 [](const Capacitance& x) { return formatExact(x.farads, Unit::Farad); },
                                 [](const Inductance& x) { return formatExact(x.henries, Unit::Henry); },
                                 [](const Track& x) { return formatExact(x.ohms, Unit::Ohm); },
                                 [](const CurrentSink& x) { return formatExact(x.amps, Unit::Ampere); },
                                 [](const Zener& x) { return formatExact(x.volts, Unit::Volt); },
                                 [](const Windings& x) {
                                     return fmt::format("{:.3g} : 1", x.coils.empty() || x.coils.back().turns == 0
                                                                          ? 1
                                                                          : x.coils[0].turns / x.coils.back().turns);
                                 },
                                 [](const auto&) { return std::string(); }},
                      element);
}

} // namespace

double SymbolMaker::widthOf(const std::string& text) const {
    const auto letters = static_cast<double>(
        std::count_if(text.begin(), text.end(), [](unsigned char c) { return (c & 0xC0) != 0x80; }));
    return (words.width ? words.width(text) : 0.6 * words.height * letters) / gridStep;
}

std::string SymbolMaker::valueOf(const Part& part) const {
    return words.value ? words.value(part) : elementValue(part.element);
}

/// `x`: its left edge, its middle, or its right edge; `y`: its upper edge.
void SymbolMaker::word(Element& e, const std::string& text, double x, double y, Align align, Ink ink) const {
    if (text.empty()) return;
    const double w = widthOf(text);
    const double left = align == Align::Left ? x : align == Align::Centre ? x - w / 2 : x - w;
    e.words.push_back({text, {left, y, w, words.height / gridStep}, ink, align});
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
    if (dy < 0) word(e, name, end.x, end.y - 0.2 - high, Align::Centre, ink);
    if (dy > 0) word(e, name, end.x, end.y + 0.2, Align::Centre, ink);
    if (dx < 0) word(e, name, end.x - 0.3, end.y - high / 2, Align::Right, ink);
    if (dx > 0) word(e, name, end.x + 0.3, end.y - high / 2, Align::Left, ink);
    e.flags.push_back({std::min(x, end.x - across.x), std::min(y, end.y - across.y), std::max(2 * across.x, 0.7),
                       std::max(2 * across.y, 0.7)});
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
        word(e, e.id, w + gap, -high - 0.1, Align::Left, Ink::Name);
        valueWord(e, w + gap, 0.1, Align::Left);
    } else {
        word(e, e.id, 0, -w - gap - high, Align::Centre, Ink::Name);
        valueWord(e, 0, w + gap, Align::Centre);
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
    word(e, e.id, -0.5 - gap, -high - 0.1, Align::Right, Ink::Name);
    valueWord(e, -0.5 - gap, 0.1, Align::Right);
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
    e.rings.push_back({{0, 0}, 3, Ink::Part, false});
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
    word(e, e.id, 3 + gap, 0.8, Align::Left, Ink::Name);
    word(e, bottle.type, 3 + gap, 0.8 + high, Align::Left, Ink::Value);
    const auto volts = [&](NetId of) {
        return words.volts && of != Schematic::ground ? words.volts(of) : std::string();
    };
    const auto beside = [&](double side) { return side < 0 ? -3 - gap - high : 3 + gap; };
    word(e, volts(net(plate)), 0.4, beside(up), Align::Left, Ink::Volts);
    word(e, volts(net(cathode)), 0.4, beside(-up), Align::Left, Ink::Volts);
    word(e, volts(net(0)), -3 - gap, 0.4, Align::Right, Ink::Volts);
    if (pentode) word(e, volts(net(1)), 3 + gap, -0.4 - high, Align::Left, Ink::Volts);
    close(e);
}

void SymbolMaker::windings(Element& e, const std::function<double(NetId)>& rank) const {
    const Part& part = (*subject.schematic)[e.part];
    const auto& coils = std::get<Windings>(part.element).coils;
    const auto net = [&](int k) { return part.pins[static_cast<std::size_t>(k)].net; };
    // Coils that meet at a net are one winding with taps; the one of the first coil is the primary.
    std::vector<int> group(coils.size(), -1);
    const auto meet = [&](const Coil& x, const Coil& y) {
        return net(x.a) == net(y.a) || net(x.a) == net(y.b) || net(x.b) == net(y.a) || net(x.b) == net(y.b);
    };
    if (!coils.empty()) group[0] = 0;
    for (std::size_t round = 0; round < coils.size(); ++round)
        for (std::size_t k = 0; k < coils.size(); ++k)
            for (std::size_t j = 0; j < coils.size(); ++j)
                if (group[k] == 0 && group[j] < 0 && net(coils[j].a).index >= 0 && meet(coils[k], coils[j]) &&
                    part.pins[static_cast<std::size_t>(coils[j].a)].name.rfind("secondary", 0) != 0)
                    group[j] = 0;
    // Each side as a list of ends from top to bottom: pins that lie on one net stand at one place.
    const auto chain = [&](bool primary) {
        std::vector<Coil> left;
        for (std::size_t k = 0; k < coils.size(); ++k)
            if ((group[k] == 0) == primary) left.push_back(coils[k]);
        std::vector<std::vector<int>> ends;
        while (!left.empty()) {
            // An end that no other coil shares, the uppermost first.
            std::size_t start = 0;
            bool backwards = false;
            double best = 1e9;
            for (std::size_t k = 0; k < left.size(); ++k)
                for (const bool back : {false, true}) {
                    const NetId here = net(back ? left[k].b : left[k].a);
                    const bool shared = here.index >= 0 && std::any_of(left.begin(), left.end(), [&](const Coil& o) {
                                            return !(o == left[k]) && (net(o.a) == here || net(o.b) == here);
                                        });
                    const double worth = (shared ? 1e7 : 0) + (here.index < 0 ? 1e6 : rank(here));
                    if (worth < best) best = worth, start = k, backwards = back;
                }
            Coil c = left[start];
            left.erase(left.begin() + static_cast<std::ptrdiff_t>(start));
            ends.push_back({backwards ? c.b : c.a});
            ends.push_back({backwards ? c.a : c.b});
            for (bool more = true; more;) {
                more = false;
                for (std::size_t k = 0; k < left.size() && !more; ++k) {
                    const NetId foot = net(ends.back().front());
                    if (net(left[k].a) != foot && net(left[k].b) != foot) continue;
                    const bool back = net(left[k].a) != foot;
                    ends.back().push_back(back ? left[k].b : left[k].a);
                    ends.push_back({back ? left[k].a : left[k].b});
                    left.erase(left.begin() + static_cast<std::ptrdiff_t>(k));
                    more = true;
                }
            }
            if (!left.empty()) ends.push_back({}); // a gap between two windings
        }
        return ends;
    };
    const auto side = [&](const std::vector<std::vector<int>>& ends, int sign) {
        const int height = 4 * (static_cast<int>(ends.size()) - 1);
        int y = -height / 2;
        for (std::size_t k = 0; k < ends.size(); ++k, y += 4) {
            if (ends[k].empty()) continue;
            bool first = true;
            for (const int index : ends[k]) {
                if (first)
                    pin(e, index, net(index), {3 * sign, y}, {4 * sign, y});
                else
                    e.pins.push_back({index, net(index), {3 * sign, y}, {4 * sign, y}, true});
                first = false;
            }
            const double yy = y;
            e.lines.push_back({{{3.0 * sign, yy}, {1.0 * sign, yy}}, Ink::Part});
            if (k + 1 < ends.size() && !ends[k + 1].empty()) {
                std::vector<Point> arcs;
                for (int i = 0; i <= 48; ++i)
                    arcs.push_back(
                        {sign * (1 - 0.6 * std::abs(std::sin(i / 48.0 * 4 * std::numbers::pi))), yy + 4.0 * i / 48});
                e.lines.push_back({std::move(arcs), Ink::Part});
            }
        }
        return std::max(2.0, height / 2.0);
    };
    const double half = std::max(side(chain(true), -1), side(chain(false), 1));
    for (const double x : {-0.15, 0.15}) e.lines.push_back({{{x, -half}, {x, half}}, Ink::Part});
    e.body = {-3, -half, 6, 2 * half};
    const double high = words.height / gridStep;
    word(e, e.id, 0, -half - gap - high, Align::Centre, Ink::Name);
    valueWord(e, 0, half + gap, Align::Centre);
    close(e);
}

void SymbolMaker::terminal(Element& e, NetId net, const std::string& name, bool output) const {
    const int sign = output ? -1 : 1;
    e.rings.push_back({{0, 0}, 0.6, Ink::Part, false});
    e.lines.push_back({{{0.6 * sign, 0}, {1.0 * sign, 0}}, Ink::Part});
    e.body = {output ? -1 : -0.6, -0.6, 1.6, 1.2};
    e.pins.push_back({-1, net, {sign, 0}, {2 * sign, 0}, false});
    word(e, name, 0, -0.6 - gap - words.height / gridStep, Align::Centre, Ink::Name);
    close(e);
}

} // namespace ember::drawing
