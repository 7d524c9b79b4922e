#pragma once
// The tray: generic bodies with typical sizes. Every one is a start; the builder measures the real part.

#include "core/base/result.h"
#include "core/build/chassis.h"

#include <string>
#include <string_view>
#include <vector>

namespace ember::chassis {

/// One thing in the tray. Some take a size: volt-amperes, or farads and volts.
struct BodyKind {
    std::string id;    ///< "transformer-upright"
    std::string label; ///< "Transformer, upright with end bells"
    std::string kind;  ///< of the part it makes
    enum class Size { None, VoltAmperes, Capacitor } size = Size::None;
    double typical = 0; ///< volt-amperes or farads
    double volts = 0;   ///< of a capacitor
};
const std::vector<BodyKind>& bodyKinds();
/// Those whose label or id holds every word.
std::vector<const BodyKind*> searchBodies(std::string_view words);

/// A part of that body, at the middle of nowhere. `size` 0 takes the typical one; a Problem names what is not known.
Expected<PlacedPart> makePart(const std::string& bodyId, double size = 0, double volts = 0);

/// Laminated iron of `va`: mass [kg] = 0.033 VA^0.86 (30 VA 0.6 kg, 180 VA 2.9 kg: typical of catalogues), and the edge
/// of the cube of its volume at 5000 kg/m3 over all, which sets the sides of every mounting.
double ironMass(double va);
/// Volume of a capacitor [m3] from the energy C V^2 / 2 it stores: electrolytic 0.35 J/cm3, film 0.03 J/cm3, and 1 cm3
/// of case.
double capacitorVolume(bool film, double farads, double volts);

} // namespace ember::chassis
