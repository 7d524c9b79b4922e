#pragma once
// A face at 1:1, for printing, cutting and the record.

#include "hole_list.h"

#include "core/base/result.h"

#include <filesystem>

namespace ember::chassis {

struct TemplateOptions {
    bool mirrored = false; ///< as seen from inside
    bool labels = true;
};

/// SVG in millimetres at true size: groups `cut`, `drill` and `engrave`, every outline closed, a 100 mm bar below.
std::string templateSvg(const Chassis& chassis, Face face, const TemplateOptions& options = {});

/// Two boards drilled together, as SVG in millimetres: what goes through both is drawn full with a cross, what is in
/// the face alone is dashed, in the second board alone dotted; the second board's outline is the group `second`.
std::string overlaySvg(const Chassis& chassis, Face face, const DrillingOverlay& overlay);

/// DXF (R12, millimetres) with layers `cut` (outline, rectangles, slots), `drill` (round holes as circles) and
/// `engrave` (part names, centres), written through dxflib.
Expected<Done> writeTemplateDxf(const Chassis& chassis, Face face, const std::filesystem::path& file);

} // namespace ember::chassis
