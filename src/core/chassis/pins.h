#pragma once
// Which way a socket's pins look, and which way they should: heater pins to the edge where the pair runs, the grid to
// what drives it.

#include "assembly.h"

#include "core/build/edit.h"
#include "core/catalogue/catalogue.h"

#include <array>
#include <optional>

namespace ember::chassis {

/// Pins of a socket's base and the angle from one to the next; 0 for none.
struct Base {
    int pins = 0;
    double step = 45; ///< [degrees]
};
Base baseOf(const PlacedPart& part);

/// Direction of a pin from the middle [degrees], counter-clockwise from x seen from above. Numbers run clockwise seen
/// from below; at pinOne = 0 the first pin looks to the part's front.
double pinDirection(const PlacedPart& part, int pin);

/// How well a socket is turned.
struct PinView {
    std::size_t part = 0;
    double heaterOff = 0; ///< between the heater pins and the way to the nearest edge [degrees, 0 .. 180]
    double gridOff = 0;   ///< between the first grid's pin and the way to its driver [degrees]
    std::string driver;   ///< that part's tag
    double pinOne = 0;    ///< the best, in steps of 15 degrees
    double bestHeaterOff = 0, bestGridOff = 0;
};
/// Of the sockets on the top whose valve's pins and whose driver are known.
std::vector<PinView> pinViews(const Build& build, const Catalogue& catalogue);
/// Turns every one of them to its best, locked ones excepted.
std::vector<Edit> socketTurns(const Build& build, const Catalogue& catalogue);

} // namespace ember::chassis
