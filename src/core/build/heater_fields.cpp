#include "fields.h"

namespace ember::fields {

namespace {

constexpr Range leadOhms{0, 1e6}, leadWatts{0.05, 1000}, kelvinPerWatt{0.05, 500};

} // namespace

void visit(Visitor& v, HeaterLift& l) {
    v.number("top", l.top, Unit::Ohm, {100, 1e8});
    v.number("bottom", l.bottom, Unit::Ohm, {100, 1e8});
    v.number("capacitance", l.capacitance, Unit::Farad, {0, 0.1});
}
void visit(Visitor& v, HeaterDc& d) {
    v.text("diode", d.diode);
    v.number("reservoir", d.reservoir, Unit::Farad, {1e-6, 1});
    v.number("reservoirEsr", d.reservoirEsr, Unit::Ohm, {0, 100});
    v.number("capacitorVolts", d.capacitorVolts, Unit::Volt, {2, 1000});
    v.number("series", d.series, Unit::Ohm, {0, 1000});
    v.number("second", d.second, Unit::Farad, {0, 1});
    v.choice("regulator", d.regulator, heaterRegulatorNames);
    v.number("volts", d.volts, Unit::Volt, {0.5, 60});
    v.number("amps", d.amps, Unit::Ampere, {0.01, 20});
    v.number("dropout", d.dropout, Unit::Volt, {0.05, 10});
    v.number("mostAmps", d.mostAmps, Unit::Ampere, {0.05, 50});
    v.choice("mount", d.mount, regulatorMountNames);
    v.number("sink", d.sink, Unit::None, kelvinPerWatt);
    v.number("junctionCase", d.junctionCase, Unit::None, kelvinPerWatt);
    v.number("caseSink", d.caseSink, Unit::None, {0, 50});
    v.number("junctionAir", d.junctionAir, Unit::None, kelvinPerWatt);
    v.number("mostKelvin", d.mostKelvin, Unit::None, {300, 500});
}
void visit(Visitor& v, HeaterWinding& h) {
    v.text("id", h.id);
    v.number("volts", h.volts, Unit::Volt, {0.5, 100});
    v.number("resistance", h.resistance, Unit::Ohm, {1e-3, 100});
    v.number("amps", h.amps, Unit::Ampere, {0.05, 50});
    v.text("feeds", h.feeds);
    const bool all = v.describing(), heats = all || h.feeds == "signal";
    if (all || (!heats && h.feeds != "rectifier")) v.flag("opposed", h.opposed);
    v.choice("reference", h.reference, heaterReferenceNames);
    if (all || h.reference == HeaterReference::Resistors || h.reference == HeaterReference::Potentiometer)
        v.number("referenceOhms", h.referenceOhms, Unit::Ohm, {1, 1e6});
    v.number("referenceVolts", h.referenceVolts, Unit::Volt, {-200, 300});
    if (!heats) return;
    v.integer("referenceNode", h.referenceNode, 0, 41);
    if (all || h.referenceNode > 0) v.object("lift", h.lift);
    v.number("legResistance", h.legResistance, Unit::Ohm, leadOhms);
    v.number("legWatts", h.legWatts, Unit::Watt, leadWatts);
    v.choice("rectifier", h.rectifier, heaterRectifierNames);
    if (all || h.rectified()) v.object("dc", h.dc);
}

} // namespace ember::fields
