#include "fields.h"

#include <array>

namespace ember::fields {

namespace {

constexpr Range along{-3, 3}, size{1e-4, 3}, turn{-360, 360}, sunk{0, 0.2};
using Names = std::string_view;

} // namespace

void visit(Visitor& v, Body& b) {
    static constexpr std::array<Names, 2> shapes{"box", "cylinder"};
    v.text("id", b.id);
    v.choice("shape", b.shape, shapes);
    v.number("x", b.x, Unit::Metre, along);
    v.number("y", b.y, Unit::Metre, along);
    v.number("width", b.width, Unit::Metre, size);
    if (v.describing() || b.shape == BodyShape::Box) v.number("depth", b.depth, Unit::Metre, size);
    v.number("bottom", b.bottom, Unit::Metre, along);
    v.number("height", b.height, Unit::Metre, size);
}
void visit(Visitor& v, Hole& h) {
    static constexpr std::array<Names, 4> shapes{"round", "rectangle", "slot", "flatted"};
    v.text("id", h.id);
    v.choice("shape", h.shape, shapes);
    v.number("x", h.x, Unit::Metre, along);
    v.number("y", h.y, Unit::Metre, along);
    v.number("width", h.width, Unit::Metre, size);
    if (v.describing() || h.shape != HoleShape::Round) v.number("height", h.height, Unit::Metre, size);
}
void visit(Visitor& v, PlacedPart& p) {
    static constexpr std::array<Names, 4> axes{"none", "width", "depth", "upright"};
    v.text("id", p.id);
    v.text("of", p.of);
    v.text("kind", p.kind);
    v.text("body", p.body);
    v.choice("face", p.face, faceNames);
    v.number("x", p.x, Unit::Metre, along);
    v.number("y", p.y, Unit::Metre, along);
    v.number("angle", p.angle, Unit::None, turn);
    v.number("recess", p.recess, Unit::Metre, sunk);
    v.flag("locked", p.locked);
    v.number("mass", p.mass, Unit::None, {0, 100});
    v.number("heat", p.heat, Unit::Watt, {0, 1000});
    v.number("voltAmperes", p.voltAmperes, Unit::None, {0, 5000});
    v.number("stray", p.stray, Unit::None, {0, 2});
    v.number("drawLength", p.drawLength, Unit::Metre, {0, 0.5});
    v.choice("core", p.core, axes);
    v.number("pinOne", p.pinOne, Unit::None, turn);
    v.flag("liveAbove", p.liveAbove);
    v.list("bodies", p.bodies, 32);
    v.list("holes", p.holes, 64);
}
void visit(Visitor& v, Standing& p) {
    v.text("part", p.part);
    v.choice("face", p.face, faceNames);
    v.number("x", p.x, Unit::Metre, along);
    v.number("y", p.y, Unit::Metre, along);
    v.number("angle", p.angle, Unit::None, turn);
    v.number("recess", p.recess, Unit::Metre, sunk);
}
void visit(Visitor& v, KeptLayout& k) {
    v.text("id", k.id);
    v.text("name", k.name);
    v.list("places", k.places, 500);
}
void visit(Visitor& v, Chassis& c) {
    static constexpr std::array<Names, 3> metals{"aluminium", "steel", "copper"};
    static constexpr std::array<Names, 3> ironFinishes{"black", "bare", "as-plate"};
    static constexpr std::array<Names, 2> trims{"plain", "rings"};
    static constexpr std::array<Names, 2> covers{"none", "cage"};
    v.choice("form", c.form, chassisFormNames);
    v.choice("metal", c.metal, metals);
    v.number("width", c.width, Unit::Metre, {0.05, 1.5});
    v.number("depth", c.depth, Unit::Metre, {0.05, 1.5});
    v.number("height", c.height, Unit::Metre, {0.01, 0.5});
    v.number("thickness", c.thickness, Unit::Metre, {3e-4, 0.05});
    v.number("storey", c.storey, Unit::Metre, {0, 1});
    v.number("lid", c.lid, Unit::Metre, {0, 1});
    v.number("bendRadius", c.bendRadius, Unit::Metre, {0, 0.03});
    v.number("ambient", c.ambient, Unit::Kelvin, {250, 340});
    v.choice("plateFinish", c.plateFinish, plateFinishNames);
    v.choice("wallFinish", c.wallFinish, wallFinishNames);
    v.choice("ironFinish", c.ironFinish, ironFinishes);
    v.choice("socketTrim", c.socketTrim, trims);
    v.choice("cover", c.cover, covers);
    v.list("given", c.given, 500);
    v.list("parts", c.parts, 500);
    v.list("kept", c.kept, 12);
}

} // namespace ember::fields
