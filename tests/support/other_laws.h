#pragma once
// Valves that are healthy and obey laws of other parameters than the catalogue's: what ranges must hold that were drawn
// from the catalogue's own.
#include "core/catalogue/catalogue.h"

namespace ember::tests {

/// The same valves by laws of other parameters: another exponent, the current the same at an ordinary point.
inline Catalogue otherLaws(double exponent) {
    Catalogue c = Catalogue::shipped();
    for (ValveType& type : c.valves)
        for (TypeSection& t : type.halves) {
            const double plate = t.pentode ? 270 : 150, screen = t.pentode ? 270 : 0, grid = t.pentode ? -10.5 : -1.5;
            const double before = figuresAt(t.law, plate, grid, screen).plateAmps;
            const auto change = [&](auto& law) {
                law.exponent *= exponent;
                law.kg *= figuresAt(t.law, plate, grid, screen).plateAmps / before;
            };
            if (auto* triode = std::get_if<circuit::TriodeLaw>(&t.law)) change(*triode);
            if (auto* pentode = std::get_if<circuit::PentodeLaw>(&t.law)) change(*pentode);
        }
    return c;
}

} // namespace ember::tests
