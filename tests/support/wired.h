#pragma once
#include "demo.h"

#include "core/plan/short_circuit.h"
#include "core/plan/solve.h"
#include "core/rules/findings.h"
#include "core/wires/hum.h"

/// The demo wired as proposed, without the mistake that it is shipped with; its figures; wires and findings of a build
/// that differs from it in nothing that the supply or the channels are computed from.
inline ember::Build unwired() {
    ember::Build b = demoBuild();
    b.wiring.wires.clear();
    return b;
}
inline const ember::plan::Figures& unwiredFigures() {
    static const ember::plan::Figures f = [] {
        const ember::Build b = unwired();
        ember::plan::Figures all = ember::plan::solveFigures(b, ember::Catalogue::shipped());
        if (const auto fault =
                ember::plan::shortedRail(b, ember::Catalogue::shipped(), b.mains.volts, ember::plan::shortOhms))
            all.shorted = *fault;
        return all;
    }();
    return f;
}
inline ember::wires::WireFigures wired(const ember::Build& b) {
    return ember::wires::wireFigures(b, ember::Catalogue::shipped(), unwiredFigures());
}
inline std::vector<ember::rules::Finding> wireFindings(const ember::Build& b) {
    ember::plan::Figures f = unwiredFigures();
    f.wires = std::make_shared<const ember::wires::WireFigures>(wired(b));
    std::vector<ember::rules::Finding> out;
    ember::rules::wireRules(b, ember::Catalogue::shipped(), f, out);
    ember::rules::wirePathRules(b, ember::Catalogue::shipped(), f, out);
    return out;
}
