#pragma once
// A table into which a valve's readings are typed, a row for each.

#include "app/widgets/number_rows.h"
#include "core/build/stage.h"
#include "core/catalogue/catalogue.h"

namespace ember::app {

class ReadingRows : public NumberRows {
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
};

} // namespace ember::app
