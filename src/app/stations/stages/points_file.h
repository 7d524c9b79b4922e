#pragma once
#include "core/catalogue/points_text.h"

#include <QString>

namespace ember::app {

/// A valve's points from a file of at most 20 MB; a Problem names the file.
Expected<PointsRead> pointsFromFile(const QString& path);

} // namespace ember::app
