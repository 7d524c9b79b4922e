#pragma once
#include "core/plan/steady.h"

#include <QtGlobal>

/// The supply and stages under these conditions; a test that cannot have it ends.
inline ember::plan::Steady solved(const ember::Build& b, const ember::plan::Conditions& c) {
    const auto s = ember::plan::solveSteady(b, ember::Catalogue::shipped(), c);
    if (!s) qFatal("%s", s.problem().text().c_str());
    return *s;
}
/// With everything in, at these mains, or at the build's own.
inline ember::plan::Steady solvedAt(const ember::Build& b, double mains) {
    ember::plan::Conditions c;
    c.mainsVolts = mains;
    return solved(b, c);
}
inline ember::plan::Steady solved(const ember::Build& b) {
    return solvedAt(b, b.mains.volts);
}
