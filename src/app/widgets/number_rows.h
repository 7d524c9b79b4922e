#pragma once
// A table into which rows of quantities are typed; it grows by a row when its last one is begun.

#include "core/base/result.h"
#include "core/quantity/quantity.h"

#include <QTableWidget>

#include <span>
#include <string>
#include <vector>

namespace ember::app {

/// A column's head and what a number without a unit is in.
struct NumberColumn {
    const char* head;
    Unit unit;
    double bare;        ///< of the unit
    bool names = false; ///< holds words and no number
};

/// A row in which something is typed.
struct NumberRow {
    std::vector<double> values;     ///< of each column, NaN where its cell is empty
    std::vector<std::string> names; ///< of each column, empty where it holds a number
};

class NumberRows : public QTableWidget {
    Q_OBJECT
  public:
    /// One more column than `columns`, at the right, is not typed into: `remarks`.
    NumberRows(std::span<const NumberColumn> columns, const char* remarks, QWidget* parent = nullptr);
    /// NaN leaves a cell empty.
    void fillRows(const std::vector<std::vector<double>>& rows);
    /// Ohms may be "open": infinite. A Problem names the row and the column.
    [[nodiscard]] Expected<std::vector<NumberRow>> typedRows() const;
    /// In the last column, one for each typed row that holds something in `column`.
    void showRemarks(const QStringList& remarks, int column);

  Q_SIGNALS:
    void edited();

  private:
    [[nodiscard]] QString cell(int row, int column) const;
    std::span<const NumberColumn> columns;
    bool filling = false;
};

/// What was typed [SI]; a number without a unit is in `bare` of it. The comma counts as a point.
Expected<double> parseTyped(const QString& words, Unit unit, double bare);

/// "4.2 %"
QString percent(double share);

} // namespace ember::app
