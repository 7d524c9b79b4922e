#include "bodies.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <cmath>
#include <numbers>
#include <sstream>

namespace ember::chassis {

namespace {

using Size = BodyKind::Size;
constexpr double mm = 1e-3;

Body box(const char* id, double w, double d, double bottom, double h, double x = 0, double y = 0) {
    return {{}, id, BodyShape::Box, x * mm, y * mm, w * mm, d * mm, bottom * mm, h * mm};
}
Body cylinder(const char* id, double diameter, double bottom, double h, double x = 0, double y = 0) {
    return {{}, id, BodyShape::Cylinder, x * mm, y * mm, diameter * mm, diameter * mm, bottom * mm, h * mm};
}
Hole round(const char* id, double diameter, double x = 0, double y = 0) {
    return {{}, id, HoleShape::Round, x * mm, y * mm, diameter * mm, diameter * mm};
}
Hole rectangle(const char* id, double w, double h, double x = 0, double y = 0) {
    return {{}, id, HoleShape::Rectangle, x * mm, y * mm, w * mm, h * mm};
}
void fourBolts(PlacedPart& p, double across, double along, double diameter) {
    int n = 1;
    for (const double sx : {-0.5, 0.5})
        for (const double sy : {-0.5, 0.5})
            p.holes.push_back(round(fmt::format("b{}", n++).c_str(), diameter, sx * across, sy * along));
}

/// Edge of the cube with the iron's volume [mm]; the mountings are that cube pressed into their shape.
double edge(double va) {
    return std::cbrt(ironMass(va) / 5000) * 1e3;
}

PlacedPart iron(const std::string& id, double va) {
    PlacedPart p;
    p.voltAmperes = va;
    p.mass = ironMass(va);
    const double e = edge(va);
    p.core = CoreAxis::Width;
    if (id.ends_with("upright")) { // standing lamination, bells at both ends, leads through one grommet
        p.bodies = {box("core", 1.05 * e, 0.95 * e, 0, 1.0 * e), box("leads", 12, 12, -22, 22, 0, 0.3 * e)};
        fourBolts(p, 0.8 * e, 0.78 * e, 4.5);
        p.holes.push_back(round("leads", 13, 0, 0.3 * e));
    } else if (id.ends_with("laydown")) { // through a cut-out: half above, half below
        p.bodies = {box("above", 1.1 * e, 0.95 * e, 0, 0.5 * e), box("below", 0.75 * e, 0.7 * e, -0.45 * e, 0.45 * e)};
        fourBolts(p, 0.92 * e, 0.78 * e, 4.5);
        p.holes.push_back(rectangle("cutout", 0.78 * e, 0.73 * e));
        p.core = CoreAxis::Depth;
    } else if (id.ends_with("open")) {
        p.bodies = {box("core", 1.0 * e, 0.85 * e, 0, 1.0 * e)};
        fourBolts(p, 1.25 * e, 0, 4.5);
        p.holes.resize(2);
        p.liveAbove = true;
    } else if (id.ends_with("potted")) {
        p.bodies = {box("can", 1.1 * e, 1.1 * e, 0, 1.15 * e), box("terminals", 0.7 * e, 0.7 * e, -16, 16)};
        fourBolts(p, 0.85 * e, 0.85 * e, 4.5);
        p.holes.push_back(round("terminals", 0.75 * e));
        p.mass *= 1.25;
        p.stray = 0.5;
        p.core = CoreAxis::Upright;
    } else { // toroid
        p.bodies = {cylinder("ring", 1.35 * e, 0, 0.62 * e), box("bolt", 14, 14, -10, 10)};
        p.holes = {round("bolt", 8.5)};
        p.stray = 0.1;
        p.core = CoreAxis::Upright;
    }
    return p;
}

PlacedPart socket(double hole, double bolts, double body, double below, double glass, double tall) {
    PlacedPart p;
    p.bodies = {cylinder("socket", body, -below, below), cylinder("glass", glass, 0, tall)};
    p.holes = {round("body", hole), round("b1", 3.2, -bolts / 2, 0), round("b2", 3.2, bolts / 2, 0)};
    p.mass = 0.045;
    p.drawLength = tall * mm;
    return p;
}

/// A can or axial body of `volume` [m3], `slender` times as long as wide.
PlacedPart can(double volume, bool upright, double slender) {
    const double diameter = std::cbrt(4 * volume / (std::numbers::pi * slender)) * 1e3, length = slender * diameter;
    PlacedPart p;
    p.mass = 0.02 + 1500 * volume;
    if (upright) {
        p.bodies = {cylinder("can", diameter, 0, length), cylinder("tags", 0.8 * diameter, -14, 14)};
        p.holes = {round("body", diameter + 0.5)};
    } else { // lies below, along its width
        p.bodies = {box("body", length, diameter, -3 - diameter, diameter)};
        p.holes = {round("b1", 3.2, -length / 2 - 4, 0), round("b2", 3.2, length / 2 + 4, 0)};
    }
    return p;
}

PlacedPart simple(std::vector<Body> bodies, std::vector<Hole> holes, double mass, Face face = Face::Top) {
    PlacedPart p;
    p.bodies = std::move(bodies);
    p.holes = std::move(holes);
    p.mass = mass;
    p.face = face;
    return p;
}

PlacedPart fixedBody(const std::string& id) {
    if (id == "socket-octal-clip") return socket(28.5, 38, 28, 18, 32, 85);
    if (id == "socket-octal-flange") return socket(30, 40, 30, 16, 32, 85);
    if (id == "socket-noval-clip") return socket(19.5, 28, 20, 17, 22, 62);
    if (id == "socket-noval-flange") return socket(22, 28.5, 22, 16, 22, 62);
    if (id == "socket-miniature") return socket(16, 22.5, 16, 15, 19, 48);
    if (id == "resistor-chassis")
        return simple({box("body", 50, 16, -19, 16)}, {round("b1", 3.2, -20, -10), round("b2", 3.2, 20, 10)}, 0.03);
    if (id == "board-turret")
        return simple({box("board", 160, 60, -28, 20), box("sheet", 164, 64, -2, 1)},
                      {round("b1", 3.2, -72, -24), round("b2", 3.2, 72, -24), round("b3", 3.2, -72, 24),
                       round("b4", 3.2, 72, 24)},
                      0.08);
    if (id == "board-heater")
        return simple({box("board", 80, 50, -40, 34), box("sheet", 84, 54, -6, 1)},
                      {round("b1", 3.2, -34, -19), round("b2", 3.2, 34, -19), round("b3", 3.2, -34, 19),
                       round("b4", 3.2, 34, 19)},
                      0.09);
    if (id == "strip-tag")
        return simple({box("strip", 60, 10, -20, 20)}, {round("b1", 3.2, -20, 0), round("b2", 3.2, 20, 0)}, 0.01);
    if (id == "potentiometer")
        return simple({cylinder("body", 24, -22, 22), cylinder("knob", 25, 2, 16)},
                      {round("shaft", 9.5), round("peg", 3, 0, 11)}, 0.04, Face::Front);
    if (id == "switch-toggle")
        return simple({box("body", 14, 26, -30, 30), cylinder("lever", 8, 0, 18)}, {round("shaft", 12)}, 0.02,
                      Face::Front);
    if (id == "fuse-holder")
        return simple({cylinder("body", 16, -38, 38), cylinder("cap", 17, 0, 9)},
                      {Hole{{}, "body", HoleShape::FlattedRound, 0, 0, 12.7 * mm, 11.8 * mm}}, 0.015, Face::Back);
    if (id == "inlet")
        return simple({box("body", 27, 20, -28, 28), box("flange", 48, 22, 0, 3)},
                      {rectangle("body", 27.2, 20.2), round("b1", 3.2, -20, 0), round("b2", 3.2, 20, 0)}, 0.03,
                      Face::Back);
    if (id == "jack")
        return simple({cylinder("body", 14, -22, 22), cylinder("shell", 12, 0, 12)}, {round("body", 9.5)}, 0.01,
                      Face::Back);
    if (id == "terminals-output")
        return simple({box("body", 34, 16, -18, 18), box("posts", 34, 16, 0, 24)},
                      {round("p1", 8, -9.5, 0), round("p2", 8, 9.5, 0)}, 0.03, Face::Back);
    if (id == "meter")
        return simple({cylinder("body", 38, -32, 32), box("face", 46, 46, 0, 8)},
                      {round("body", 38.5), round("b1", 3.2, -17, -17), round("b2", 3.2, 17, 17)}, 0.08, Face::Front);
    if (id == "lamp-pilot")
        return simple({cylinder("body", 12, -26, 26), cylinder("lens", 14, 0, 7)}, {round("body", 12)}, 0.01,
                      Face::Front);
    if (id == "grommet") return simple({cylinder("rubber", 14, -4, 7)}, {round("hole", 9.5)}, 0.002);
    if (id == "strain-relief")
        return simple({cylinder("gland", 18, -14, 26)},
                      {Hole{{}, "gland", HoleShape::FlattedRound, 0, 0, 16 * mm, 14.3 * mm}}, 0.01, Face::Back);
    return simple({cylinder("bolt", 10, -10, 14)}, {round("bolt", 5)}, 0.01); // earth-bolt
}

} // namespace

double ironMass(double va) {
    return 0.033 * std::pow(va, 0.86);
}

double capacitorVolume(bool film, double farads, double volts) {
    const double joules = farads * volts * volts / 2;
    return 1e-6 * (1 + joules / (film ? 0.03 : 0.35));
}

const std::vector<BodyKind>& bodyKinds() {
    static const std::vector<BodyKind> all{
        {"transformer-upright", "Transformer, upright with end bells", "transformer", Size::VoltAmperes, 180},
        {"transformer-laydown", "Transformer, lay-down through a cut-out", "transformer", Size::VoltAmperes, 120},
        {"transformer-open", "Transformer, open frame", "transformer", Size::VoltAmperes, 60},
        {"transformer-potted", "Transformer, potted", "transformer", Size::VoltAmperes, 120},
        {"transformer-toroid", "Transformer, toroid", "transformer", Size::VoltAmperes, 180},
        {"choke-upright", "Choke, upright with end bells", "choke", Size::VoltAmperes, 25},
        {"choke-laydown", "Choke, lay-down through a cut-out", "choke", Size::VoltAmperes, 25},
        {"choke-open", "Choke, open frame", "choke", Size::VoltAmperes, 25},
        {"socket-octal-clip", "Octal socket, clip ring", "socket"},
        {"socket-octal-flange", "Octal socket, flange", "socket"},
        {"socket-noval-clip", "Noval socket, clip ring", "socket"},
        {"socket-noval-flange", "Noval socket, flange", "socket"},
        {"socket-miniature", "Miniature seven-pin socket", "socket"},
        {"can", "Electrolytic can, upright", "can", Size::Capacitor, 47e-6, 450},
        {"axial", "Electrolytic, axial, below", "can", Size::Capacitor, 47e-6, 450},
        {"film", "Film capacitor, below", "film", Size::Capacitor, 10e-6, 450},
        {"resistor-chassis", "Resistor, chassis mounted", "resistor"},
        {"board-turret", "Turret board with insulating sheet", "board"},
        {"strip-tag", "Tag strip", "board"},
        {"board-heater", "Heater supply board with heat sink", "supply-board"},
        {"potentiometer", "Potentiometer with knob", "potentiometer"},
        {"switch-toggle", "Toggle switch", "switch"},
        {"fuse-holder", "Fuse holder, panel", "fuse"},
        {"inlet", "Mains inlet, three pins", "inlet"},
        {"jack", "Input jack", "jack"},
        {"terminals-output", "Output terminals, a pair", "terminals"},
        {"meter", "Panel meter", "meter"},
        {"lamp-pilot", "Pilot lamp", "lamp"},
        {"grommet", "Grommet", "grommet"},
        {"strain-relief", "Strain relief", "relief"},
        {"earth-bolt", "Safety earth bolt", "earth"},
    };
    return all;
}

std::vector<const BodyKind*> searchBodies(std::string_view words) {
    const auto small = [](std::string_view s) {
        std::string out(s);
        std::transform(out.begin(), out.end(), out.begin(), [](unsigned char c) { return std::tolower(c); });
        return out;
    };
    std::vector<const BodyKind*> out;
    for (const BodyKind& k : bodyKinds()) {
        const std::string all = small(k.id + " " + k.label);
        std::istringstream in(small(words));
        std::string word;
        bool holds = true;
        while (in >> word) holds = holds && all.find(word) != std::string::npos;
        if (holds) out.push_back(&k);
    }
    return out;
}

Expected<PlacedPart> makePart(const std::string& id, double size, double volts) {
    const auto& all = bodyKinds();
    const auto kind = std::find_if(all.begin(), all.end(), [&](const BodyKind& k) { return k.id == id; });
    if (kind == all.end()) return Problem{id, fmt::format("the tray holds no body \"{}\"", id)};
    if (!(size > 0)) size = kind->typical;
    if (!(volts > 0)) volts = kind->volts;
    PlacedPart p;
    if (kind->size == Size::VoltAmperes) {
        if (size < 3 || size > 2000) return Problem{id, "iron of 3 to 2000 VA can be drawn"};
        p = iron(id, size);
    } else if (kind->size == Size::Capacitor) {
        const double volume = capacitorVolume(id == "film", size, volts);
        if (volume > 2e-3) return Problem{id, "this capacitor would be larger than two litres"};
        p = can(volume, id == "can", id == "can" ? 1.6 : 2.2);
    } else {
        p = fixedBody(id);
    }
    p.mass = std::round(p.mass * 1e3) / 1e3; // to the gram
    p.kind = kind->kind;
    p.body = id;
    return p;
}

} // namespace ember::chassis
