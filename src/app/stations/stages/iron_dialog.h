#pragma once
// An output transformer from readings on the bench, or an unknown one: what it is likely to be made for.

#include "app/document/document.h"

#include "core/plan/measured_iron.h"

#include <QDialog>

#include <map>

class QComboBox;
class QLabel;
class QLineEdit;
class QPushButton;
class QStackedWidget;
class QTableWidget;

namespace ember::app {

class UnknownIronView;

class IronDialog : public QDialog {
    Q_OBJECT
  public:
    /// `pointer`: of a stage's part that is a transformer; `pushPull`: its primary has two halves.
    IronDialog(Document& document, const std::string& pointer, bool pushPull, QWidget* parent);

  private:
    void judge();
    [[nodiscard]] Expected<plan::IronReadings> typedReadings() const;
    [[nodiscard]] Expected<plan::MeasuredIron> fromPlate(const OutputTransformer& now) const;
    void list(const plan::MeasuredIron& iron);
    void enable();
    QWidget* plateForm();
    void use();
    [[nodiscard]] const OutputTransformer* iron() const;

    Document& document;
    std::string pointer;
    bool pushPull;
    std::vector<QLineEdit*> fields; ///< as asked
    std::vector<QLineEdit*> plate;  ///< of the nameplate
    QComboBox* wound;
    QTableWidget* values;
    QLabel *notes, *likely;
    QPushButton* take;
    UnknownIronView* unknown;
    QStackedWidget *pages, *asked; ///< `asked`: readings or nameplate, on the first page
    std::optional<plan::MeasuredIron> found;
};

} // namespace ember::app
