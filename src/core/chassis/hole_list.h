#pragma once
// Every hole of a face, where to centre-punch it, and with what to make it.

#include "assembly.h"

#include <string>

namespace ember::chassis {

struct ListedHole {
    std::string part; ///< id of the part, "given", or "pillar" of a tower
    HoleShape shape = HoleShape::Round;
    double x = 0, y = 0; ///< centre on the face, from its left and lower (front) edges [m]
    double width = 0, height = 0;
    double angle = 0;   ///< of its sides [degrees]
    std::string tool;   ///< "drill 3.2 mm (1/8 in)", "punch 28 mm", "saw out"
    bool given = false; ///< already in an old chassis
};

/// In drilling order: by size, smallest first, then from the front left.
std::vector<ListedHole> holesOf(const Chassis& chassis, Face face);

/// The drill or punch for a diameter [m]: metric drills to 13 mm in 0.1 mm (0.5 above 10 mm) and the nearest 1/64 inch;
/// above that the nearest of the usual chassis punches, not smaller.
std::string toolFor(double diameter);

/// Corners of a hole's outline with `segments` on each curve, closed, in the face's coordinates [m].
std::vector<std::pair<double, double>> outlineOf(const ListedHole& hole, int segments = 48);

/// The two edges that are measured from, seen from outside.
struct Datum {
    bool right = false; ///< else from the left
    bool far = false;   ///< from the back edge of the top, the upper of a wall; else from the front, the lower
};

/// The list as text in columns: part, shape, distances from the two datum edges, size in mm and inch, tool.
std::string holeTable(const Chassis& chassis, Face face, Datum datum = {});

/// A second board that lies on a face while both are drilled.
struct DrillingOverlay {
    struct Entry {
        ListedHole hole;
        bool through = true; ///< in both boards; otherwise in one alone, which `second` tells
        bool second = false;
    };
    double left = 0, near = 0, width = 0, height = 0; ///< of the second board on the face [m]
    std::vector<Entry> holes;                         ///< in the first board's drilling order
};
/// The board part `part` on its face: its own holes go through both, other holes under it through the face alone.
DrillingOverlay overlayOf(const Chassis& chassis, std::size_t part);
/// Two faces of one size, such as the tops of two layouts: holes at one place within 0.1 mm and of one size go through
/// both.
DrillingOverlay overlayOf(const Chassis& first, const Chassis& second, Face face);

} // namespace ember::chassis
