#pragma once
// The wiring on paper: a picture of each wire from below, then labels for both ends of each.

#include "core/base/result.h"
#include "core/wires/harness.h"

#include <QString>

namespace ember::app {

/// A4: six wires a page in the order of work, each lit on the turned-over chassis; then labels of 38 x 14 mm to fold
/// about the ends. Returns the number of pages.
Expected<int> writeWiringPdf(const Build& build, const wires::Harness& harness, const QString& file);

} // namespace ember::app
