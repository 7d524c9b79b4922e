#pragma once
#include "demo.h"

#include "core/plan/discharge.h"
#include "core/plan/solve.h"
#include "core/rules/findings.h"
#include "core/wires/hum.h"

/// The findings of a build, with those slow figures that they ask for.
inline std::vector<ember::rules::Finding> inspected(const ember::Build& b, bool wired = false) {
    using namespace ember;
    const Catalogue& catalogue = Catalogue::shipped();
    plan::Figures f = plan::solveFigures(b, catalogue);
    if (f.cold)
        if (auto held = plan::dischargeOf(b, *f.cold)) f.discharge = *held;
    if (const auto rush = plan::inrushOf(b, catalogue, b.mains.high)) f.inrush = *rush;
    f.power.resize(b.channels.size()); // of the power only this one is asked for: the demo's, in volts
    for (plan::PowerFigures& p : f.power) p.clipInput = 0.165, p.clipOutput = 8.2;
    if (wired) wires::addWires(b, catalogue, f);
    return rules::inspect(b, catalogue, f);
}

/// The first whose id begins so, or nullptr.
inline const ember::rules::Finding* findingOf(const std::vector<ember::rules::Finding>& all, const std::string& start) {
    for (const auto& f : all)
        if (f.id.rfind(start, 0) == 0) return &f;
    return nullptr;
}
