#pragma once
// Greys for print; black is the ink of what matters.

#include <QColor>

namespace ember::theme {

inline const QColor paperGrey{150, 150, 150};     ///< what stands beside, and cutting lines
inline const QColor paperPaleGrey{200, 200, 200}; ///< what is only there for orientation

} // namespace ember::theme
