#pragma once
// The keys of the whole program, as the sheet under "?" shows them.

#include <QString>

namespace ember::app {

QString shortcutsTable(); ///< rich text

} // namespace ember::app
