#pragma once
// A table into which a valve's readings are typed, a row for each.

#include "core/base/result.h"
#include "core/build/stage.h"
#include "core/catalogue/catalogue.h"

#include <QTableWidget>

namespace ember::app {

class ReadingRows : public QTableWidget {
    Q_OBJECT
  public:
    explicit ReadingRows(QWidget* parent = nullptr);
    /// Columns as the type needs them: a screen's, and the section's number.
    void suit(const ValveType& type);
    void fill(const std::vector<ReadPoint>& points);
    /// Rows that have a current. A Problem names the row and the column; a number without a unit is in V or mA.
    [[nodiscard]] Expected<std::vector<ReadPoint>> typed() const;
    /// Beside each such row how far the model is off it; empty: nothing.
    void showErrors(const std::vector<double>& errors);

  Q_SIGNALS:
    void edited();

  private:
    bool filling = false;
};

/// "4.2 %"
QString percent(double share);

} // namespace ember::app
