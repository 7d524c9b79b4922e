#pragma once
// A valve chosen from the catalogue by search, its figures beside it.

#include "core/catalogue/catalogue.h"

#include <QDialog>

class QLineEdit;
class QTableWidget;

namespace ember::app {

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
};

} // namespace ember::app
