#pragma once
// A layout from above, as small as a row of a table or as large as a comparison.

#include "core/chassis/layout_figures.h"

#include <QPixmap>

#include <vector>

namespace ember::app {

inline constexpr QSize pictureSize{108, 72};
/// The top as `build` has it, a tower's lower plate beside it, [pixels] `size`; `over`: another layout of the same
/// parts as outlines on it.
QPixmap pictureOf(const Build& build, const chassis::LayoutFigures& figures, const QSize& size = pictureSize,
                  const std::vector<Standing>& over = {});

} // namespace ember::app
