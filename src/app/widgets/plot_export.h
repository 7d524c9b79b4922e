#pragma once
// A chart as a file.

#include "core/base/result.h"

#include <QString>

class QCustomPlot;

namespace ember::app {

/// By the ending: .png twice as fine as the screen, .svg, or .csv, which is `table`.
Expected<Done> exportPlot(QCustomPlot& plot, const QString& file, const std::string& table);

} // namespace ember::app
