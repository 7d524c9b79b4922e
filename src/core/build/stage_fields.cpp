// Fields of the signal path: stages, their parts, bottles.
#include "fields.h"

#include <array>

namespace ember::fields {

namespace {
constexpr Range openable{1e-3, 1e12}, smallAmps{1e-6, 100}, spread{0, 0.9};
constexpr std::array<std::string_view, 9> partKinds{"resistor", "capacitor", "choke", "potentiometer", "transformer",
                                                    "source",   "diode",     "zener", "adjuster"};
static_assert(partKinds.size() == std::variant_size_v<PartValue>);

template <std::size_t... K>
void become(PartValue& part, std::size_t kind, std::index_sequence<K...>) {
    ((K == kind ? void(part.emplace<K>()) : void()), ...);
}

/// The kind, then what such a part holds, in the object it stands in.
void visitPart(Visitor& v, PartValue& part) {
    int kind = static_cast<int>(part.index());
    v.choiceOf("kind", kind, partKinds);
    constexpr auto all = std::make_index_sequence<partKinds.size()>();
    if (kind != static_cast<int>(part.index())) become(part, static_cast<std::size_t>(kind), all);
    if (v.describing())
        for (std::size_t k = 0; k < partKinds.size(); ++k) {
            PartValue any;
            become(any, k, all);
            std::visit([&](auto& p) { visit(v, p); }, any);
        }
    else
        std::visit([&](auto& p) { visit(v, p); }, part);
}
} // namespace

void visit(Visitor& v, ResistorPart& p) {
    v.text("id", p.id);
    v.number("resistance", p.resistance, Unit::Ohm, openable);
    v.number("watts", p.watts, Unit::Watt, watts);
    v.number("tolerance", p.tolerance, Unit::None, share);
}
void visit(Visitor& v, CapacitorPart& p) {
    v.text("id", p.id);
    v.number("capacitance", p.capacitance, Unit::Farad, farads);
    v.number("volts", p.volts, Unit::Volt, volts);
    v.number("tolerance", p.tolerance, Unit::None, share);
    v.number("esr", p.esr, Unit::Ohm, {0, 1e4});
    v.number("leakageResistance", p.leakageResistance, Unit::Ohm, {0, 1e12});
}
void visit(Visitor& v, ChokePart& p) {
    v.text("id", p.id);
    v.number("inductance", p.inductance, Unit::Henry, {1e-6, 1e4});
    v.number("resistance", p.resistance, Unit::Ohm, openable);
    v.number("amps", p.amps, Unit::Ampere, smallAmps);
    v.number("idleInductance", p.idleInductance, Unit::Henry, {0, 1e5});
    v.number("tolerance", p.tolerance, Unit::None, share);
}
void visit(Visitor& v, PotentiometerPart& p) {
    static constexpr std::array<std::string_view, 2> tapers{"linear", "audio"};
    v.text("id", p.id);
    v.number("resistance", p.resistance, Unit::Ohm, openable);
    v.choice("taper", p.taper, tapers);
    v.number("position", p.position, Unit::None, share);
    v.number("watts", p.watts, Unit::Watt, watts);
    v.number("tolerance", p.tolerance, Unit::None, share);
}
void visit(Visitor& v, SecondaryTap& t) {
    v.number("loadImpedance", t.loadImpedance, Unit::Ohm, {0.5, 1e6});
}
void visit(Visitor& v, OutputTransformer& t) {
    v.text("id", t.id);
    v.number("primaryImpedance", t.primaryImpedance, Unit::Ohm, {0.5, 1e6});
    v.number("loadImpedance", t.loadImpedance, Unit::Ohm, {0.5, 1e6});
    v.number("primaryInductance", t.primaryInductance, Unit::Henry, {1e-3, 1e4});
    v.number("primaryResistanceA", t.primaryResistanceA, Unit::Ohm, openable);
    v.number("primaryResistanceB", t.primaryResistanceB, Unit::Ohm, openable);
    v.number("secondaryResistance", t.secondaryResistance, Unit::Ohm, {1e-3, 1e6});
    v.number("leakageInductance", t.leakageInductance, Unit::Henry, {0, 10});
    v.number("halvesLeakage", t.halvesLeakage, Unit::Henry, {0, 10});
    v.number("windingCapacitance", t.windingCapacitance, Unit::Farad, {0, 1e-6});
    v.number("watts", t.watts, Unit::Watt, watts);
    v.number("lowestHertz", t.lowestHertz, Unit::Hertz, {0, 1000});
    v.number("dcAmps", t.dcAmps, Unit::Ampere, {0, 10});
    v.number("coreLoss", t.coreLoss, Unit::None, {0, 0.5});
    v.number("screenTap", t.screenTap, Unit::None, {0, 0.95});
    v.number("tapCopper", t.tapCopper, Unit::None, {0, 0.95});
    v.number("tapLeakage", t.tapLeakage, Unit::None, {0, 0.95});
    v.list("secondaryTaps", t.secondaryTaps, 6);
}
void visit(Visitor& v, CurrentSourcePart& p) {
    v.text("id", p.id);
    v.number("amps", p.amps, Unit::Ampere, smallAmps);
    v.number("knee", p.knee, Unit::Volt, {0.01, 50});
    v.number("volts", p.volts, Unit::Volt, volts);
    v.number("tolerance", p.tolerance, Unit::None, share);
}
void visit(Visitor& v, DiodePart& p) {
    v.text("id", p.id);
    v.number("drop", p.drop, Unit::Volt, {0.1, 10});
    v.integer("inSeries", p.inSeries, 1, 50);
    v.number("amps", p.amps, Unit::Ampere, smallAmps);
}
void visit(Visitor& v, ZenerPart& p) {
    v.text("id", p.id);
    v.number("volts", p.volts, Unit::Volt, volts);
    v.number("resistance", p.resistance, Unit::Ohm, openable);
    v.number("watts", p.watts, Unit::Watt, watts);
    v.number("tolerance", p.tolerance, Unit::None, share);
}
void visit(Visitor& v, AdjusterPart& p) {
    v.text("id", p.id);
    v.number("position", p.position, Unit::None, share);
}
void visit(Visitor& v, StagePart& p) {
    v.text("slot", p.slot);
    v.text("at", p.at);
    visitPart(v, p.part);
    v.text("note", p.note);
}
void visit(Visitor& v, StageValve& x) {
    v.text("at", x.at);
    v.text("bottle", x.bottle);
    v.integer("section", x.section, 1, 8);
}
void visit(Visitor& v, StageOption& o) {
    v.text("name", o.name);
    v.text("choice", o.choice);
}
void visit(Visitor& v, Stage& s) {
    v.text("id", s.id);
    v.text("kind", s.kind);
    v.integer("node", s.node, 1, 41);
    v.integer("screenNode", s.screenNode, 0, 41);
    v.text("from", s.from);
    v.text("to", s.to);
    v.list("valves", s.valves, 16);
    v.list("options", s.options, 16);
    v.list("parts", s.parts, 200);
    v.text("note", s.note);
}
void visit(Visitor& v, SheetPoint& p) {
    v.number("plate", p.plate, Unit::Volt, {0, 5000});
    v.number("screen", p.screen, Unit::Volt, {0, 5000});
    v.number("grid", p.grid, Unit::Volt, {-1000, 1000});
    v.number("plateAmps", p.plateAmps, Unit::Ampere, {0, 10});
    v.number("screenAmps", p.screenAmps, Unit::Ampere, {0, 10});
    v.number("gm", p.gm, Unit::None, {0, 10});
    v.number("mu", p.mu, Unit::None, {0, 10000});
    v.number("rp", p.rp, Unit::Ohm, {0, 1e9});
}
void visit(Visitor& v, OwnType& t) {
    static constexpr std::array<std::string_view, 2> kinds{"triode", "pentode"};
    v.text("id", t.id);
    v.choice("kind", t.kind, kinds);
    v.integer("sections", t.sections, 1, 2);
    v.text("pinsAs", t.pinsAs);
    v.number("heaterVolts", t.heaterVolts, Unit::Volt, {0.5, 120});
    v.number("heaterAmps", t.heaterAmps, Unit::Ampere, {0.01, 50});
    v.flag("directlyHeated", t.directlyHeated);
    v.number("plateWatts", t.plateWatts, Unit::Watt, {0, 2000});
    v.number("screenWatts", t.screenWatts, Unit::Watt, {0, 500});
    v.number("plateVolts", t.plateVolts, Unit::Volt, {0, 5000});
    v.number("screenVolts", t.screenVolts, Unit::Volt, {0, 5000});
    v.number("cathodeAmps", t.cathodeAmps, Unit::Ampere, {0, 10});
    v.number("heaterCathodeVolts", t.heaterCathodeVolts, Unit::Volt, {0, 1000});
    v.number("gridLeakOhms", t.gridLeakOhms, Unit::Ohm, {0, 1e9});
    v.choice("system", t.system, ratingSystemNames);
    for (auto [key, to] :
         {std::pair{"gridPlate", &t.gridPlate}, {"gridCathode", &t.gridCathode}, {"plateCathode", &t.plateCathode}})
        v.number(key, *to, Unit::Farad, {0, 1e-9});
    v.number("gridOnset", t.gridOnset, Unit::Volt, {-1.5, 0});
    v.text("source", t.source);
    v.list("points", t.points, mostSheetPoints);
}
void visit(Visitor& v, ReadPoint& p) {
    v.integer("section", p.section, 1, 4);
    v.number("plate", p.plate, Unit::Volt, {0, 5000});
    v.number("screen", p.screen, Unit::Volt, {0, 5000});
    v.number("grid", p.grid, Unit::Volt, {-1000, 1000});
    v.number("plateAmps", p.plateAmps, Unit::Ampere, {0, 10});
    v.number("screenAmps", p.screenAmps, Unit::Ampere, {0, 10});
}
void visit(Visitor& v, Valve& x) {
    v.text("id", x.id);
    v.text("type", x.type);
    v.number("emission", x.emission, Unit::None, {0, 1.5});
    v.number("tolerance", x.tolerance, Unit::None, share);
    v.number("mu", x.mu, Unit::None, {0.2, 3});
    v.number("cutoff", x.cutoff, Unit::None, {0.2, 3});
    v.number("screen", x.screen, Unit::None, {0.1, 5});
    v.number("muTolerance", x.muTolerance, Unit::None, spread);
    v.number("cutoffTolerance", x.cutoffTolerance, Unit::None, spread);
    v.number("screenTolerance", x.screenTolerance, Unit::None, spread);
    v.number("gas", x.gas, Unit::None, {0, 1e-2});
    v.number("gasTolerance", x.gasTolerance, Unit::None, {0, 1e-3});
    v.text("heater", x.heater);
    v.text("heaterString", x.heaterString);
    v.list("readings", x.readings, 200);
    v.text("note", x.note);
}
void visit(Visitor& v, Channel& c) {
    v.text("id", c.id);
    v.text("name", c.name);
    v.text("follows", c.follows);
    v.list("stages", c.stages, 100);
}
void visit(Visitor& v, LoosePart& p) {
    v.text("from", p.from);
    v.text("to", p.to);
    visitPart(v, p.part);
    v.text("note", p.note);
}

} // namespace ember::fields
