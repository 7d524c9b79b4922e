#pragma once
// A channel's circuit as a page shows it, with the volts that are predicted.

#include "core/build/build.h"
#include "core/catalogue/catalogue.h"
#include "core/drawing/drawing.h"
#include "core/plan/figures.h"

namespace ember::report {

/// The drawing, the volts written where they stand. `steady`: the predicted ones; nullptr: none.
drawing::Drawing circuitDrawing(const Build& build, const Catalogue& catalogue, std::size_t channel,
                                const plan::Steady* steady);
/// The same as SVG on white.
std::string circuitSvg(const Build& build, const Catalogue& catalogue, std::size_t channel, const plan::Steady* steady);

} // namespace ember::report
