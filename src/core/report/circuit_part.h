#pragma once
// A channel's circuit as a page shows it, with the volts that are predicted.

#include "core/build/build.h"
#include "core/catalogue/catalogue.h"
#include "core/drawing/of_build.h"
#include "core/plan/figures.h"

#include <functional>
#include <map>

namespace ember::report {

/// What is nothing reads as "0 V".
std::string voltsText(double volts);

/// Volts of supply nodes and of the electrodes of every valve that `pointOf` knows, by net of the drawing.
using PointOf = std::function<const plan::ValvePoint*(const schematic::ValveUse&)>;
std::map<int, double> voltsByNet(const drawing::ChannelSubject& subject, const plan::Steady& steady,
                                 const PointOf& pointOf);

/// The drawing, the volts written where they stand. `steady`: the predicted ones; nullptr: none.
drawing::Drawing circuitDrawing(const Build& build, const Catalogue& catalogue, std::size_t channel,
                                const plan::Steady* steady);
/// The same as SVG on white.
std::string circuitSvg(const Build& build, const Catalogue& catalogue, std::size_t channel, const plan::Steady* steady);

} // namespace ember::report
