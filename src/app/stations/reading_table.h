#pragma once
// The readings of a stage of First Power: what is expected, what was read, the verdict.

#include "core/build/build.h"
#include "core/procedure/first_power.h"

#include <QTableWidget>

namespace ember::app {

/// "305 V to 321 V", or "100 kΩ or more".
QString bandText(const procedure::Expectation& expectation);
/// The colour that a verdict is written in.
QColor verdictColour(const LogEntry* reading);
/// The newest reading of a point at a stage that was not struck out, or nullptr.
const LogEntry* lastReading(const Build& build, int stage, const std::string& point);

class ReadingTable : public QTableWidget {
    Q_OBJECT
  public:
    explicit ReadingTable(QWidget* parent = nullptr);
    /// Returns whether every reading is in range or explained in words.
    bool fill(const procedure::Stage& stage, const Build& build);
};

} // namespace ember::app
