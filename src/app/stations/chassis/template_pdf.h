#pragma once
// A face at 1:1 on paper, over as many sheets as it takes.

#include "core/base/result.h"
#include "core/chassis/template_svg.h"

#include <QString>

namespace ember::app {

/// A4 landscape, true to size, with a 100 mm bar and registration marks where sheets meet; returns the number of
/// sheets.
Expected<int> writeTemplatePdf(const Chassis& chassis, Face face, const QString& file);

} // namespace ember::app
