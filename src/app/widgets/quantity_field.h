#pragma once
// A number where it is drawn: reads what people write, steps the standard series, says what was wrong in a sentence.

#include "core/build/build_json.h"

#include <QLineEdit>

namespace ember::app {

class QuantityField : public QLineEdit {
    Q_OBJECT
  public:
    explicit QuantityField(QWidget* parent = nullptr);
    /// Shows `value`; while the user types nothing is overwritten.
    void show(const Place& place);
    void setSteps(Series coarse, Series fine) { coarseSteps = coarse, fineSteps = fine; }
    [[nodiscard]] QString problem() const { return wrong; }

  Q_SIGNALS:
    void entered(double value);
    void refused(const QString& sentence); ///< empty when all is well again

  protected:
    void keyPressEvent(QKeyEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;

  private:
    void take();
    void refuse(const QString& sentence);
    Place place;
    Series coarseSteps = Series::E12, fineSteps = Series::E96;
    QString wrong;
    bool touched = false;
};

} // namespace ember::app
