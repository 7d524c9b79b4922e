#include "fields.h"

namespace ember::fields {

namespace {

constexpr Range placeRange{-3, 3};

} // namespace

void visit(Visitor& v, Corner& c) {
    v.number("x", c.x, Unit::Metre, placeRange);
    v.number("y", c.y, Unit::Metre, placeRange);
    v.number("z", c.z, Unit::Metre, placeRange);
}
void visit(Visitor& v, Wire& w) {
    v.text("id", w.id);
    v.text("from", w.from);
    v.text("to", w.to);
    v.number("area", w.area, Unit::None, {0, 5e-5});
    v.number("insulationVolts", w.insulationVolts, Unit::Volt, {0, 20000});
    v.number("pitch", w.pitch, Unit::Metre, {0, 0.5});
    v.text("colour", w.colour);
    v.flag("straight", w.straight);
    v.flag("removed", w.removed);
    v.choice("fromJoint", w.fromJoint, jointNames);
    v.choice("toJoint", w.toJoint, jointNames);
    v.list("by", w.by, 64);
    v.text("note", w.note);
}
void visit(Visitor& v, BoardPart& p) {
    v.text("part", p.part);
    v.integer("from", p.from, 0, 400);
    v.integer("to", p.to, 0, 400);
    v.flag("below", p.below);
}
void visit(Visitor& v, BeneathLug& l) {
    v.integer("lug", l.lug, 1, 400);
}
void visit(Visitor& v, Junction& j) {
    v.integer("lug", j.lug, 1, 400);
    v.text("net", j.net);
}
void visit(Visitor& v, Board& b) {
    v.text("on", b.on);
    v.integer("columns", b.columns, 1, 100);
    v.integer("rows", b.rows, 1, 2);
    v.number("pitch", b.pitch, Unit::Metre, {0.002, 0.1});
    v.list("parts", b.parts, 800);
    v.list("beneath", b.beneath, 400);
    v.list("junctions", b.junctions, 400);
}
void visit(Visitor& v, Wiring& w) {
    v.choice("grounds", w.grounds, groundSchemeNames);
    v.choice("bond", w.bond, bondNames);
    v.flag("insulatedJacks", w.insulatedJacks);
    v.choice("colours", w.colours, mainsColourNames);
    v.flag("sourceEarthed", w.sourceEarthed);
    v.number("earthVolts", w.earthVolts, Unit::Volt, {0, 50});
    v.number("screenOhms", w.screenOhms, Unit::Ohm, {1e-4, 1000});
    v.list("wires", w.wires, 2000);
    v.list("boards", w.boards, 64);
}

} // namespace ember::fields
