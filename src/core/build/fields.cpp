#include "fields.h"

#include <array>

namespace ember::fields {

namespace {
constexpr Range amps{1e-4, 100};
constexpr Range crests{1.25, std::numbers::sqrt2}; // below, the crest of such a wave would dip in its middle
} // namespace

void visit(Visitor& v, Mains& m) {
    v.number("volts", m.volts, Unit::Volt, {80, 300});
    v.number("frequency", m.frequency, Unit::Hertz, {40, 70});
    v.number("low", m.low, Unit::Volt, {60, 300});
    v.number("high", m.high, Unit::Volt, {80, 330});
    v.number("crest", m.crest, Unit::None, crests);
    v.number("flattest", m.flattest, Unit::None, crests);
    v.number("loopOhms", m.loopOhms, Unit::Ohm, {0, 1000});
}
void visit(Visitor& v, Meter& m) {
    v.number("dc", m.dc, Unit::None, {0, 0.2});
    v.number("ac", m.ac, Unit::None, {0, 0.2});
    v.number("ohms", m.ohms, Unit::None, {0, 0.2});
    v.number("inputResistance", m.inputResistance, Unit::Ohm, {1e4, 1e12});
}
void visit(Visitor& v, Fuse& f) {
    v.text("id", f.id);
    v.number("amps", f.amps, Unit::Ampere, {0.01, 32});
    v.flag("slow", f.slow);
    static constexpr std::array<std::string_view, 3> breakings{"low", "enhanced", "high"};
    v.choice("breaking", f.breaking, breakings);
    v.number("volts", f.volts, Unit::Volt, {32, 1000});
}
void visit(Visitor& v, Limiter& l) {
    v.number("watts", l.watts, Unit::Watt, {5, 1000});
    v.number("volts", l.volts, Unit::Volt, {80, 300});
}
void visit(Visitor& v, PowerTransformer& t) {
    v.text("id", t.id);
    v.number("primaryVolts", t.primaryVolts, Unit::Volt, {80, 300});
    v.number("primaryResistance", t.primaryResistance, Unit::Ohm, {0, 1000});
    static constexpr std::array<std::string_view, 5> classes{"A", "E", "B", "F", "H"};
    v.number("ratedHertz", t.ratedHertz, Unit::Hertz, {16, 500});
    v.choice("insulation", t.insulation, classes);
    static constexpr std::array<std::string_view, 2> sheets{"common", "grain-oriented"};
    v.choice("sheet", t.sheet, sheets);
    v.number("magnetisingInductance", t.magnetisingInductance, Unit::Henry, {0.1, 1000});
    v.number("plateVolts", t.plateVolts, Unit::Volt, {5, 2000});
    v.number("plateResistance", t.plateResistance, Unit::Ohm, {0, 1e4});
    v.number("plateAmps", t.plateAmps, Unit::Ampere, {1e-3, 10});
    v.number("voltsTolerance", t.voltsTolerance, Unit::None, {0, 0.5});
    v.number("resistanceTolerance", t.resistanceTolerance, Unit::None, share);
    v.number("biasVolts", t.biasVolts, Unit::Volt, {0, 500});
    v.number("biasResistance", t.biasResistance, Unit::Ohm, {0.01, 1e4});
    v.list("heaters", t.heaters, 16);
}
void visit(Visitor& v, Section& s) {
    static constexpr std::array<std::string_view, 7> kinds{"capacitor", "resistor", "choke", "switch",
                                                           "fuse",      "meter",    "tap"};
    v.text("id", s.id);
    v.choice("kind", s.kind, kinds);
    const bool all = v.describing();
    const bool capacitor = all || s.kind == SectionKind::Capacitor, tap = all || s.kind == SectionKind::Tap;
    if (capacitor) v.number("capacitance", s.capacitance, Unit::Farad, {1e-9, 0.1});
    if (capacitor || tap) v.number("volts", s.volts, Unit::Volt, volts);
    if (capacitor) {
        v.number("esr", s.esr, Unit::Ohm, {0, 1e3});
        v.number("leakageResistance", s.leakageResistance, Unit::Ohm, {0, 1e12});
        v.number("rippleAmps", s.rippleAmps, Unit::Ampere, {0, 100});
    }
    if (tap) v.text("type", s.type);
    if (capacitor || tap) v.integer("inSeries", s.inSeries, 1, 8);
    if (capacitor) v.number("balancing", s.balancing, Unit::Ohm, {0, 1e9});
    if (all || s.kind != SectionKind::Capacitor) v.number("resistance", s.resistance, Unit::Ohm, {0, 1e7});
    if (all || s.kind == SectionKind::Resistor) v.number("watts", s.watts, Unit::Watt, watts);
    if (all || s.kind == SectionKind::Choke) v.number("inductance", s.inductance, Unit::Henry, {0, 1e4});
    if (all || s.kind == SectionKind::Choke) v.number("idleInductance", s.idleInductance, Unit::Henry, {0, 1e5});
    if (tap || s.kind == SectionKind::Choke || s.kind == SectionKind::Fuse || s.kind == SectionKind::Meter)
        v.number("amps", s.amps, Unit::Ampere, amps);
    if (all || s.kind == SectionKind::Switch) v.number("closes", s.closes, Unit::Second, {0, 600});
    if (all || s.kind == SectionKind::Switch || s.kind == SectionKind::Fuse)
        v.number("dcVolts", s.dcVolts, Unit::Volt, volts);
    v.number("tolerance", s.tolerance, Unit::None, share);
}
void visit(Visitor& v, Bleeder& b) {
    v.integer("node", b.node, 1, 41);
    v.object("resistor", b.resistor);
    v.integer("inSeries", b.inSeries, 1, 8);
}
void visit(Visitor& v, Rectifier& r) {
    v.text("id", r.id);
    v.text("type", r.type);
    v.number("emission", r.emission, Unit::None, {0, 1.5});
    v.integer("inSeries", r.inSeries, 1, 20);
    v.number("legResistance", r.legResistance, Unit::Ohm, {0, 1e5});
    v.number("legWatts", r.legWatts, Unit::Watt, watts);
}
void visit(Visitor& v, SupplyLoad& l) {
    v.text("id", l.id);
    v.integer("node", l.node, 1, 41);
    v.number("amps", l.amps, Unit::Ampere, {0, 10});
    v.number("resistance", l.resistance, Unit::Ohm, {0, 1e9});
}
void visit(Visitor& v, MainsSwitch& m) {
    static constexpr std::array<std::string_view, 3> breaks{"both", "live", "neutral"};
    v.text("id", m.id);
    v.choice("breaks", m.breaks, breaks);
    v.flag("fuseFirst", m.fuseFirst);
}
void visit(Visitor& v, Thermistor& t) {
    v.text("id", t.id);
    v.number("cold", t.cold, Unit::Ohm, {0, 1e4});
    v.number("hot", t.hot, Unit::Ohm, {0, 1e3});
}
void visit(Visitor& v, Supply& s) {
    static constexpr std::array<std::string_view, 5> connections{"centre-tapped", "bridge", "half-wave",
                                                                 "hybrid-bridge", "doubler"};
    v.choice("connection", s.connection, connections);
    v.object("rectifier", s.rectifier);
    v.list("sections", s.sections, 40);
    v.list("bleeders", s.bleeders, 16);
    v.list("loads", s.loads, 16);
}
void visit(Visitor& v, BiasSupply& b) {
    static constexpr std::array<std::string_view, 3> sources{"winding", "plate-resistor", "plate-capacitor"};
    v.choice("from", b.from, sources);
    const bool all = v.describing();
    if (all || b.from != BiasSource::Winding) v.number("feed", b.feed, Unit::Ohm, {1, 1e8});
    if (all || b.from != BiasSource::Winding) v.number("feedWatts", b.feedWatts, Unit::Watt, watts);
    if (all || b.from == BiasSource::PlateCapacitor) {
        v.number("feedCapacitance", b.feedCapacitance, Unit::Farad, farads);
        v.number("feedVolts", b.feedVolts, Unit::Volt, volts);
    }
    v.text("diode", b.diode);
    v.object("reservoir", b.reservoir);
    v.object("series", b.series);
    v.object("second", b.second);
    v.number("adjuster", b.adjuster, Unit::Ohm, {10, 1e7});
    v.number("floor", b.floor, Unit::Ohm, {10, 1e7});
    v.number("failSafe", b.failSafe, Unit::Ohm, {0, 1e8});
}
void visit(Visitor& v, Price& p) {
    v.text("of", p.of);
    v.number("each", p.each, Unit::None, {0, 1e6});
}
void visit(Visitor& v, Waiver& w) {
    v.text("finding", w.finding);
    v.text("reason", w.reason);
    v.text("time", w.time);
}
void visit(Visitor& v, LogEntry& e) {
    v.text("time", e.time);
    v.text("kind", e.kind);
    v.text("text", e.text);
    const bool all = v.describing(), changed = e.kind == "change" || e.kind == "exchange";
    if (all || changed || e.kind == "reading") v.text("point", e.point);
    if (all || e.kind == "change") v.text("was", e.was);
    if (all || e.kind == "power") v.text("source", e.source);
    if (all || e.kind == "reading") {
        v.optional("value", e.value, Unit::None, {-1e12, 1e12});
        v.optional("low", e.low, Unit::None, {-1e12, 1e12});
        v.optional("high", e.high, Unit::None, {-1e12, 1e12});
        v.text("unit", e.unit);
        v.text("source", e.source);
        v.text("verdict", e.verdict);
    }
    if (all || e.kind != "note") v.integer("stage", e.stage, -1, 20);
    if (all || e.kind == "stage") {
        static constexpr std::array<std::string_view, 3> events{"passed", "ended", "begun"};
        v.choice("event", e.event, events);
        v.text("source", e.source);
    }
    if (all || e.kind == "measure") {
        v.text("source", e.source);
        v.text("file", e.file);
        v.text("hash", e.hash);
    }
    v.flag("struck", e.struck);
    if (all || e.struck) v.text("struckWhy", e.struckWhy);
}
void visit(Visitor& v, Build& b) {
    v.text("name", b.name);
    v.text("notes", b.notes);
    v.object("mains", b.mains);
    v.object("meter", b.meter);
    v.object("fuse", b.fuse);
    v.object("mainsSwitch", b.mainsSwitch);
    v.object("thermistor", b.thermistor);
    v.object("limiter", b.limiter);
    v.object("transformer", b.transformer);
    v.object("supply", b.supply);
    v.object("bias", b.bias);
    v.list("types", b.types, mostOwnTypes);
    v.list("bottles", b.bottles, 400);
    v.list("spares", b.spares, 400);
    v.list("channels", b.channels, 8);
    v.list("loose", b.loose, 400);
    v.object("chassis", b.chassis);
    v.object("wiring", b.wiring);
    v.list("prices", b.prices, 1000);
    v.list("waivers", b.waivers, 500);
    v.list("log", b.log, mostLogEntries);
}

} // namespace ember::fields
