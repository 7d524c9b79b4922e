#pragma once
// A valve chosen by search from the catalogue and the build's own types, its figures beside it.

#include "app/document/document.h"
#include "core/catalogue/catalogue.h"

#include <QDialog>

class QLabel;
class QLineEdit;
class QPushButton;
class QTableWidget;

namespace ember::app {

class ValveSheet;

class ValveDialog : public QDialog {
    Q_OBJECT
  public:
    /// `now`: the type that is in the socket.
    ValveDialog(Document& document, const std::string& now, QWidget* parent);
    [[nodiscard]] std::string type() const; ///< chosen; empty: none

  private:
    void fill();
    void choose(const std::string& type);
    void describe(const std::string& changing); ///< a type of the builder's own
    void remove();
    Document& document;
    QLineEdit* search;
    QTableWidget* table;
    ValveSheet* sheet;
    QPushButton *change, *away;
    QLabel* said;
};

} // namespace ember::app
