#pragma once
// Holes of an existing chassis, read from a drawing.

#include "core/base/result.h"
#include "core/build/chassis.h"

#include <filesystem>
#include <vector>

namespace ember::chassis {

/// What a DXF of one face holds: circles become round holes, closed polylines rectangles around them; the largest
/// closed outline is taken as the face itself and sets the origin. Millimetres unless the drawing says inches. A broken
/// file is a Problem that names the line.
struct Drawing {
    double width = 0, height = 0; ///< of the outline; 0 when there is none [m]
    std::vector<Hole> holes;
};
Expected<Drawing> readDxf(const std::filesystem::path& file);

} // namespace ember::chassis
