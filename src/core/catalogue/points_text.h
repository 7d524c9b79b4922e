#pragma once
// A valve's points as somebody has them: typed from a sheet, or a curve tracer's table.

#include "published.h"

#include "core/base/result.h"

#include <string_view>

namespace ember {

/// Points of one valve and what kind they speak of: a pentode's have a screen.
struct PointsRead {
    PublishedData data;
    bool pentode = false;
};

/// From JSON (the catalogue's "published" object, with "kind" beside it) or from a table of separated columns with
/// heads
/// ("Va [V]; Vg; Ia (mA)"): comma, semicolon or tab; the decimal comma with a semicolon or a tab; units from the heads
/// (V, mA, uA, A). At most 20,000 rows; more than 60 are thinned evenly to 60. Errors name the line.
Expected<PointsRead> pointsFromText(std::string_view text);

} // namespace ember
