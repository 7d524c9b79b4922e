#pragma once
// The demo with its small valves on a heater winding of their own, with alternating or with direct current.

#include "wired.h"

#include "core/plan/steady.h"

#include <stdexcept>

inline ember::plan::Steady steadyOf(const ember::Build& b, double mains) {
    ember::plan::Conditions c;
    c.mainsVolts = mains;
    ember::plan::SteadyOptions o;
    o.cycle = true;
    auto s = ember::plan::solveSteady(b, ember::Catalogue::shipped(), c, o);
    if (!s) throw std::runtime_error(s.problem().sentence);
    return *s;
}

/// The demo with the small valves on a winding of their own.
inline ember::Build ownWinding(double volts, double amps = 3) {
    ember::Build b = unwired();
    ember::HeaterWinding w;
    w.id = "h3", w.volts = volts, w.resistance = 0.1, w.amps = amps, w.feeds = "signal";
    w.reference = ember::HeaterReference::OneSide;
    b.transformer.heaters.push_back(w);
    for (ember::Valve& v : b.bottles)
        if (v.id == "v2" || v.id == "v5") v.heater = "h3";
    return b;
}
inline ember::HeaterWinding& third(ember::Build& b) {
    return b.transformer.heaters.back();
}
inline ember::Build regulated(ember::HeaterRegulator kind, double volts = 8.5) {
    ember::Build b = ownWinding(volts);
    ember::HeaterWinding& w = third(b);
    w.rectifier = ember::HeaterRectifier::Bridge;
    w.dc.regulator = kind;
    w.dc.dropout = kind == ember::HeaterRegulator::LowDropout ? 0.5 : 2;
    return b;
}
inline const ember::plan::HeaterFigures& small(const ember::plan::Steady& s) {
    for (const ember::plan::HeaterFigures& h : s.heaters)
        if (h.winding == "h3") return h;
    throw std::runtime_error("h3");
}
