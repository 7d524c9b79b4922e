#pragma once
// A valve type that the catalogue does not list: typed from its sheet or read from a file, fitted while it is typed.

#include "app/document/document.h"

#include "app/widgets/clock.h"
#include "core/build/own_types.h"

#include <QDialog>

#include <memory>

class QCheckBox;
class QComboBox;
class QLabel;
class QLineEdit;
class QPushButton;

namespace ember::app {

class NumberRows;
class ValveSheet;

class OwnTypeDialog : public QDialog {
    Q_OBJECT
  public:
    /// `changing`: one of the build's own types; empty: a new one.
    OwnTypeDialog(Document& document, const std::string& changing, QWidget* parent);
    [[nodiscard]] std::string type() const { return kept; } ///< its name once it was kept; else empty
    /// Replaces the points by those of a file.
    void load(const QString& path);

  private:
    void fill(const OwnType& type);
    [[nodiscard]] Expected<OwnType> typed() const;
    void judge();
    void keep();
    [[nodiscard]] QString wordsFor(const OwnType& type, const ValveType& fitted) const;

    Document& document;
    std::string before, kept;
    QLineEdit *name, *source;
    QComboBox *kind, *halves, *pins, *system;
    QCheckBox* filament;
    std::vector<QLineEdit*> fields;
    NumberRows* points;
    ValveSheet* sheet;
    QLabel* verdict;
    QPushButton* take;
    Timer pause; ///< between the last key and the fit
    std::unique_ptr<const ValveType> shown;
};

} // namespace ember::app
