#pragma once
// The readings of a stage of First Power: what is expected, what was read, the verdict.

#include "core/build/build.h"
#include "core/procedure/first_power.h"

#include <QTableWidget>

namespace ember::app {

/// The colour that a verdict is written in.
QColor verdictColour(const LogEntry* reading);

class ReadingTable : public QTableWidget {
    Q_OBJECT
  public:
    explicit ReadingTable(QWidget* parent = nullptr);
    void fill(const procedure::PowerStage& stage, const Build& build, procedure::Strand strand);
};

} // namespace ember::app
