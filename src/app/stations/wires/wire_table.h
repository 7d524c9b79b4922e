#pragma once
// A plain table of the wire stations: heads, rows of words, a verdict's colour; rows are known by an id.

#include "app/theme/theme.h"

#include <QTableWidget>

#include <set>

namespace ember::app {

struct WireRow {
    QString id;
    QStringList cells;
    int column = -1; ///< that carries the verdict
    bool good = true;
};

class WireTable : public QTableWidget {
    Q_OBJECT
  public:
    /// `figures`: columns that are numbers.
    WireTable(const QString& called, const QStringList& heads, std::set<int> figures, QWidget* parent = nullptr);
    void show(const std::vector<WireRow>& rows); ///< the current row stays on its id
    [[nodiscard]] QString currentId() const;
    void select(const QString& id);

  Q_SIGNALS:
    void moved(const QString& id);

  private:
    std::set<int> numbers;
};

} // namespace ember::app
