#pragma once
// What widgets keep of a theme in their own texts, taken over into another.

#include "theme.h"

class QWidget;

namespace ember::theme {

/// In every label, style sheet and table cell under `root`: colours of `before` become the same roles' colours of the
/// present mode.
void recolour(QWidget& root, Mode before);

} // namespace ember::theme
