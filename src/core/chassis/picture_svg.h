#pragma once
// The layout as a picture for the record.

#include "core/build/chassis.h"

namespace ember::chassis {

/// SVG of the top: what stands above drawn full, what hangs below dashed, each with its name; walls' parts beside their
/// edge. A tower's lower chassis beneath it. `width`: of the picture [mm of paper].
std::string pictureSvg(const Chassis& chassis, double width = 180);

} // namespace ember::chassis
