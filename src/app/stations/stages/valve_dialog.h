#pragma once
// A valve chosen from the catalogue by search, its figures beside it.

#include "core/catalogue/catalogue.h"

#include <QDialog>

class QLineEdit;
class QTableWidget;

namespace ember::app {

class ValveSheet;

class ValveDialog : public QDialog {
    Q_OBJECT
  public:
    /// `now`: the type that is in the socket.
    ValveDialog(const std::string& now, QWidget* parent);
    [[nodiscard]] std::string type() const; ///< chosen; empty: none

  private:
    void fill();
    QLineEdit* search;
    QTableWidget* table;
    ValveSheet* sheet;
};

} // namespace ember::app
